"""The sample reel and the pack of names; and that a package brings all of what the program reads."""

from __future__ import annotations

import fnmatch
import runpy
import tomllib
from pathlib import Path

import pytest

import nimble_quake
from nimble_quake.cli.main import main
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import REELS, reels, sample_path
from nimble_quake.shot.crossings import CROSSING, strongest
from nimble_quake.shot.paths import plate_path
from nimble_quake.shotfile.codec import encoded
from nimble_quake.shotfile.files import read_shot

ROOT = Path(nimble_quake.__file__).parent
REEL = read_shot(REELS / "market-reel.nquake")


def test_it_is_five_clips_and_four_crossings_on_beats():
    assert reels() == ["market-reel"]
    assert sample_path("market") == REELS / "market-reel.nquake"
    crossings = [plate_path(plate.id) for plate in REEL.plates if plate.kind == CROSSING]
    moments = [strongest(REEL, path) or 0.0 for path in crossings]
    assert len(moments) == 4
    assert all(min(abs(beat - moment) for beat in REEL.beats) <= 0.5 for moment in moments)
    assert sum(plate.kind == "clip" for plate in REEL.plates) == 5


@pytest.mark.parametrize("frame", [0, 44, 52, 96, 143, 191, 239])
def test_it_is_seen_and_says_nothing(frame):
    job = frame_job(Engine(), REEL, frame)
    picture = frame_picture(job, 0.1)
    assert not job.problems
    assert picture[..., 3].min() == 1


def test_it_is_made_again_as_it_is():
    """But for where its files lie."""
    market_reel = runpy.run_path(str(ROOT.parent.parent / "tools" / "make_reel.py"))["market_reel"]
    made, kept = (
        [(plate.kind, plate.start, plate.end, [effect.kind for effect in plate.effects]) for plate in shot.plates]
        for shot in (market_reel(), REEL)
    )
    assert made == kept
    assert encoded(REEL)


def test_ten_names_in_three_sizes(tmp_path, capsys):
    table, out = REELS / "stall-names.csv", tmp_path / "{name}-{size}.mp4"
    assert main(["make", "time-sliced-title", "--table", str(table), "-o", str(out), "--dry-run"]) == 0
    said = capsys.readouterr().out
    assert said.count(".mp4") == 30
    assert "noodles-1080x1920.mp4" in said


def test_a_package_brings_all_that_is_read():
    """What is no module has to be named in pyproject.toml, or an installed program lacks it."""
    config = tomllib.loads((ROOT.parent.parent / "pyproject.toml").read_text())
    globs = config["tool"]["setuptools"]["package-data"]["nimble_quake"]
    files = [path.relative_to(ROOT).as_posix() for path in ROOT.rglob("*") if path.is_file()]
    data = [name for name in files if not name.endswith((".py", ".pyc", ".pyo")) and "__pycache__" not in name]
    assert [name for name in data if not any(fnmatch.fnmatch(name, pattern) for pattern in globs)] == []
