"""What is made of the command line's declarations: the manual page, completion; and what the desktop is given."""

from __future__ import annotations

import os
import pty
import select
import shutil
import subprocess
import sys
import time
import xml.etree.ElementTree as ET
from pathlib import Path

import cv2
import pytest

from nimble_quake.cli.completion import SHELLS
from nimble_quake.cli.declared import commands
from nimble_quake.cli.main import COMMANDS, main
from nimble_quake.cli.manual import page
from nimble_quake.cli.progress import WAYS
from nimble_quake.export.formats import formats
from nimble_quake.sources.picture import PictureSource

TOOLS = Path(__file__).parents[2] / "tools"


def test_the_manual_page_has_every_command_and_option():
    """man-pages(7): sections in order; a hyphen that is a minus is written as \\-."""
    text = page()
    heads = [line[4:] for line in text.splitlines() if line.startswith(".SH ")]
    assert heads == ["NAME", "SYNOPSIS", "DESCRIPTION", "COMMANDS", "EXIT STATUS", "ENVIRONMENT"]
    assert {command.name for command in commands()} == set(COMMANDS)
    for command in commands():
        part = text.split(f".SS {command.name}")[1].split(".SS ")[0]
        for option in command.options:
            assert option.help, f"{command.name} {option.names} says nothing"
            assert all(name.replace("-", r"\-") in part for name in option.names)


@pytest.mark.skipif(shutil.which("man") is None, reason="man is not installed here; its own check of the page")
def test_man_reads_the_page_without_a_warning(tmp_path):
    (tmp_path / "n.1").write_text(page(), encoding="utf-8")
    environment = {**os.environ, "MANWIDTH": "100", "LC_ALL": "C.UTF-8"}
    words = ["man", "--warnings", "-l", str(tmp_path / "n.1")]
    found = subprocess.run(words, capture_output=True, text=True, env=environment, check=True)
    assert found.stderr == ""
    assert "--queue" in found.stdout


@pytest.fixture(scope="module")
def complete(tmp_path_factory):
    """What bash offers for words typed so far."""
    script = tmp_path_factory.mktemp("bash") / "script"
    script.write_text(SHELLS["bash"]())

    def complete(*words: str) -> list[str]:
        typed = " ".join(f"'{word}'" for word in ("nimble-quake", *words))
        text = f"source {script}; COMP_WORDS=({typed}); COMP_CWORD={len(words)}; _nimble_quake; "
        shell = ["bash", "-c", text + 'printf "%s\\n" "${COMPREPLY[@]}"']
        found = subprocess.run(shell, capture_output=True, text=True, check=True, cwd=script.parent)
        return found.stdout.splitlines()

    complete.folder = script.parent  # type: ignore[attr-defined]
    return complete


def test_bash_completes_commands_options_and_values(complete):
    assert complete("re") == ["render"]
    assert set(complete("")) >= set(COMMANDS)
    assert complete("render", "a.nquake", "--qu") == ["--quality", "--queue", "--quiet"]
    assert complete("render", "a.nquake", "--quality", "g") == ["good"]
    assert complete("render", "a.nquake", "--progress", "") == list(WAYS)
    assert set(complete("displace", "a.png", "b.png", "--fit", "")) == {
        option.value for option in PictureSource.fit.options
    }
    assert set(complete("render", "--format", "")) == {format.key for format in formats()}
    assert complete("render", "scr") == ["script"]
    assert {"picture", "map:", "st:"} <= set(complete("render", "a.nquake", "--what", ""))
    assert complete("demo", "shock") == ["shockwave"]
    assert complete("list", "qua") == ["quake"]
    assert complete("displace", "a.png", "b.png", "--x-from", "lum") == ["luminance"]


def test_bash_offers_files_where_a_file_goes_and_nothing_where_none_does(complete):
    folder = complete.folder
    (folder / "my shot.nquake").touch()
    assert complete("render", "my") == ["my shot.nquake"]
    assert complete("render", "my\\ sh") == ["my shot.nquake"]
    assert "my shot.nquake" in complete("render", "")
    assert complete("render", "a.nquake", "-o", "my") == ["my shot.nquake"]
    assert complete("render", "a.nquake", "--frames", "") == [""]
    assert not any(word.startswith("-") for word in complete("render", ""))


