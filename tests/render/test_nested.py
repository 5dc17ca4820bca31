"""A shot file as a medium: the same frames as the shot itself, at a rate of its own; its maps; loops are refused."""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from helpers import rendered, speckled, write_png
from nimble_quake.errors import SaveFailed
from nimble_quake.farm.media import items_of
from nimble_quake.media.pool import MediaPool
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.collected import collect, collection
from nimble_quake.shotfile.files import read_shot, write_shot
from nimble_quake.shotfile.starter_file import About, write_starter

W, H = 96, 54


def moving_shot(tmp_path: Path, rate: int = 24, name: str = "inner") -> tuple[Shot, Path]:
    """A disc that crosses a still in two seconds, pushed by a noise; saved."""
    still = write_png(tmp_path / f"{name}.png", speckled(W, H))
    along = Keys((Key(frame=0.0, value=(0.0, 27.0), after="straight"), Key(frame=2.0 * rate, value=(96.0, 27.0))))
    quake = Node(id="q", kind="push", values={"map": "n", "reach_x": 6.0})
    plates = (
        Plate(id="d", kind="shape", values={"width": 20.0, "height": 20.0, "position": along}),
        Plate(id="s", kind="still", values={"file": str(still)}, effects=(quake,)),
    )
    noise = Node(id="n", kind="noise", values={"size_x": 30.0, "size_y": 20.0, "churn": 1.0})
    maps = (Map(id="n", name="Haze", recipe=(noise,)),)
    shot = Shot(width=W, height=H, rate=Fraction(rate), length=2 * rate, plates=plates, maps=maps)
    write_shot(shot, tmp_path / f"{name}.nquake")
    return shot, tmp_path / f"{name}.nquake"


def showing(file: Path, rate: int = 24, **values: object) -> Shot:
    plate = Plate(id="p", kind="clip", values={"file": str(file), **values})
    return Shot(width=W, height=H, rate=Fraction(rate), length=4 * rate, plates=(plate,))


@pytest.mark.parametrize(("rate", "frame", "inner"), [(24, 0, 0), (24, 17, 17), (48, 34, 17), (12, 5, 10), (24, 53, 5)])
def test_its_frames_are_those_of_the_shot_itself(tmp_path, rate, frame, inner):
    """By time, at another rate too; after its end it begins again, as a clip does."""
    shot, file = moving_shot(tmp_path)
    assert np.abs(rendered(showing(file, rate), frame) - rendered(shot, inner)).max() < 1e-5


