"""Blocks."""

from __future__ import annotations

import math

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, a_level, a_rate, a_size, linked_to
from nimble_quake.operators.steps import Source, flat
from nimble_quake.params.kinds import Seed
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import blocks, mixed


class Blocks(Source):
    """Chance blocks over rest, in bursts, with rows that jump aside: a bad signal."""

    title = "Blocks"
    group = "Moving matter"
    rank = 40
    help = "A bad signal: blocks that come and go, rows that jump"
    looks = (
        ("Torn rows", "Whole rows jump aside", {"size_x": 1280.0, "size_y": 12.0, "density": 0.35}),
        ("Sparse bursts", "A few blocks, now and then", {"density": 0.12, "bursts": 0.7, "merge": 0.4}),
    )

    size_x = a_size("Across", "Width of a block", 80.0, (4, 400))
    size_y = linked_to("size_x", a_size("Down", "Height of a block", 40.0, (4, 400)))
    rate = a_rate("Refresh", "How often the blocks change, whatever the shot's rate; 0 never", 8.0, (0, 24))
    density = a_fraction("Density", "How many blocks are there; the others rest", 0.5)
    merge = a_fraction("Join", "How many join into blocks twice as large", 0.2)
    jumps = a_fraction("Jumps", "How many rows jump aside", 0.3)
    reach = a_distance("Jump", "How far a row jumps at most", 60.0, (0, 300))
    bursts = a_fraction("Bursts", "How much of the time there is anything at all", 1.0)
    low = a_level("Dark", "The lowest value", 0.0)
    high = a_level("Light", "The highest value", 1.0)
    seed = Seed(label="Seed", help="Other chance values", default=1)

    def timed(self) -> bool:
        return self.rate > 0

    def make(self, grid: Grid, ctx: Context) -> Field:
        tick = math.floor(ctx.at.seconds * self.rate + 1e-6) if self.rate > 0 else 0
        if self.bursts < 1 and mixed(tick // 3, 1, 2, self.seed + 101) >= self.bursts:
            return flat(grid)
        return blocks(
            grid,
            (self.size_x, self.size_y),
            tick,
            self.seed,
            density=self.density,
            merge=self.merge,
            jumps=self.jumps,
            reach=self.reach,
            ends=(self.low, self.high),
        )
