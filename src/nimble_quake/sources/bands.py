"""Bands."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.motion.kinds import Formula
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_level, an_angle
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Number, Seed, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.patterns import bands


class Bands(Source):
    """Exactly so many flat bands that fill the frame: for pictures that come apart in slices."""

    title = "Bands"
    group = "Lines"
    rank = 20
    help = "Flat slices: the picture comes apart in strips"
    lively = {"shift": Formula("floor(t * 3)")}
    looks = (
        ("Two-sided bands", "White, grey, black and back", {"order": "fan", "count": 12}),
        ("Chance bands", "Every slice goes its own way", {"order": "chance", "count": 18}),
    )

    count = a_count("Count", "How many bands fill the frame, exactly", 11, 1_000_000, (2, 40))
    order = Choice(
        label="Order",
        help="Which values follow each other",
        default="ramp",
        options=options(
            ramp="Ramp: evenly from first to last",
            turns="Turns: first, last, first, last",
            fan="Fan: first to last and back",
            chance="Chance: any between",
        ),
    )
    turn = an_angle("Which way the bands follow each other; 0 across", 90.0)
    first = a_level("First", "Value of the first band", 0.0)
    last = a_level("Last", "Value of the last band", 1.0)
    shift = Number(
        label="Shift",
        help="Moves the values on by so many bands",
        default=0.0,
        hard=(-1e6, 1e6),
        usual=(-10, 10),
        whole=True,
        decimals=0,
    )
    seed = Seed(label="Seed", help="Other chance values", default=1)

    def make(self, grid: Grid, ctx: Context) -> Field:
        angle = math.radians(self.turn)
        x, y = math.cos(angle), math.sin(angle)
        width, height = ctx.at.width, ctx.at.height
        across = abs(width * x) + abs(height * y)
        start, each = (width * x + height * y - across) / 2, across / self.count
        return bands(grid, (x / each, y / each, -start / each), self._levels())

    def _levels(self) -> np.ndarray:
        count = int(self.count)
        if self.order == "chance":
            fractions: NDArray[np.float64] = np.random.Generator(np.random.PCG64(self.seed)).random(count)
        elif self.order == "turns":
            fractions = np.arange(count, dtype=np.float64) % 2
        else:
            fractions = np.arange(count, dtype=np.float64) / (count - 1) if count > 1 else np.full(1, 0.5)
            if self.order == "fan":
                fractions = 1 - np.abs(2 * fractions - 1)
        return np.roll(self.first + (self.last - self.first) * fractions, int(self.shift))
