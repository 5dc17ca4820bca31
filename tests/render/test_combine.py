"""How a step meets those before it, against the formulas written out in NumPy."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from nimble_quake.operators.steps import COMBINES
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.combine import MODES, combined, mixed
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Shot

RANDOM = np.random.Generator(np.random.PCG64(3))
BELOW, ABOVE, COVER = (RANDOM.random((40, 50, 1)).astype(np.float32) for _ in range(3))
FORMULAS: dict[str, Any] = {
    "over": lambda a, b: b,
    "replace": lambda a, b: b,
    "add": lambda a, b: a + b - 0.5,
    "average": lambda a, b: (a + b) / 2,
    "multiply": lambda a, b: a * b,
    "screen": lambda a, b: 1 - (1 - a) * (1 - b),
    "lighten": np.maximum,
    "darken": np.minimum,
    "difference": lambda a, b: np.abs(a - b),
}


def test_every_mode_on_screen_is_one_that_is_computed():
    assert {option.value for option in COMBINES} == set(MODES) == set(FORMULAS)


@pytest.mark.parametrize("mode", MODES)
class TestModes:
    """The separable blend modes of W3C Compositing and Blending, and three of our own: about rest, mean, replace."""

    def test_grey(self, mode):
        assert np.abs(combined(BELOW, ABOVE, mode, 1.0) - FORMULAS[mode](BELOW, ABOVE)).max() < 1e-6

    def test_opacity_and_cover_go_from_nothing_to_all(self, mode):
        whole = FORMULAS[mode](BELOW, ABOVE)
        for opacity in (0.0, 0.35, 1.0):
            got = combined(BELOW, ABOVE, mode, opacity, COVER)
            assert np.abs(got - (BELOW + (whole - BELOW) * COVER * opacity)).max() < 1e-6

    def test_grey_over_colour_meets_each_channel(self, mode):
        colour = np.concatenate([RANDOM.random((40, 50, 3)), np.ones((40, 50, 1))], axis=2).astype(np.float32)
        got = combined(colour, ABOVE, mode, 1.0)
        assert got.shape == colour.shape
        for k in range(3):
            assert np.abs(got[..., k] - FORMULAS[mode](colour[..., k], ABOVE[..., 0])).max() < 1e-6
        assert (got[..., 3] == 1).all()

    def test_what_is_clear_changes_nothing_unless_it_replaces(self, mode):
        clear = np.concatenate([RANDOM.random((40, 50, 3)), np.zeros((40, 50, 1))], axis=2).astype(np.float32)
        got = combined(BELOW, clear, mode, 1.0)
        if mode == "replace":
            assert (got[..., 3] == 0).all()
        else:
            assert np.abs(got[..., :3] - BELOW).max() < 1e-6
            assert (got[..., 3] == 1).all()


def test_rest_added_to_rest_is_rest():
    """Common practice, no source: two still maps added about rest do not slide the picture."""
    rest = np.full((4, 4, 1), 0.5, np.float32)
    assert (combined(rest, rest, "add", 1.0) == 0.5).all()


def test_mixing_a_shaper():
    assert mixed(BELOW, ABOVE, 1.0) is ABOVE
    assert np.abs(mixed(BELOW, ABOVE, 0.25) - (0.75 * BELOW + 0.25 * ABOVE)).max() < 1e-6
    assert np.abs(mixed(BELOW, ABOVE, 0.5, COVER) - (BELOW + (ABOVE - BELOW) * COVER * 0.5)).max() < 1e-6


class TestInARecipe:
    GRID = frame_grid(160, 90)

    def field(self, *steps: Node, others: tuple[Map, ...] = ()) -> np.ndarray:
        map = Map(id="m", name="", recipe=steps)
        return map_field(frame_job(Engine(), Shot(width=160, height=90, maps=(map, *others)), 10), map, self.GRID)

    def test_two_sources_meet_by_the_second_ones_mode(self):
        noise, ribs = Node(id="a", kind="noise"), Node(id="b", kind="ribs", values={"combine": "multiply"})
        got = self.field(noise, ribs)
        assert np.abs(got - self.field(noise) * self.field(Node(id="b", kind="ribs"))).max() < 1e-6

    def test_an_idle_or_missing_step_leaves_what_is_there(self):
        noise = Node(id="a", kind="noise")
        alone = self.field(noise)
        for extra in (
            {"kind": "blur", "values": {"radius": 0.0}},
            {"kind": "blur", "on": False},
            {"kind": "unheard-of"},
        ):
            assert np.array_equal(self.field(noise, Node(id="b", **extra)), alone)

    def test_a_mask_lets_a_step_through_where_it_is_white(self):
        halves = Map(
            id="halves",
            name="",
            recipe=(Node(id="h", kind="bands", values={"count": 2, "turn": 0.0, "first": 0.0, "last": 1.0}),),
        )
        noise = Node(id="a", kind="noise")
        got = self.field(noise, Node(id="b", kind="invert", values={"mask": "halves"}), others=(halves,))
        plain, inverted = self.field(noise), self.field(noise, Node(id="b", kind="invert"))
        assert np.abs(got[:, :79] - plain[:, :79]).max() < 1e-6
        assert np.abs(got[:, 81:] - inverted[:, 81:]).max() < 1e-6
