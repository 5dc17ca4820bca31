"""Edge smoothing and choke."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.params.kinds import Number
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.finishes.rims import alpha_of, grown, refilled, softened
from nimble_quake.raster.geometry.grid import Grid

COARSE = 2.0
"""From this sigma on (samples) colours beyond the old rim are blurred at half the size."""


class Choke(Finish):
    """Smooths the plate's outline, then draws it in or out: torn stripes become cloth."""

    title = "Edge choke"
    group = "Rims"
    unseen_where_full = NO_RIM
    rank = 250
    holds_border = True
    help = "Smooths its outline and draws it in: torn stripes become cloth"
    lively = {"blur": 8.0, "shrink": 8.0}

    blur = a_distance("Blur", "How much corners and tears are rounded", 4.0, (0, 30), (0, 300))
    shrink = Number(
        label="Shrink",
        help="How far the outline is drawn in; below 0 let out",
        default=5.0,
        hard=(-300, 300),
        usual=(-20, 20),
        unit="px",
        decimals=1,
    )
    softness = a_distance("Softness", "How wide its edge is then", 4.0, (0, 30), (0, 300))

    def idle(self) -> bool:
        return self.blur <= 0 and self.shrink == 0 and self.softness <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.blur) + abs(self.shrink) + blur_margin(self.softness) + 2, at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        scale, inside = grid.scale, grid.inside(outer)
        sigma = self.blur * scale
        alpha = softened(alpha_of(field), sigma)
        if sigma > 0.05:  # a straight edge blurred by sigma is this steep in its middle: one sample wide again
            alpha = np.clip(
                (alpha - np.float32(0.5)) * np.float32(sigma * math.sqrt(2 * math.pi)) + np.float32(0.5), 0, 1
            )
        alpha = softened(grown(np.asarray(alpha, np.float32), -self.shrink * scale), self.softness * scale / 2)[inside]
        own = field[inside]
        reach = sigma + max(0.0, -self.shrink) * scale
        wide = max(reach, 0.5)  # for what lies beyond the old rim: it need not be fine
        colours = gaussian_inside(field, wide, wide, inside, widest=COARSE)
        return refilled(own, colours, alpha)