def test_half_size_is_the_full_frame_made_smaller(tmp_path):
    _, file = moving_shot(tmp_path)
    job = frame_job(Engine(), showing(file), 9)
    whole, half = frame_picture(job), frame_picture(job, 0.5)
    smaller = whole.reshape(H // 2, 2, W // 2, 2, 4).mean(axis=(1, 3))
    assert np.abs(half - smaller).mean() < 0.02


def test_one_of_its_maps_by_name_as_a_plate_and_as_a_map(tmp_path):
    shot, file = moving_shot(tmp_path)
    wanted = map_field(frame_job(Engine(), shot, 11), shot.maps[0], frame_grid(W, H, 1.0))[..., 0]
    seen = rendered(showing(file, layer="Haze"), 11)
    assert np.abs(seen[..., 0] - wanted).max() < 1e-5
    step = Node(id="f", kind="picture", values={"file": str(file), "layer": "n", "fit": "stretch"})
    outer = Shot(width=W, height=H, length=48, maps=(Map(id="m", recipe=(step,)),), rate=Fraction(24))
    got = map_field(frame_job(Engine(), outer, 11), outer.maps[0], frame_grid(W, H, 1.0))[..., 0]
    assert np.abs(got - wanted).max() < 1e-4


def problems(shot: Shot) -> list[str]:
    job = frame_job(Engine(), shot, 0)
    job.tolerant = True
    frame_picture(job)
    return [problem.line() for problem in job.problems.values()]


def test_a_map_that_is_not_there_is_said_with_those_that_are(tmp_path):
    _, file = moving_shot(tmp_path)
    assert any('no map "Fog"' in line and "Haze" in line for line in problems(showing(file, layer="Fog")))


def test_a_shot_that_shows_itself_is_refused(tmp_path):
    """By way of another one, too; what lies around is shown, and one line says which file."""
    one, two = tmp_path / "one.nquake", tmp_path / "two.nquake"
    write_shot(showing(two), one)
    write_shot(showing(one), two)
    found = problems(showing(one))
    assert any("this shot shows itself" in line for line in found)
    write_shot(showing(one), one)
    assert any("this shot shows itself" in line for line in problems(showing(one)))


@pytest.mark.parametrize(
    "content", [b"", b"{}", b'{"nimble_quake": 99}', b"\x00" * 400, b'{"nimble_quake": 2, "width": -1}']
)
def test_one_that_cannot_be_read_is_one_line(tmp_path, content):
    file = tmp_path / "bad.nquake"
    file.write_bytes(content)
    found = problems(showing(file))
    assert len(found) == 1
    assert "\n" not in found[0]
    assert "bad.nquake" in found[0]


def test_what_is_missing_inside_is_said(tmp_path):
    _, file = moving_shot(tmp_path)
    (tmp_path / "inner.png").unlink()
    assert any("in inner.nquake: plates/s: the file is not there" in line for line in problems(showing(file)))


def make_red(file: Path) -> None:
    """Write another shot in a file's place, of one colour, changed at another time."""
    write_shot(Shot(width=W, height=H, length=48, ground=(1.0, 0.0, 0.0, 1.0)), file)
    os.utime(file, ns=(10**18, 3 * 10**18))


def test_a_change_of_the_file_or_of_what_it_names_is_seen(tmp_path):
    shot, file = moving_shot(tmp_path)
    engine, outer = Engine(), showing(file)
    before = rendered(outer, 4, engine=engine)
    still = write_png(tmp_path / "inner.png", speckled(W, H, seed=5))
    os.utime(still, ns=(10**18, 3 * 10**18))
    changed = rendered(outer, 4, engine=engine)
    assert np.abs(changed - before).max() > 0.1
    assert np.abs(changed - rendered(shot, 4)).max() < 1e-5
    make_red(file)
    assert np.abs(rendered(outer, 4, engine=engine)[..., :3] - (1, 0, 0)).max() < 1e-5


def test_a_change_two_deep_is_seen(tmp_path):
    _, inner = moving_shot(tmp_path)
    write_shot(showing(inner), tmp_path / "middle.nquake")
    engine, outer = Engine(), showing(tmp_path / "middle.nquake")
    rendered(outer, 4, engine=engine)
    make_red(inner)
    assert np.abs(rendered(outer, 4, engine=engine)[..., :3] - (1, 0, 0)).max() < 1e-5


def test_a_machine_of_a_farm_has_all_that_is_inside(tmp_path):
    """Two deep, with the files under other names there: what is inside is part of the job, by its own names."""
    shot, inner = moving_shot(tmp_path)
    write_shot(showing(inner), tmp_path / "middle.nquake")
    outer = showing(tmp_path / "middle.nquake")
    names = {item.path for item in items_of(outer, Engine())}
    assert names == {str(tmp_path / name) for name in ("middle.nquake", "inner.nquake", "inner.png")}
    away = tmp_path / "kept"
    away.mkdir()
    places = {}
    for number, name in enumerate(sorted(names)):
        places[name] = str(away / f"{number}{Path(name).suffix}")
        Path(name).rename(places[name])
    there = Engine(media=MediaPool(local=places.__getitem__))
    assert np.abs(rendered(outer, 7, engine=there) - rendered(shot, 7, engine=there)).max() < 1e-5


def test_it_is_collected_with_what_it_names(tmp_path):
    """Two deep: moved elsewhere, with the first place gone, all shows as it did."""
    home = tmp_path / "home"
    home.mkdir()
    _, inner = moving_shot(home)
    write_shot(showing(inner), home / "middle.nquake")
    outer = showing(home / "middle.nquake")
    wanted = rendered(outer, 7)
    folder = collect(collection(outer, "Opener"), tmp_path / "Opener")
    assert {path.name for path in folder.rglob("*.nquake")} == {"Opener.nquake", "middle.nquake", "inner.nquake"}
    for path in home.iterdir():
        path.unlink()
    moved = tmp_path / "elsewhere"
    folder.rename(moved)
    opened = read_shot(moved / "Opener.nquake")
    assert problems(opened) == []
    assert np.abs(rendered(opened, 7) - wanted).max() < 1e-5


def test_a_starter_says_that_it_carries_none(tmp_path):
    _, inner = moving_shot(tmp_path)
    with pytest.raises(SaveFailed, match="carries no shot files"):
        write_starter(tmp_path / "s.nquake-starter", showing(inner), About(name="S"))
    assert not list(tmp_path.glob("s.nquake-starter*"))
