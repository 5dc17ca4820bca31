"""Maps that follow a plate: they move with it, its file, its quakes and what those read; keys are found once."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import numpy as np
import pytest

from helpers import numbered_frame, rendered, speckled, write_clip, write_png
from nimble_quake.motion.kinds import Key, Keys, Rate
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import MapRef, PlateRef
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.plan.units import references
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

MOVING = {"position": Keys((Key(frame=0.0, value=(60.0, 60.0)), Key(frame=20.0, value=(260.0, 120.0))))}
READERS = [
    (operator.family, operator.kind, name)
    for operator in registry().all("source") + registry().all("shaper")
    for name, param in operator.declared.items()
    if isinstance(param, PlateRef) and not param.tracked  # those are read for tracks: tests/analysis
]
SETTINGS: dict[tuple[str, str], dict[str, Any]] = {
    ("shape", "plate"): {"form": "plate"},
    ("particles", "plate"): {"emitter": "outline", "rate": 200.0},
    ("particles", "sprite"): {"rate": 60.0},
}


def shot_reading(kind: str, name: str, plate: Plate) -> Shot:
    step = Node(id="s", kind=kind, values={name: plate.id, **SETTINGS.get((kind, name), {})})
    recipe = (step,) if registry().get("source", kind) else (Node(id="n", kind="noise"), step)
    return Shot(
        width=320,
        height=180,
        rate=Fraction(24),
        length=48,
        plates=(plate,),
        maps=(Map(id="m", name="", recipe=recipe),),
    )


def values(engine: Engine, shot: Shot, frame: int) -> np.ndarray:
    return map_field(frame_job(engine, shot, frame), shot.maps[0], frame_grid(320, 180))


@pytest.mark.parametrize(("family", "kind", "name"), READERS, ids=[f"{k}-{n}" for _, k, n in READERS])
def test_every_reader_of_a_plate_sees_it_move(family, kind, name):
    """A still step over a moving plate: at each frame what a fresh engine gives, and not the same throughout."""
    plate = Plate(id="p", kind="text", values={"words": "Z", "size": 90.0, **MOVING})
    shot, engine = shot_reading(kind, name, plate), Engine()
    seen = []
    for frame in (4, 12, 20, 4):
        found = values(engine, shot, frame)
        np.testing.assert_array_equal(found, values(Engine(), shot, frame))
        seen.append(found.copy())
    assert np.abs(seen[0] - seen[1]).max() > 0.1
    assert np.abs(seen[1] - seen[2]).max() > 0.1
    np.testing.assert_array_equal(seen[0], seen[3])


def test_a_clip_and_its_quakes_are_followed(tmp_path):
    frames = [numbered_frame(n) for n in range(24)]
    clip = write_clip(tmp_path / "c.mkv", frames, Fraction(24), "ffv1", "bgra")
    quake = Node(id="q", kind="push", values={"map": "drive", "reach_x": 40.0})
    plate = Plate(id="p", kind="clip", values={"file": str(clip), "fit": "stretch"}, effects=(quake,))
    drive = Map(id="drive", name="", recipe=(Node(id="n", kind="noise", values={"drift": (300.0, 0.0)}),))
    reader = Node(id="s", kind="picture", values={"plate": "p", "with_quakes": True})
    still = Shot(
        width=320,
        height=180,
        rate=Fraction(24),
        length=24,
        plates=(plate,),
        maps=(Map(id="m", name="", recipe=(reader,)), drive),
    )
    engine = Engine()
    first, later = values(engine, still, 3).copy(), values(engine, still, 9).copy()
    assert np.abs(first - later).max() > 0.2
    np.testing.assert_array_equal(later, values(Engine(), still, 9))


def test_a_still_file_is_read_once(tmp_path):
    file = write_png(tmp_path / "s.png", speckled(200, 120))
    step = Node(id="s", kind="picture", values={"file": str(file)})
    shot, engine = Shot(width=320, height=180, length=48, maps=(Map(id="m", name="", recipe=(step,)),)), Engine()
    assert values(engine, shot, 3) is values(engine, shot, 4)


def test_a_small_preview_of_a_picture_map_is_the_full_one_made_smaller(tmp_path):
    """Half-size preview equals the full frame averaged: a fine checker becomes grey and does not alias."""
    checker = np.full((720, 1280, 4), 255, np.uint8)
    checker[..., :3] = np.where((np.add.outer(np.arange(720), np.arange(1280)) % 2)[..., None], 255, 0)
    file = write_png(tmp_path / "c.png", checker)
    step = Node(id="s", kind="picture", values={"file": str(file), "fit": "stretch"})
    shot = Shot(width=320, height=180, length=48, maps=(Map(id="m", name="", recipe=(step,)),))
    assert np.abs(values(Engine(), shot, 0)[4:-4, 4:-4] - 0.5).max() < 2 / 255


@pytest.mark.parametrize("kind", ["blur", "grow", "height_to_slope", "relief", "edges", "sharpen", "streaks"])
def test_the_border_of_a_picture_map_goes_on(tmp_path, kind):
    """A flat white picture that fills the frame stays flat at the frame's border: nothing dark is drawn in."""
    file = write_png(tmp_path / "w.png", np.full((180, 320, 4), 255, np.uint8))
    read = Node(id="s", kind="picture", values={"file": str(file), "fit": "stretch"})
    look = {"way": "shrink"} if kind == "grow" else {}
    recipe = (read, Node(id="k", kind=kind, values=look))
    shot = Shot(width=320, height=180, length=48, maps=(Map(id="m", name="", recipe=recipe),))
    found = values(Engine(), shot, 0)
    np.testing.assert_allclose(found, np.broadcast_to(found[90, 160], found.shape), atol=2e-3)


