"""What is made of the command line's declarations: the manual page, completion; and what the desktop is given."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
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
        return found.stdout.split()

    return complete


def test_bash_completes_commands_options_and_values(complete):
    assert complete("re") == ["render"]
    assert set(complete("")) == set(COMMANDS)
    assert complete("render", "a.nquake", "--qu") == ["--quality", "--queue", "--quiet"]
    assert complete("render", "a.nquake", "--quality", "g") == ["good"]
    assert complete("render", "a.nquake", "--progress", "") == list(WAYS)
    assert set(complete("displace", "a.png", "b.png", "--fit", "")) == {
        option.value for option in PictureSource.fit.options
    }
    assert set(complete("render", "--format", "")) == {format.key for format in formats()}
    assert complete("render", "scr") == ["script"]


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
    within = {**environment, "PATH": f"{os.environ['PATH']}:{command.parent}"}
    told = subprocess.run([*install, str(bin)], env=within, check=True, capture_output=True, text=True).stdout
    assert "PATH" not in told
    entry = (tmp_path / "applications" / "nimble-quake.desktop").read_text()
    assert f"Exec={bin}/nimble-quake %f" in entry
    for size in (16, 22, 24, 32, 48, 64, 128, 256, 512):
        icon = cv2.imread(str(tmp_path / f"icons/hicolor/{size}x{size}/apps/nimble-quake.png"), cv2.IMREAD_UNCHANGED)
        assert icon.shape == (size, size, 4)
        assert icon[..., 3].max() > 200
    about = ET.parse(tmp_path / "metainfo" / "nimble-quake.metainfo.xml").getroot()
    assert about.findtext("launchable") == "nimble-quake.desktop"
    kinds = ET.parse(tmp_path / "mime" / "packages" / "nimble-quake.xml").getroot()
    assert about.findtext("provides/mediatype") == kinds[0].get("type")
    assert (tmp_path / "man" / "man1" / "nimble-quake.1").read_text() == page()
    subprocess.run([*install, "--remove"], env=environment, check=True, capture_output=True)
    assert [file for file in tmp_path.rglob("*nimble-quake*") if file.is_file() or file.is_symlink()] == []
    command.write_text("of somebody else")
    told = subprocess.run([*install, str(bin)], env=environment, check=True, capture_output=True, text=True).stdout
    assert "is something else and stays" in told
    subprocess.run([*install, "--remove"], env=environment, check=True, capture_output=True)
    assert command.read_text() == "of somebody else"