@pytest.mark.skipif(shutil.which("zsh") is None, reason="there is no zsh here")
@pytest.mark.parametrize(
    ("typed", "wanted"),
    [("displ", "displace "), ("render my", "render my\\ shot.nquake "), ("demo shockw", "demo shockwave ")],
)
def test_zsh_completes_at_the_first_key(tmp_path, typed, wanted):
    """As a file of its path: a new shell, in a terminal of its own, is typed into."""
    (tmp_path / "_nimble-quake").write_text(SHELLS["zsh"]())
    (tmp_path / "my shot.nquake").touch()
    child, terminal = pty.fork()
    if child == 0:
        os.chdir(tmp_path)
        os.execvpe("zsh", ["zsh", "-f"], {**os.environ, "TERM": "dumb", "PROMPT": "> "})
    begin = f"fpath=({tmp_path} $fpath); autoload -U compinit; compinit -D -u; unsetopt BEEP; print rea''dy\n"
    os.write(terminal, begin.encode())
    _until(terminal, "ready")
    os.write(terminal, f"nimble-quake {typed}\t".encode())
    _until(terminal, f"nimble-quake {wanted}")
    os.close(terminal)
    os.waitpid(child, 0)


def _until(terminal: int, words: str) -> None:
    """Read what a shell shows until it has shown this; a minute at most."""
    shown, gone = "", time.monotonic() + 60
    while words not in shown:
        ready, _, _ = select.select([terminal], [], [], max(0.0, gone - time.monotonic()))
        assert ready, shown
        shown += os.read(terminal, 65536).decode(errors="replace")


@pytest.mark.parametrize("shell", ["zsh", "fish"])
def test_other_shells_read_their_script(shell, tmp_path, capsys):
    assert main(["completion", shell]) == 0
    script = tmp_path / "script"
    script.write_text(capsys.readouterr().out)
    assert "render" in script.read_text()
    if shutil.which(shell) is not None:
        subprocess.run([shell, "-n", str(script)], check=True)


def test_no_completion_for_other_shells(capsys):
    assert main(["completion", "tube"]) == 2
    assert "use bash, zsh or fish" in capsys.readouterr().err


def test_the_desktop_is_given_all_and_it_is_taken_away_again(tmp_path):
    """Icon Theme and Shared MIME-info specifications (freedesktop.org): files by their places; icons by their sizes."""
    home = tmp_path / "someone"
    environment = {**os.environ, "XDG_DATA_HOME": str(tmp_path), "HOME": str(home)}
    bin, install = Path(sys.executable).parent, ["sh", str(TOOLS / "install-desktop.sh")]
    told = subprocess.run([*install, str(bin)], env=environment, check=True, capture_output=True, text=True).stdout
    command = home / ".local" / "bin" / "nimble-quake"
    assert command.readlink() == bin / "nimble-quake"
    assert f"Your PATH lacks {command.parent}" in told
    entry = (tmp_path / "applications" / "nimble-quake.desktop").read_text()
    assert f"Exec={bin}/nimble-quake %f" in entry
    for size in (16, 22, 24, 32, 48, 64, 128, 256, 512):
        icon = cv2.imread(str(tmp_path / f"icons/hicolor/{size}x{size}/apps/nimble-quake.png"), cv2.IMREAD_UNCHANGED)
        assert icon.shape == (size, size, 4)
        assert icon[..., 3].max() > 200
    about = ET.parse(tmp_path / "metainfo" / "nimble-quake.metainfo.xml").getroot()
    assert about.findtext("launchable") == "nimble-quake.desktop"
    assert str(about.findtext("id")).count(".") >= 2, "AppStream: a domain turned round"
    kinds = ET.parse(tmp_path / "mime" / "packages" / "nimble-quake.xml").getroot()
    assert about.findtext("provides/mediatype") == kinds[0].get("type")
    assert (tmp_path / "man" / "man1" / "nimble-quake.1").read_text() == page()
    subprocess.run([*install, "--remove"], env=environment, check=True, capture_output=True)
    assert [file for file in tmp_path.rglob("*nimble-quake*") if file.is_file() or file.is_symlink()] == []
    command.write_text("of somebody else")
    within = {**environment, "PATH": f"{os.environ['PATH']}:{command.parent}"}
    quick = tmp_path / "bin"  # what is written does not matter any more
    quick.mkdir()
    for name in ("python", "nimble-quake"):
        (quick / name).write_text("#!/bin/sh\n")
        (quick / name).chmod(0o755)
    told = subprocess.run([*install, str(quick)], env=within, check=True, capture_output=True, text=True).stdout
    assert "is something else and stays" in told
    assert "PATH" not in told
    subprocess.run([*install, "--remove"], env=environment, check=True, capture_output=True)
    assert command.read_text() == "of somebody else"
