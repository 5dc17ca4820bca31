"""The command line: what it prints, its exit codes, one line for every error, and that it needs no Qt."""

from __future__ import annotations

import io
import json
import subprocess
import sys

import cv2
import numpy as np
import pytest

from helpers import coded, read_png, speckled, write_png
from nimble_quake.cli.main import COMMANDS, main
from nimble_quake.motion.kinds import Formula
from nimble_quake.operators.registry import registry
from nimble_quake.samples import reels, sample_path, samples
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

SHOT = str(sample_path("lantern-row"))


def run(capsys, *arguments: object) -> tuple[int, str, str]:
    code = main([str(argument) for argument in arguments])
    told = capsys.readouterr()
    return code, told.out, told.err


def test_frame_and_render(capsys, tmp_path):
    code, out, _ = run(capsys, "frame", SHOT, 40, "-o", tmp_path / "f.png", "--size", "25%")
    assert code == 0
    assert out.strip() == str(tmp_path / "f.png")
    assert read_png(tmp_path / "f.png").shape == (180, 320, 4)
    code, out, _ = run(capsys, "render", SHOT, "-o", tmp_path / "r.mp4", "--frames", "10-13", "--size", "25%")
    assert code == 0
    assert cv2.VideoCapture(str(tmp_path / "r.mp4")).get(cv2.CAP_PROP_FRAME_COUNT) == 4
    code, out, _ = run(
        capsys,
        "render",
        SHOT,
        "-o",
        tmp_path / "m_##.png",
        "--frames",
        "3-4",
        "--what",
        "map:heat-columns",
        "--size",
        "10%",
        "--deep",
    )
    assert code == 0
    assert "2 pictures" in out
    assert read_png(tmp_path / "m_04.png").dtype == np.uint16


def test_displace_is_the_w3c_formula(capsys, tmp_path):
    """Flat white red channel, reach 10: feDisplacementMap with scale 20 moves the picture 10 px left."""
    picture, white = write_png(tmp_path / "p.png", coded(100, 60)), np.full((60, 100, 4), 255, np.uint8)
    white[..., 1] = 128
    map = write_png(tmp_path / "m.png", white)
    code, _, err = run(capsys, "displace", picture, map, "-o", tmp_path / "o.png", "--reach", 10, "--rest", 0.5)
    assert (code, err) == (0, "")
    out = read_png(tmp_path / "o.png")
    assert out[30, 50, 0] == 60
    assert not out[30, 95].any()
    run(
        capsys,
        "displace",
        picture,
        map,
        "-o",
        tmp_path / "o.png",
        "--reach",
        10,
        "--edge",
        "wrap",
        "--filter",
        "nearest",
        "--reach-y",
        0,
        "--rest",
        0.5,
    )
    assert np.array_equal(read_png(tmp_path / "o.png")[..., 0], np.roll(coded(100, 60), -10, axis=1)[..., 0])


def test_displace_a_clip(capsys, tmp_path):
    clip = sample_path().parent / "media" / "rain.mp4"  # type: ignore[union-attr]
    map = write_png(tmp_path / "m.png", speckled(64, 36))
    code, _out, _ = run(capsys, "displace", map, clip, "-o", tmp_path / "o.webm", "--reach", 5)
    assert code == 0
    assert cv2.VideoCapture(str(tmp_path / "o.webm")).get(cv2.CAP_PROP_FRAME_WIDTH) == 64


def test_list_and_schema(capsys):
    code, out, _ = run(capsys, "list", "--json")
    listed = json.loads(out)
    assert code == 0
    assert {op["kind"] for op in listed} == {op.kind for op in registry().all()}
    assert all({"name", "kind", "default", "help"} <= set(param) for op in listed for param in op["parameters"])
    assert "octaves" in run(capsys, "list", "noise")[1]
    printed = run(capsys, "schema")[1]
    assert json.loads(printed)["title"] == "Nimble Quake shot"
    assert len(printed) < 1_000_000, "what occurs in many places is defined once"


