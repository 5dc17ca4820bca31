"""A bracket round steps."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction, an_angle
from nimble_quake.operators.steps import Enclosing
from nimble_quake.params.kinds import Choice, Place, When, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.operations import rolled, unrolled
from nimble_quake.raster.warps.warped import sampled_through


class Bracket(Enclosing):
    """Steps taken together: mixed, masked and switched as one, in plain space or unrolled out of rings."""

    title = "Bracket"
    group = "Space"
    rank = 1400
    help = "Several steps as one; in ring space they run round a centre"
    looks = (("Ring bracket", "What is inside runs round a centre", {"space": "rings"}),)

    space = Choice(
        label="Space",
        help="Where its steps work",
        default="plain",
        row=True,
        options=options(plain="Plain", rings="Rings: across is round, down is outwards"),
    )
    centre = Place(label="Centre", help="What the rings lie round", shown_when=When("space", "rings"))
    reach = a_fraction(
        "Reach",
        "The radius the lower border comes to, beside half the frame's diagonal",
        1.0,
        (0.01, 10),
        When("space", "rings"),
    )
    turn = an_angle("Turns the seam", when=When("space", "rings"))

    def _ring(self, ctx: Context) -> tuple[tuple[float, float], float, float, tuple[float, float]]:
        size = (ctx.at.width, ctx.at.height)
        return self.centre, float(np.hypot(*size)) / 2 * self.reach, self.turn / 360, size

    def enter(self, grid: Grid, ctx: Context) -> Field:
        if self.space == "plain":
            return ctx.below(grid)
        around, radius, turn, size = self._ring(ctx)
        return sampled_through(ctx.below, grid, (unrolled(around, radius, turn, size),), size, 0.0)

    def leave(self, grid: Grid, ctx: Context, inside: Callable[[Grid], Field]) -> Field:
        if self.space == "plain":
            return inside(grid)
        around, radius, turn, size = self._ring(ctx)
        return sampled_through(inside, grid, (rolled(around, radius, turn, size),), size, 0.0)
