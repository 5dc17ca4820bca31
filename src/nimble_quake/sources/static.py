"""Static."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction, a_level, a_rate, a_size, linked_to
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Seed, Toggle
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import static


class Static(Source):
    """A chance value for every cell, new ones as often as asked: the snow of a lost signal."""

    title = "Static"
    group = "Moving matter"
    help = "Snow of a lost signal, finer or coarser"

    size_x = a_size("Cell across", "Width of a cell", 2.0, (1, 40))
    size_y = linked_to("size_x", a_size("Cell down", "Height of a cell", 2.0, (1, 40)))
    rate = a_rate("Refresh", "How often all cells change, whatever the shot's rate; 0 never", 24.0, (0, 30))
    density = a_fraction("Density", "How many cells are there; the others rest", 1.0)
    low = a_level("Dark", "The lowest value", 0.0)
    high = a_level("Light", "The highest value", 1.0)
    colour = Toggle(label="Colour", help="Red, green and blue are chance values of their own")
    seed = Seed(label="Seed", help="Other chance values", default=1)

    def timed(self) -> bool:
        return self.rate > 0

    def make(self, grid: Grid, ctx: Context) -> Field:
        tick = math.floor(ctx.at.seconds * self.rate + 1e-6) if self.rate > 0 else 0
        channels = 3 if self.colour else 1
        cell = (self.size_x, self.size_y)
        out = static(grid, cell, tick, self.seed, self.density, (self.low, self.high), channels)
        return np.concatenate([out, np.ones((*grid.shape, 1), np.float32)], axis=2) if self.colour else out