def test_check(capsys, tmp_path):
    assert "good (1280 x 720, 24 fps, 144 frames" in run(capsys, "check", SHOT)[1]
    bad = tmp_path / "bad.nquake"
    bad.write_text('{"nimble_quake": 1, "width": 0, "length": 0}')
    code, _, err = run(capsys, "check", bad)
    assert code == 2
    assert len(err.splitlines()) == 2
    lost = tmp_path / "lost.nquake"
    lost.write_text('{"nimble_quake": 1, "plates": [{"id": "s", "kind": "still", "values": {"file": "no.png"}}]}')
    code, _, err = run(capsys, "check", lost)
    assert code == 2
    assert "plates/s: the file is not there" in err


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        (["render"], 2),
        (["render", "none.nquake", "-o", "x.mp4"], 2),
        (["frame", SHOT, "9999", "-o", "x.png"], 2),
        (["frame", SHOT, "0", "-o", "x.txt"], 2),
        (["frame", SHOT, "0", "-o", "/none/x.png"], 2),
        (["frame", SHOT, "x"], 2),
        (["render", SHOT, "-o", "x.avi"], 2),
        (["render", SHOT, "-o", "x.mp4", "--size", "0"], 2),
        (["render", SHOT, "-o", "x.mp4", "--frames", "9-x"], 2),
        (["render", SHOT, "-o", "x.mp4", "--quality", "odd"], 2),
        (["render", SHOT, "-o", "x.mp4", "--what", "map:none"], 2),
        (["list", "nothing"], 2),
        (["demo", "nothing"], 2),
        (["displace", "a.png", "b.png", "-o", "x.png", "--reach", "5"], 2),
        (["check", "/none"], 2),
        (["--nonsense"], 2),
        (["displace", SHOT, SHOT, "-o", "x.png", "--reach", "5", "--edge", "round"], 2),
        (["render", SHOT, "-o", "x.png", "--size", "400%", "--frames", "1", "--what", "sound"], 2),
    ],
)
def test_errors_are_one_line(capsys, tmp_path, monkeypatch, arguments, code):
    monkeypatch.chdir(tmp_path)
    got, _out, err = run(capsys, *arguments)
    assert got == code
    assert len(err.strip().splitlines()) == 1
    assert err.startswith("nimble-quake: ")
    assert "Traceback" not in err
    assert [path.name for path in tmp_path.iterdir() if path.name != "home"] == []


@pytest.mark.parametrize("command", COMMANDS)
def test_help_has_an_example(capsys, command):
    code, out, _ = run(capsys, command, "--help")
    assert code == 0
    assert "Example: nimble-quake" in " ".join(out.split())


def test_works_without_qt(tmp_path):
    """A frame in a process where PyQt6 cannot be imported."""
    script = (
        "import sys; sys.modules['PyQt6'] = None\n"
        "from nimble_quake.cli.main import main\n"
        f"sys.exit(main(['frame', {SHOT!r}, '3', '-o', {str(tmp_path / 'q.png')!r}, '--size', '10%']))"
    )
    subprocess.run([sys.executable, "-c", script], check=True, timeout=120, capture_output=True)
    assert (tmp_path / "q.png").exists()


def test_version(capsys):
    assert run(capsys, "--version")[1].startswith("nimble-quake ")


def test_demo_lists_the_samples(capsys):
    assert main(["demo", "--list"]) == 0
    lines = capsys.readouterr().out.splitlines()
    assert len(lines) == len(samples()) + len(reels())
    assert lines[0].split()[0] == "lantern-row"


@pytest.mark.sampled(12)
@pytest.mark.parametrize("name", samples())
def test_every_sample_renders_by_the_command_line(name, tmp_path):
    """A frame of it, small: no complaint, and something is there."""
    path = sample_path(name)
    assert path is not None
    shot = read_shot(path)
    out = tmp_path / "frame.png"
    size = f"{16000 / shot.width}%"
    assert main(["frame", str(path), str(shot.playhead), "--size", size, "-o", str(out)]) == 0
    found = read_png(out)
    assert found.shape[1] == 160
    assert found[..., :3].std() > 5


def test_check_names_a_sound_that_cannot_be_read(tmp_path, capsys):
    (tmp_path / "no.wav").write_bytes(b"RIFF nonsense")
    sound = Node(id="s", kind="sound", values={"file": str(tmp_path / "no.wav")})
    write_shot(Shot(width=64, height=36, length=3, sounds=(sound,)), tmp_path / "s.nquake")
    assert main(["check", str(tmp_path / "s.nquake")]) == 2
    assert "no.wav" in capsys.readouterr().err


def test_check_names_all_values_without_a_number(tmp_path, capsys):
    plates = tuple(Plate(id=id, kind="text", values={"turn": Formula("1 / 0")}) for id in "ab")
    write_shot(Shot(width=64, height=36, length=3, plates=plates), tmp_path / "s.nquake")
    assert main(["check", str(tmp_path / "s.nquake")]) == 2
    said = capsys.readouterr().err
    assert "plates/a/turn" in said
    assert "plates/b/turn" in said


def test_a_wrong_verb_suggests_the_right_one_and_a_long_list_is_shortened(capsys):
    assert main(["rendr"]) == 2
    assert 'no command "rendr" - did you mean render?' in capsys.readouterr().err
    assert main(["list", "nois"]) == 2
    said = capsys.readouterr().err
    assert 'there is no "nois"' in said, "what was typed is there whole"
    assert "use one of noise" in said
    assert "more" in said


