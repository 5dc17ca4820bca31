"""Glow."""

from __future__ import annotations

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Colour, Toggle, When
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.finishing import bright_parts, glowed
from nimble_quake.raster.geometry.grid import Grid


class Glow(Finish):
    """Adds a soft copy of what is bright: light round lamps, or a neon halo in a colour of its own."""

    title = "Glow"
    group = "Light"
    unseen_because = "Nothing in the picture is as bright as it asks for"
    rank = 110
    in_light = True
    brightness_names = ("above",)
    help = "Light spills round what is bright"
    holds_border = True
    lively = {"radius": 40.0, "power": 1.2}

    radius = a_distance(
        "Radius", "How far the light spills: the standard deviation of a Gaussian", 24.0, (0, 120), (0, 1000)
    )
    power = a_fraction("Power", "How much light is added", 0.8, (0, 20))
    above = a_fraction("From", "How bright a part must be to glow", 0.0)
    tinted = Toggle(label="Neon", help="Glows in one colour instead of its own")
    tint = Colour(
        label="Colour", help="The colour it glows in", default=(1.0, 0.4, 0.25, 1.0), shown_when=When("tinted")
    )

    def idle(self) -> bool:
        return self.radius <= 0 or self.power <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.radius), at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        source = bright_parts(field, self.above) if self.above > 0 else field
        sigma = self.radius * grid.scale
        inside, tint = grid.inside(outer), self.tint if self.tinted else None
        return glowed(field[inside], source, inside, sigma, self.power, tint, linear=ctx.linear)
