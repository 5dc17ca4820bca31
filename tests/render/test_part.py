"""Pictures on the part of a grid where anything of them is."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import msgspec
import numpy as np
import pytest

from helpers import noise_map, rendered
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.registry import registry
from nimble_quake.raster.geometry.affine import IDENTITY
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.geometry.part import EVENLY, Patch, around, let_through
from nimble_quake.render.chain import pictures
from nimble_quake.render.chain.pictures import PlacedRaster
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Map, Node, Plate, Shot

GRID = Grid(-20.0, -10.0, 60, 40, 0.5)


def test_on_a_larger_grid_all_round_it_is_clear():
    own = GRID.part(7, 5, 11, 13)
    picture = np.random.default_rng(1).random((13, 11, 4), np.float32)
    found = Patch(picture, own).on(GRID)
    assert (found[5:18, 7:18] == picture).all()
    assert found.sum() == pytest.approx(picture.sum(), rel=1e-5)
    assert Patch(picture, own).on(own) is picture


def test_around_parts():
    parts = GRID.part(7, 5, 11, 13), GRID.part(30, 2, 3, 4)
    assert around(GRID, *parts) == GRID.part(7, 2, 26, 16)
    assert around(GRID, parts[0]) == parts[0]
    assert around(GRID) == GRID
    assert around(GRID, GRID.part(0, 0, 5, 40), GRID.part(50, 7, 10, 3)) is GRID


@pytest.mark.parametrize("shift", [(0, 0), (-13, -4), (3, 50), (-30, 2), (80, 0)])
def test_where_samples_fall_on_pixels_a_picture_covers_just_its_own(shift):
    """And it is shown there as it is: the same bits, none copied."""
    picture = np.random.default_rng(2).random((40, 50, 4), np.float32)
    grid = Grid(float(shift[0]), float(shift[1]), 64, 48)
    lies = Placement((50, 40), IDENTITY, IDENTITY)
    raster = PlacedRaster(picture, IDENTITY, "empty", lies, (), lambda seconds: raster)
    part = raster.covered(grid, 0.0)
    x, y = (np.arange(n) + at for n, at in ((64, shift[0]), (48, shift[1])))
    inside = ((x >= 0) & (x < 50)).sum(), ((y >= 0) & (y < 40)).sum()
    if not all(inside):
        assert part is None
        return
    assert part is not None
    assert (part.width, part.height) == inside
    assert np.shares_memory(raster.on(part), picture)
    whole = raster.on(grid)
    assert (Patch(raster.on(part), part).on(grid) == whole).all()


class TestLetThrough:
    def test_it_begins_at_a_whole_number_of_steps_and_ends_with_the_last_sample(self):
        grid, fractions = Grid(-40.0, 8.0, 300, 200, 0.5), np.zeros((200, 300, 1), np.float32)
        fractions[70, 150] = fractions[111, 199] = 1e-6
        part = let_through(fractions, grid)
        assert part == grid.part(2 * EVENLY, EVENLY, 200 - 2 * EVENLY, 112 - EVENLY)

    def test_all_and_nothing(self):
        grid = Grid(0.0, 0.0, 90, 70)
        assert let_through(np.ones((70, 90, 1), np.float32), grid) is grid
        assert let_through(np.zeros((70, 90, 1), np.float32), grid) is None


@pytest.mark.parametrize("scale", [1.0, 0.5])
def test_a_plate_as_a_map_is_the_same_on_any_part_of_the_frame_and_round_it(scale):
    """A soft edge within the frame is not counted twice where the part reaches beyond the frame."""
    soft = Plate(id="s", kind="shape", values={"width": 60.0, "height": 40.0, "position": (20.0, 30.0), "turn": 20.0})
    of_it = Map(id="m", name="", recipe=(Node(id="p", kind="picture", values={"plate": "s", "take": "colour"}),))
    shot = Shot(width=160, height=96, rate=Fraction(24), length=24, plates=(soft,), maps=(of_it,))
    whole = frame_grid(160, 96, scale).grown(24)
    alpha = frame_job(Engine(), shot, 3).map_values("m", whole)[..., 3]
    assert ((alpha > 0.05) & (alpha < 0.95)).sum() > 20
    for part in (whole.part(0, 0, 80, 60), whole.part(8, 16, 40, 50), whole.part(30, 30, 20, 12)):
        found = frame_job(Engine(), shot, 3).map_values("m", part)
        assert found is not None
        assert (found[..., 3] == alpha[part.inside(whole)]).all()


OF_MAP = {"map": "noise", "mask_on": "result"}
EFFECTS: dict[str, dict[str, Any]] = {
    "push": OF_MAP,
    "slope": OF_MAP,
    "soften": OF_MAP,
    **{kind: {} for kind in ("glow", "choke", "relief", "rim_light")},
}
TEXTURE = noise_map("noise", size_x=30.0, size_y=20.0, churn=1.0)
HOLE = {"place": (230.0, 110.0), "width": 60.0, "height": 40.0, "feather": 9.0}


def masked(kind: str, where: str, least: float) -> np.ndarray:
    """A frame with an effect and a mask that is small; least: what of it there is everywhere else."""
    steps = (Node(id="d", kind="drawn_mask", values=HOLE), Node(id="v", kind="levels", values={"low": least}))
    own = {"mask": "hole"} if where == "effect" else {}
    effects = (Node(id="e", kind=kind, values={**EFFECTS[kind], **own}),)
    seen = {} if where == "effect" else {"mask": "hole"}
    below = Plate(id="b", kind="pattern", values={"map": "noise"})
    plate = Plate(
        id="p", kind="lens" if where == "lens" else "pattern", values={"map": "noise", **seen}, effects=effects
    )
    if where == "lens":
        plate = msgspec.structs.replace(plate, values=seen)
    maps = (TEXTURE, Map(id="hole", name="", recipe=steps))
    shot = Shot(width=320, height=180, rate=Fraction(24), length=24, plates=(plate, below), maps=maps)
    return rendered(shot, 5)


@pytest.mark.parametrize("kind", EFFECTS)
@pytest.mark.parametrize("where", ["plate", "effect", "lens"])
def test_what_is_made_only_where_it_is_seen_is_what_is_made_everywhere(kind, where):
    """A whisper of the mask everywhere has all of the frame made."""
    assert np.abs(masked(kind, where, 0.0) - masked(kind, where, 1e-4)).max() < 4e-4


@pytest.mark.parametrize("above", [(), ("text",)])
@pytest.mark.parametrize("lens", [False, True])
def test_what_is_shown_as_it_was_made_is_not_written_to(above, lens):
    """A frame whose lowest plate, or whose lens, is all there is of it, and another that lies over it."""
    still = Map(id="m", name="", recipe=(Node(id="n", kind="noise", values={"size_x": 30.0}),))
    below = Plate(id="b", kind="pattern", values={"map": "m"}, effects=(Node(id="v", kind="vignette"),))
    over = tuple(Plate(id=kind, kind=kind, values={"words": "OVER"}) for kind in above)
    seen = (Plate(id="l", kind="lens", effects=(Node(id="i", kind="invert"),)),) if lens else ()
    alone = Shot(width=160, height=96, rate=Fraction(24), length=4, plates=(*seen, below), maps=(still,))
    covered = msgspec.structs.replace(alone, plates=(*over, *seen, below))
    engine = Engine()
    first = rendered(alone, 0, engine=engine)
    for shot in (covered, alone, covered, alone):
        engine.last_frames.clear()
        wanted = first if shot is alone else rendered(covered, 0)
        assert (rendered(shot, 0, engine=engine) == wanted).all()


def picture_steps() -> list[str]:
    """The kinds of effects whose reach is known before they are run: all but those that look elsewhere."""
    found = (*registry().all("finish"), *registry().all("shaper"))
    effects = (kind for kind in found if registry().get("effect", kind.kind) is kind)
    return [kind.kind for kind in effects if not issubclass(kind, Coordinate)]


@pytest.mark.parametrize("kind", picture_steps())
def test_a_step_is_not_made_where_its_plate_does_not_reach_and_nobody_sees_it(kind, monkeypatch):
    """A glow asks far round a small plate for what the step before it makes."""
    operator = registry().get("effect", kind)
    assert operator is not None
    steps = (Node(id="e", kind=kind, values={**operator.lively}), Node(id="g", kind="glow", values={"radius": 22.0}))
    plate = Plate(id="title", kind="text", values={"words": "LAMP", "size": 40.0, "turn": 9.0}, effects=steps)
    shot = Shot(width=320, height=180, rate=Fraction(24), length=24, plates=(plate,), maps=(TEXTURE,))
    monkeypatch.setattr(pictures, "WORTH", 0.0)
    everywhere = rendered(shot, 5)
    monkeypatch.setattr(pictures, "WORTH", 2.0)
    assert np.abs(rendered(shot, 5) - everywhere).max() < 2e-4
