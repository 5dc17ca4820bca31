"""Edge lines."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Number
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.slopes import slopes


class Edges(Shaper):
    """Light lines where values change quickly, black where they do not."""

    title = "Edge lines"
    group = "Relief"
    help = "Lines along everything's borders"
    lively = {"width": 16.0}

    width = a_distance("Width", "How wide the lines are", 3.0, (1, 30), (0.5, 200))
    power = Number(
        label="Power", help="How bright a change becomes", default=6.0, hard=(0, 1000), usual=(0, 40), decimals=1
    )
    floor = a_fraction("Floor", "Changes weaker than this are left out", 0.05)

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.width) + 3 * 8, at.width, at.height)

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """White lines on nothing, round the whole figure too."""
        return np.repeat(self.shape(picture, outer, grid, ctx), 4, axis=2)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = self.width * grid.scale / 2
        soft = gaussian_inside(np.ascontiguousarray(channel(field, "value"))[..., None], sigma, sigma)[..., 0]
        slope = slopes(soft, 3)[grid.inside(outer)]
        change = np.hypot(slope[..., 0], slope[..., 1]) * np.float32(self.width * grid.scale)
        lines: Field = np.clip((change - np.float32(self.floor)) * np.float32(self.power), 0, 1)[..., None]
        return lines
