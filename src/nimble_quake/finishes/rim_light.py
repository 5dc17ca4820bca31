"""Rim light."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, an_angle
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.params.kinds import Colour
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.rims import alpha_of, lit_by, softened
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import in_bands
from nimble_quake.raster.warps.slopes import slopes


class RimLight(Finish):
    """Light that grazes the plate from one side: the rim that faces it shines."""

    title = "Rim light"
    group = "Light"
    unseen_where_full = NO_RIM
    rank = 140
    holds_border = True
    in_light = True
    help = "The rim that faces a light shines"
    lively = {"width": 30.0}

    bearing = an_angle("Where the light comes from; 0 from the right, clockwise", -120.0, "Light from")
    width = a_distance("Width", "How far in the light reaches", 10.0, (1, 60), (0.5, 500))
    power = a_fraction("Power", "How bright it is", 1.2, (0, 20))
    wrap = a_fraction("Round", "How far round the rim the light reaches", 0.3)
    colour = Colour(label="Colour", help="The colour of the light", default=(1.0, 0.85, 0.6, 1.0))

    def idle(self) -> bool:
        return self.power <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.width) + 8, at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        inside, sigma = grid.inside(outer), max(self.width * grid.scale, 0.4)
        soft = softened(alpha_of(field), sigma)
        turn, steepness = math.radians(self.bearing), np.float32(sigma * math.sqrt(2 * math.pi))
        towards = np.array((-math.cos(turn), -math.sin(turn)), np.float32) * np.float32(1 - self.wrap)
        wrap, power = np.float32(self.wrap), np.float32(self.power)

        def bright(slope: np.ndarray, alpha: np.ndarray) -> np.ndarray:
            x, y = (slope[..., axis] * steepness for axis in (0, 1))  # a straight edge has slope 1
            lit = x * towards[0] + y * towards[1] + np.sqrt(x * x + y * y) * wrap
            return np.asarray(np.clip(lit, 0, 1) * alpha * power, np.float32)

        own = field[inside]
        light = in_bands(bright, slopes(soft, 3)[inside], own[..., 3])
        return lit_by(own, light, self.colour, within=True, linear=ctx.linear)