@pytest.mark.parametrize("kind", ["blur", "pixelate", "transform", "sharpen"])
def test_clear_parts_do_not_count_when_values_are_mixed(tmp_path, kind):
    """A white disc on nothing: round its rim the push goes white's way, weaker and weaker, never black's."""
    disc = np.zeros((180, 320, 4), np.uint8)
    disc[(np.hypot(*np.mgrid[-90:90, -160:160]) < 60)] = 255
    file = write_png(tmp_path / "d.png", disc)
    read = Node(id="s", kind="picture", values={"file": str(file), "fit": "stretch", "take": "colour"})
    look = {"blur": {"radius": 12.0}, "transform": {"turn": 10.0}, "sharpen": {"amount": 0.5}}.get(kind, {})
    recipe = (read, Node(id="k", kind=kind, values=look))
    shot = Shot(width=320, height=180, length=48, maps=(Map(id="m", name="", recipe=recipe),))
    found = values(Engine(), shot, 0)
    strength = (found[..., 0] - 0.5) * np.clip(found[..., 3], 0, 1)
    assert strength.min() > -0.01
    assert strength.max() > 0.45


def test_maps_that_read_each_other_twice_are_keyed_once():
    """Twenty-two maps, each reading the next twice: the work is in their number, not in two to its power."""
    maps = [
        Map(
            id=f"m{n}",
            name="",
            recipe=(
                Node(id="s", kind="flat"),
                Node(id="a", kind="mask", values={"other": f"m{n + 1}", "mask": f"m{n + 1}"}),
            ),
        )
        for n in range(22)
    ]
    maps.append(Map(id="m22", name="", recipe=(Node(id="s", kind="noise", values={"size_x": Rate(200.0, 10.0)}),)))
    shot = Shot(width=64, height=36, length=48, maps=tuple(maps))
    engine = Engine()
    found = map_field(frame_job(engine, shot, 3), maps[0], frame_grid(64, 36))
    assert found.shape[:2] == (36, 64)
    assert engine.cache.misses < 500


def test_every_operator_that_refers_to_something_has_it_in_its_key():
    """Walks the registry: the key changes when what is referred to changes, for maps and for plates."""
    for operator in registry().all("source") + registry().all("shaper"):
        for name, param in operator.declared.items():
            if not isinstance(param, MapRef | PlateRef):
                continue
            seen, engine = set(), Engine()
            for size in (50.0, 90.0):
                plate = Plate(id="p", kind="text", values={"size": size})
                other = Map(id="o", name="", recipe=(Node(id="n", kind="noise", values={"size_x": size}),))
                step = Node(id="s", kind=operator.kind, values={name: "p" if isinstance(param, PlateRef) else "o"})
                shot = Shot(width=64, height=36, plates=(plate,), maps=(Map(id="m", name="", recipe=(step,)), other))
                job = frame_job(engine, shot, 0)
                seen.add(references(job, job.operator("step", step, "maps/m/steps/s")))
            assert len(seen) == 2, (operator.kind, name)


def test_a_loop_of_references_is_one_line():
    recipe = (Node(id="a", kind="mask", values={"other": "n"}),)
    back = (Node(id="a", kind="mask", values={"other": "m"}),)
    shot = Shot(width=64, height=36, maps=(Map(id="m", name="", recipe=recipe), Map(id="n", name="", recipe=back)))
    with pytest.raises(Exception, match="reads itself"):
        map_field(frame_job(Engine(), shot, 0), shot.maps[0], frame_grid(64, 36))
    assert rendered(shot).shape == (36, 64, 4)
