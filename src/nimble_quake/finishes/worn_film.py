"""Worn film."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_fraction, a_rate, a_size
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Colour, Seed
from nimble_quake.raster.finishes.film import dust, scratches
from nimble_quake.raster.finishes.finishing import worn
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed


class WornFilm(Finish):
    """An old print: it flickers, has scratches and dust, and its colours have faded to one."""

    title = "Worn film"
    group = "Film"
    rank = 520
    help = "Flicker, scratches, dust and faded colour"
    lively = {"scratches": 14, "dust": 0.5}

    rate = a_rate("Rate", "How many pictures a second the film has", 16.0, (1, 30))
    flicker = a_fraction("Flicker", "How much its brightness jumps", 0.12)
    scratches = a_count("Scratches", "About how many there are", 5, 200, (1, 30))
    scratch_by = a_fraction("Lightness", "How light they are", 0.5)
    dust = a_fraction("Dust", "How much there is", 0.12)
    dust_size = a_size("Dust size", "How large specks are at most, up to 200 px", 5.0, (1, 30))
    fade = a_fraction("Fading", "How far its colours go over to the tint", 0.55)
    tint = Colour(label="Tint", help="The colour it fades to", default=(1.0, 0.86, 0.62, 1.0))
    seed = Seed(label="Seed", help="Other wear")

    def timed(self) -> bool:
        return self.rate > 0

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        seed = int(self.seed)
        tick = math.floor(ctx.at.seconds * self.rate + 1e-6) if self.rate > 0 else 0
        jump = (mixed(tick, 0, 11, seed) - 0.5) * 2 * self.flicker
        shade = (1 + np.float32(self.fade) * (np.array(self.tint[:3], np.float32) - 1)) * np.float32(1 + jump)
        size = (ctx.at.width, ctx.at.height)
        marks = scratches(grid, size, tick, int(self.scratches), seed)
        specks = dust(grid, tick, self.dust, self.dust_size, seed)
        return worn(field, self.fade, shade, marks, self.scratch_by, specks)
