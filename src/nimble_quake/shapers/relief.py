"""Relief light."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import REST, Field, Picture, Pixels, Values
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, an_angle
from nimble_quake.operators.steps import Shaper, refit_smoothness
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.params.refit import Refit
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.finishes.rims import shaded
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.slopes import blur_before_slope, lit, slopes


class Relief(Shaper):
    """Lights the map as a relief: bright flanks to the light, dark ones away, flat parts at rest."""

    title = "Relief light"
    group = "Relief"
    help = "Lit from one side: plastic, embossed"
    lively = {"depth": 120.0, "smooth": 8.0}

    bearing = an_angle("Where the light comes from; 0 from the right, clockwise", -135.0, "Light from")
    height = Number(
        label="Light height",
        help="How high the light stands over the picture",
        default=45.0,
        hard=(1, 90),
        usual=(5, 85),
        unit="°",
        decimals=0,
    )
    depth = Number(
        label="Depth",
        help="How high white stands above black",
        default=40.0,
        hard=(-10000, 10000),
        usual=(0, 200),
        unit="px",
        decimals=1,
    )
    smooth = a_distance("Smoothness", "Softens the height first", 2.0, (0, 20), (0, 400))
    shine = a_fraction("Shine", "How much a glossy surface adds", 0.0, (0, 10))
    gloss = Number(label="Gloss", help="How small the shine is", default=20.0, hard=(1, 128), usual=(1, 60), decimals=0)
    flat = Choice(
        label="Flat parts",
        help="What value they get",
        default="rest",
        row=True,
        options=options(rest="Rest", light="Light: as lit"),
    )

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        return refit_smoothness(values, cls.smooth, by)

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.smooth) + 3 * 8, at.width, at.height)

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """The light is added to the picture's own colours, and taken on the far flanks."""
        bright = self.shape(picture, outer, grid, ctx) - np.float32(REST)
        return shaded(picture[grid.inside(outer)], bright[..., 0])

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = blur_before_slope(self.smooth, grid.scale)
        height = gaussian_inside(np.ascontiguousarray(channel(field, "value"))[..., None], sigma, sigma)[..., 0]
        slope = slopes(height, 3)[grid.inside(outer)]
        up = math.radians(self.height)
        turn = math.radians(self.bearing)
        light = (math.cos(turn) * math.cos(up), math.sin(turn) * math.cos(up), math.sin(up))
        bright = lit(slope, self.depth * grid.scale, light, self.shine, self.gloss)
        if self.flat == "rest":
            level = math.sin(up) + self.shine * math.cos((math.pi / 2 - up) / 2) ** self.gloss
            bright += np.float32(REST - level)
        return bright
