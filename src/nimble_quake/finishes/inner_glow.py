"""Inner glow."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.params.kinds import Choice, Colour, options
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.rims import alpha_of, laid_over, lit_by, softened
from nimble_quake.raster.geometry.grid import Grid


class InnerGlow(Finish):
    """Light, or shade, that comes in from the rim of the plate's own outline."""

    title = "Inner glow"
    group = "Rims"
    unseen_where_full = NO_RIM
    rank = 220
    holds_border = True
    in_light = True
    help = "Light that comes in from its rim"
    lively = {"radius": 40.0}
    looks = (("Inner shadow", "Shade from the rim", {"as_light": "shade", "colour": (0.0, 0.0, 0.0, 1.0)}),)

    radius = a_distance("Radius", "How far in it reaches", 18.0, (0, 100), (0, 1000))
    power = a_fraction("Power", "How strong it is", 1.0, (0, 10))
    colour = Colour(label="Colour", help="Its colour", default=(1.0, 0.8, 0.45, 1.0))
    as_light = Choice(
        label="Adds as",
        help="It brightens as light does, or covers as paint",
        default="light",
        row=True,
        options=options(light="Light", shade="Paint"),
    )

    def idle(self) -> bool:
        return self.radius <= 0 or self.power <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.radius), at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        alpha, inside = alpha_of(field), grid.inside(outer)
        rim = np.clip((1 - softened(alpha, self.radius * grid.scale)[inside]) * np.float32(2 * self.power), 0, 1)
        own = field[inside]
        if self.as_light == "light":
            return lit_by(own, rim * own[..., 3], self.colour, within=True, linear=ctx.linear)
        return laid_over(own, rim * own[..., 3], self.colour)
