"""Light wrap."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.finishes.rims import alpha_of, softened
from nimble_quake.raster.geometry.grid import Grid


class LightWrap(Finish):
    """What lies beneath shines round the plate's rim, so that a cut-out figure sits in its place."""

    title = "Light wrap"
    group = "Light"
    unseen_where_full = NO_RIM
    rank = 150
    holds_border = True
    in_light = True
    help = "The light of what lies beneath spills over its rim"
    lively = {"width": 40.0, "power": 1.5}
    sees_beneath = True

    width = a_distance("Width", "How far in the light reaches", 16.0, (1, 100), (0.5, 500))
    power = a_fraction("Power", "How much of the light there is", 0.8, (0, 10))
    blur = a_distance("Blur", "How soft what lies beneath is first", 12.0, (0, 100), (0, 500))

    def idle(self) -> bool:
        return self.power <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(max(self.width, self.blur)), at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        inside = grid.inside(outer)
        own = field[inside]
        beneath = gaussian_inside(ctx.beneath(outer), self.blur * grid.scale, self.blur * grid.scale, inside)
        rim = 1 - softened(alpha_of(field), self.width * grid.scale)[inside]
        fraction = np.clip(rim * np.float32(2 * self.power), 0, 1) * own[..., 3]
        light = np.clip(beneath[..., :3], 0, 1) * fraction[..., None]
        out = own.copy()
        out[..., :3] += light * (own[..., 3:] - own[..., :3])  # screen, within its own alpha
        return out
