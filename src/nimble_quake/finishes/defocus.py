"""Defocus."""

from __future__ import annotations

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, an_angle
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Choice, Number, When, options
from nimble_quake.raster.blur.aperture import defocused
from nimble_quake.raster.finishes.finishing import clipped, with_lamps
from nimble_quake.raster.geometry.grid import Grid


class Defocus(Finish):
    """Out of focus as in a camera: every point becomes a disc, or the polygon of the aperture's blades."""

    title = "Defocus"
    group = "Lens"
    rank = 420
    in_light = True
    brightness_names = ("above",)
    help = "Out of focus: lamps become discs or polygons"
    holds_border = True
    lively = {"radius": 24.0}

    radius = a_distance("Radius", "The radius of the disc that a point becomes", 12.0, (0, 60), (0, 400))
    form = Choice(
        label="Aperture",
        help="What a point becomes",
        default="round",
        row=True,
        options=options(round="Round", blades="Blades"),
    )
    blades = Number(
        label="Blades",
        help="How many sides the polygon has",
        default=6,
        hard=(3, 12),
        usual=(5, 9),
        whole=True,
        decimals=0,
        shown_when=When("form", "blades"),
    )
    turn = an_angle("Turns the polygon clockwise", 0.0, "Turn", When("form", "blades"))
    lamps = a_fraction("Lamps", "How much brighter than the rest lamps stay", 0.1, (0, 20))
    above = a_fraction("From", "How bright a part must be to count as a lamp", 0.8)

    def idle(self) -> bool:
        return self.radius <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(self.radius + 16, at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        source = with_lamps(field, self.above, 4 * self.lamps) if self.lamps > 0 else field
        blades = int(self.blades) if self.form == "blades" else 0
        out = defocused(source, self.radius * grid.scale, blades, self.turn, grid.inside(outer))
        return clipped(out)
