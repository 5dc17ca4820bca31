"""Steps that lay the map over copies of itself: how many, how strong, and how they meet."""

from __future__ import annotations

from typing import ClassVar

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.blur.sums import Meeting, met
from nimble_quake.raster.geometry.grid import Grid

FAINTEST = 0.004
"""A copy weaker than this, a level of 8 bits, is left out."""

MEET = Choice(
    label="Meet",
    help="How they meet",
    default="mean",
    row=True,
    options=options(mean="Mean", lighten="Lightest", darken="Darkest", add="Add: about rest, so rest stays rest"),
)


class Repeating(Shaper):
    """The base of such steps. Subclasses declare the three."""

    sees_other_times = True
    copies: ClassVar[Number]
    decay: ClassVar[Number]
    meet: ClassVar[Choice]

    def copy(self, number: int, grid: Grid, ctx: Context) -> Field:
        """Return copy `number`, from 1."""
        raise NotImplementedError

    def run(self, grid: Grid, ctx: Context) -> Field:
        parts = [Meeting(ctx.below(grid), 1.0)]
        for number in range(1, int(self.copies) + 1):
            weight = self.decay**number
            if weight > FAINTEST:
                parts.append(Meeting(self.copy(number, grid, ctx), weight))
        return met(parts, self.meet, ctx.rest)
