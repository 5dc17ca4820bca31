"""Caustics."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Colour, Number
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.finishes.rims import lit_by
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.caustics import gathered
from nimble_quake.raster.warps.slopes import slopes

LIMIT = 200.0
"""Shot pixels that a ray is turned aside at most: what is looked at beyond the frame stays bounded."""


class Caustics(Shaper):
    """Light that falls through waves and is gathered on the floor: bright nets, as in a pool. No light is lost."""

    title = "Caustics"
    group = "Relief"
    rank = 1300
    help = "Nets of light on the floor of a pool"
    lively = {"depth": 400.0}

    height = Number(
        label="Height",
        help="How high white stands above black",
        default=30.0,
        hard=(-10000, 10000),
        usual=(0, 120),
        unit="px",
        decimals=0,
    )
    depth = a_distance(
        "Depth", "How deep the floor lies: deeper gathers more, until rays cross", 160.0, (0, 800), (0, 20000)
    )
    smooth = a_distance("Smoothness", "Softens the waves first", 6.0, (0, 40), (0, 400))
    level = a_fraction("Level", "How bright a flat floor is", 0.35, (0, 4))
    soft = a_distance("Softness", "How soft the light is, as from a wide sun", 3.0, (0, 20), (0, 200))
    tint = Colour(label="Light colour", help="The colour of the light on a picture", default=(0.85, 1.0, 0.95, 1.0))

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.smooth) + blur_margin(self.soft) + LIMIT + 8, at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma, scale = self.smooth * grid.scale, grid.scale
        height = gaussian_inside(np.ascontiguousarray(channel(field, "value"))[..., None], sigma, sigma)[..., 0]
        slope = slopes(np.ascontiguousarray(height), 3) * np.float32(self.height * scale / 4)  # n = 4/3: (n - 1) / n
        most = np.float32(LIMIT / max(self.depth, 1e-6))
        light = gathered(np.clip(slope, -most, most), self.depth * scale, (slice(None), slice(None)))[..., None]
        soft = gaussian_inside(light, self.soft * scale, self.soft * scale, grid.inside(outer))
        return np.asarray(soft * np.float32(self.level), np.float32)

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """The light is added to the picture's own colours."""
        light = self.shape(picture, outer, grid, ctx)[..., 0]
        own = np.ascontiguousarray(picture[grid.inside(outer)])
        return lit_by(own, np.clip(light, 0, 1) * own[..., 3], self.tint, within=True)
