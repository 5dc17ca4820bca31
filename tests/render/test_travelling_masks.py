"""Masks that are hooked up to a plate: they go where it goes, as a picture of plate and mask moved together does."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest

from helpers import rendered, speckled, write_png
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.reading import grid_over
from nimble_quake.render.engine import Engine
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import mask_at
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 320, 180
EFFECT = "plates/p/effects/e"
MASK = {"form": "polygon", "outline": ((-0.5, -0.5), (0.5, -0.3), (0.1, 0.5)), "width": 120.0, "height": 90.0,
        "place": (150.0, 80.0), "feather": 14.0}  # fmt: skip
WAVE = {"amplitude": 6.0, "length": 30.0, "speed": 0.0}
MOVES: list[dict[str, Any]] = [
    {"position": (200.0, 70.0)},
    {"position": (130.0, 110.0), "turn": 35.0},
    {"scale_x": 1.5, "scale_y": 0.7, "turn": -20.0},
    {"position": (180.0, 95.0), "scale_x": 0.6, "scale_y": 0.6},
]


def shot(file: Path, where: str, **placed: object) -> Shot:
    """A still whose own mask, or the mask of an effect on it, is hooked up to it."""
    hooked = {"mask": "m", "mask_hook": "plate"}
    effects = {
        "plate": (),
        "finish": (Node(id="e", kind="saturation", values={"amount": -1.0, **hooked}),),
        "strength": (Node(id="e", kind="wave", values={**WAVE, **hooked}),),
        "result": (Node(id="e", kind="wave", values={**WAVE, "mask_on": "result", **hooked}),),
    }[where]
    own = hooked if where == "plate" else {}
    values = {"file": str(file), "fit": "fill", **own, **placed}
    recipe = (Node(id="d", kind="drawn_mask", values=MASK),)
    plate = Plate(id="p", kind="still", values=values, effects=effects)
    return Shot(width=W, height=H, length=10, maps=(Map(id="m", name="M", recipe=recipe),), plates=(plate,))


def travel(placed: Any) -> np.ndarray:
    """q -> position + turn and scale (q - middle), as SVG 2 composes them (8.5), (2, 3) for pixels' centres."""
    angle = math.radians(float(placed.get("turn", 0.0)))
    sx, sy = placed.get("scale_x", 1.0), placed.get("scale_y", 1.0)
    linear = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]]) @ np.diag([sx, sy])
    to = np.array(placed.get("position", (W / 2, H / 2)))
    middle = np.array([W / 2, H / 2])
    return np.concatenate([linear, (to - linear @ (middle - 0.5) - 0.5)[:, None]], axis=1)


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    soft = cv2.GaussianBlur(speckled(W, H), (0, 0), 6)
    return write_png(tmp_path / "p.png", np.dstack([soft[..., :3], np.full((H, W), 255, np.uint8)]))


@pytest.mark.parametrize("placed", MOVES)
def test_the_mask_of_a_plate_is_where_the_plate_took_it(picture, placed):
    home, moved = rendered(shot(picture, "plate")), rendered(shot(picture, "plate", **placed))
    expected = cv2.warpAffine(home, travel(placed), (W, H), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    assert np.abs(expected[..., :3] - moved[..., :3]).mean() < 0.004
    assert np.abs(home[..., :3] - moved[..., :3]).mean() > 0.01


@pytest.mark.parametrize("placed", MOVES[:2])
@pytest.mark.parametrize("where", ["finish", "result"])
def test_the_mask_of_an_effect_is_where_its_plate_took_it(picture, placed, where):
    """Read off what the effect changes: there, and nowhere else."""
    for frame_fixed in (False, True):
        made, grid = shot(picture, where, **placed), frame_grid(W, H, 1.0)
        if frame_fixed:
            made = set_value(made, f"{EFFECT}/mask_hook", "frame")
        mask = mask_at(frame_job(Engine(), made, 0), EFFECT, grid)[..., 0]
        still = mask_at(frame_job(Engine(), shot(picture, where), 0), EFFECT, grid)[..., 0]
        expected = still if frame_fixed else cv2.warpAffine(still, travel(placed), (W, H), flags=cv2.INTER_LINEAR)
        assert np.abs(mask - expected).mean() < 0.004
        plain = Shot(width=W, height=H, length=10, plates=(Plate(id="p", kind="still", values=made.plates[0].values),))
        changed = np.abs(rendered(made)[..., :3] - rendered(plain)[..., :3]).max(axis=2) > 0.004
        assert not changed[mask < 0.001].any()
        assert changed[mask > 0.5].any()


def test_a_mask_on_the_strength_travels_and_any_frame_alone_is_the_same(picture):
    keys = Keys((Key(frame=0.0, value=(160.0, 90.0), after="linear"), Key(frame=8.0, value=(230.0, 120.0))))
    made = shot(picture, "strength", position=keys)
    engine = Engine()
    for frame in (0, 4, 8):
        alone, after = rendered(made, frame), rendered(made, frame, engine=engine)
        assert (alone == after).all()
    still = shot(picture, "strength", position=(195.0, 105.0))
    assert np.abs(rendered(made, 4) - rendered(still)).max() < 1e-5


def test_half_size_is_the_full_frame_made_smaller(picture):
    made = shot(picture, "plate", **MOVES[1])
    full, half = rendered(made), rendered(made, scale=0.5)
    assert np.abs(cv2.resize(full, (W // 2, H // 2), interpolation=cv2.INTER_AREA) - half).mean() < 0.004


def test_at_its_own_place_it_is_the_mask_in_the_frame_bit_for_bit(picture):
    hooked = shot(picture, "plate")
    plate = hooked.plates[0]
    fixed = Shot(
        width=W, height=H, length=10, maps=hooked.maps,
        plates=(Plate(id="p", kind="still", values={**plate.values, "mask_hook": "frame"}),),
    )  # fmt: skip
    assert (rendered(hooked) == rendered(fixed)).all()


def test_it_goes_along_in_depth(picture):
    """Tilted and swung: the mask is seen where the plate's own corners say, by the homography through them."""
    made = shot(picture, "plate", tilt=30.0, swing=-20.0, away=80.0)
    job = frame_job(Engine(), made, 0)
    mask = mask_at(job, "plates/p", frame_grid(W, H, 1.0))[..., 0]
    flat = mask_at(frame_job(Engine(), shot(picture, "plate"), 0), "plates/p", frame_grid(W, H, 1.0))[..., 0]
    placement = placement_of(job, made.plates[0], plate_operator(job, made.plates[0]))
    box = placement.box
    own = [(0.0, 0.0), (box[0], 0.0), box, (0.0, box[1])]
    seen = np.array([placement.shown(*corner) for corner in own], np.float32)
    home = np.array([(0, 0), (W, 0), (W, H), (0, H)], np.float32)
    matrix = cv2.getPerspectiveTransform(home - 0.5, seen - 0.5)
    expected = cv2.warpPerspective(flat, matrix, (W, H), flags=cv2.INTER_LINEAR)
    assert np.abs(mask - expected).mean() < 0.004
    assert np.abs(mask - flat).mean() > 0.01


@pytest.mark.parametrize("far", [-4e5, 4e5])
def test_what_is_looked_up_far_beyond_the_frame_needs_no_grid_as_large_as_that(far):
    places = (np.full((2, 9, 16), far) + np.arange(16)).astype(np.float32)
    grid = grid_over(places, (320, 180))
    assert grid.width <= 700
    assert grid.height <= 400