def test_short_help_and_shares_in_per_cent(capsys):
    assert main(["-h"]) == 0
    assert "--version" in capsys.readouterr().out
    assert main(["list", "push"]) == 0
    assert "strength         100 % [-10000 to 10000]" in capsys.readouterr().out


@pytest.mark.parametrize(
    "verb", [["check", "-"], ["frame", "-", "1", "-o", "f.png"], ["render", "-", "-o", "r_##.png"]]
)
def test_a_shot_comes_from_stdin(verb, tmp_path, monkeypatch):
    shot = Shot(width=32, height=18, length=2, plates=(Plate(id="p", kind="fill"),))
    write_shot(shot, tmp_path / "s.nquake")
    monkeypatch.chdir(tmp_path)
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO((tmp_path / "s.nquake").read_bytes())))
    assert main(verb) == 0


def test_rubbish_on_stdin_is_one_line(monkeypatch, capsys):
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(b"rubbish")))
    assert main(["check", "-"]) == 2
    assert "stdin" in capsys.readouterr().err


def test_without_a_display_it_is_one_line(monkeypatch, capsys):
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    assert main([]) == 1
    assert "there is no display" in capsys.readouterr().err


class TestProgress:
    """How far a render is, for people, logs and programs."""

    def render(self, capsys, out, *more: object) -> tuple[int, str, str]:
        return run(capsys, "render", SHOT, "-o", out, "--frames", "0-19", "--size", "5%", *more)

    def test_as_json_each_line_is_an_object(self, capsys, tmp_path):
        code, out, err = self.render(capsys, tmp_path / "a.mp4", "--progress", "json")
        told = [json.loads(line) for line in err.splitlines()]
        done = [each["done"] for each in told if "done" in each]
        assert (code, done[-1]) == (0, 20)
        assert done == sorted(done)
        assert all(each["total"] == 20 for each in told if "done" in each)
        assert out.strip().endswith("a.mp4")

    def test_a_log_gets_a_line_at_every_tenth(self, capsys, tmp_path):
        _, _, err = self.render(capsys, tmp_path / "a.mp4")
        lines = [line for line in err.splitlines() if line.startswith("a.mp4: ")]
        assert 1 <= len(lines) <= 11
        assert lines[-1] == "a.mp4: 20 of 20 frames"

    @pytest.mark.parametrize("more", [("--quiet",), ("-q",)])
    def test_quiet_says_nothing(self, capsys, tmp_path, more):
        assert self.render(capsys, tmp_path / "a.mp4", *more) == (0, "", "")
        assert (tmp_path / "a.mp4").exists()
        assert run(capsys, "frame", SHOT, 3, "-o", tmp_path / "f.png", "--size", "5%", *more) == (0, "", "")

    def test_another_way_is_refused_before_anything_is_written(self, capsys, tmp_path):
        code, _, err = self.render(capsys, tmp_path / "a.mp4", "--progress", "jsno")
        assert code == 2
        assert "use one of json" in err
        assert list(tmp_path.iterdir()) == []


class TestNoClobber:
    def test_a_file_that_is_there_stays(self, capsys, tmp_path):
        (tmp_path / "a.mp4").write_bytes(b"mine")
        (tmp_path / "s_0001.png").write_bytes(b"mine")
        code, _, err = run(capsys, "render", SHOT, "-o", tmp_path / "a.mp4", "--no-clobber")
        assert (code, "a.mp4 is there already" in err) == (2, True)
        code, _, err = run(capsys, "render", SHOT, "-o", tmp_path / "s_####.png", "--frames", "0-2", "--no-clobber")
        assert (code, "s_0001.png is there already" in err) == (2, True)
        code, _, err = run(capsys, "frame", SHOT, 1, "-o", tmp_path / "s_0001.png", "--no-clobber")
        assert (code, "is there already" in err) == (2, True)
        assert {file.name: file.read_bytes() for file in tmp_path.iterdir()} == {
            "a.mp4": b"mine",
            "s_0001.png": b"mine",
        }

    def test_what_is_not_there_is_written(self, capsys, tmp_path):
        (tmp_path / "s_0009.png").write_bytes(b"mine")
        more = ("--frames", "0-1", "--size", "5%", "--no-clobber")
        assert run(capsys, "render", SHOT, "-o", tmp_path / "s_####.png", *more)[0] == 0
        assert sorted(file.name for file in tmp_path.iterdir()) == ["s_0000.png", "s_0001.png", "s_0009.png"]


@pytest.mark.parametrize(("name", "kind"), [("a.tiff", b"II*\0"), ("a.jpeg", b"\xff\xd8\xff")])
def test_both_endings_of_a_kind_are_written(capsys, tmp_path, name, kind):
    assert run(capsys, "frame", SHOT, 3, "-o", tmp_path / name, "--size", "5%")[0] == 0
    assert (tmp_path / name).read_bytes().startswith(kind)
