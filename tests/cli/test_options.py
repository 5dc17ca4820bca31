"""What several commands take alike: how they write, what they say, and on how many threads."""

from __future__ import annotations

import json

import numpy as np
import pytest

from helpers import coded, read_png, write_png
from nimble_quake.cli.declared import commands
from nimble_quake.cli.main import main
from nimble_quake.raster.threads import rows
from nimble_quake.samples import sample_path

SHOT = str(sample_path("lantern-row"))
ALIKE = {
    *("--size", "--deep", "--format", "--quality", "--alpha", "--dither", "--limit", "--overscan", "--threads"),
    *("--json", "--progress", "--quiet", "--no-clobber"),
}
"""What everything that writes a picture takes."""
SAYS_NOTHING_TO_PROGRAMS = {"open", "demo", "manual", "completion", "schema"}
"""These open a window, or print what is for programs already."""


@pytest.fixture(autouse=True)
def _threads(monkeypatch):
    monkeypatch.setattr(rows, "THREADS", rows.THREADS)


def test_what_writes_pictures_takes_the_same_options():
    taken = {command.name: {name for option in command.options for name in option.names} for command in commands()}
    for name in ("render", "frame", "displace"):
        assert ALIKE - taken[name] == set(), name
    for name in taken.keys() - SAYS_NOTHING_TO_PROGRAMS:
        assert "--json" in taken[name], name


@pytest.fixture
def pushed(tmp_path):
    """The words of a command that pushes a small still."""
    picture = write_png(tmp_path / "p.png", coded(60, 40))
    map = write_png(tmp_path / "m.png", coded(60, 40))
    return ["displace", str(picture), str(map), "--reach", "5", "-o"]


@pytest.mark.parametrize("name", ["out.png", "out.tif", "out.webp", "out.jpg", "out.exr"])
def test_a_still_is_written_as_any_picture(pushed, tmp_path, capsys, name):
    assert main([*pushed, str(tmp_path / name), "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["files"] == [str(tmp_path / name)]
    assert said["frames"] == 1
    assert (tmp_path / name).stat().st_size > 100


def test_frame_and_displace_write_as_render_does(pushed, tmp_path, capsys):
    assert main([*pushed, str(tmp_path / "half.png"), "--size", "50%", "--quiet"]) == 0
    assert read_png(tmp_path / "half.png").shape[:2] == (20, 30)
    assert main([*pushed, str(tmp_path / "half.png"), "--no-clobber"]) == 2
    assert "half.png is there already" in capsys.readouterr().err
    assert main(["frame", SHOT, "9", "-o", str(tmp_path / "f.png"), "--size", "20%", "--limit", "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["format"] == "png"
    limited = read_png(tmp_path / "f.png")[..., :3]
    assert limited.min() >= 16
    assert limited.max() <= 235
    assert main(["frame", SHOT, "9", "-o", str(tmp_path / "f.jpg"), "--quality", "odd"]) == 2
    assert "--quality" in capsys.readouterr().err


def test_a_clip_is_pushed_over_a_range(tmp_path, capsys):
    clip, map = (
        str(sample_path("lantern-row").parent / "media" / "stall.mp4"),
        write_png(tmp_path / "m.png", coded(60, 40)),
    )
    out = tmp_path / "o_##.png"
    words = ["displace", clip, str(map), "--reach", "5", "-o", str(out), "--frames", "4-8", "--every", "2"]
    assert main([*words, "--size", "10%", "--json"]) == 0
    files = json.loads(capsys.readouterr().out)["files"]
    assert [name[-6:-4] for name in files] == ["04", "06", "08"]


def test_threads_change_no_bit(tmp_path, capsys):
    found = []
    for count in (1, 3):
        out = tmp_path / f"{count}.png"
        assert main(["frame", SHOT, "9", "-o", str(out), "--size", "40%", "--threads", str(count), "-q"]) == 0
        assert count == rows.THREADS
        found.append(read_png(out))
    assert np.array_equal(found[0], found[1])
    assert main(["frame", SHOT, "9", "-o", str(out), "--threads", "-1"]) == 2
    assert "-1 threads are not possible" in capsys.readouterr().err


def test_check_and_keys_say_it_as_json(tmp_path, capsys):
    assert main(["check", SHOT, "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert (said["good"], said["problems"], said["width"], said["frames"]) == (True, [], 1280, 144)
    (tmp_path / "bad.nquake").write_text("{")
    assert main(["check", str(tmp_path / "bad.nquake"), "--json"]) == 2
    told = capsys.readouterr()
    said = json.loads(told.out)
    assert not said["good"]
    assert len(said["problems"]) == 1
    assert told.err == ""
    assert main(["farm-keys", str(tmp_path / "keys"), "--json"]) == 0
    files = json.loads(capsys.readouterr().out)["files"]
    assert sorted(files) == sorted(str(path) for path in (tmp_path / "keys").iterdir())
