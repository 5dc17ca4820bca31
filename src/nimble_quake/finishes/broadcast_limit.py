"""Broadcast limit."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.geometry.grid import Grid


class BroadcastLimit(Finish):
    """Keeps every colour between 16 and 235 of 255, the narrow range of ITU-R BT.709, or shows where it is not."""

    title = "Broadcast limit"
    group = "Colour"
    rank = 390
    help = "Holds brightness to 16-235, or shows what lies outside"
    alpha = "kept"

    way = Choice(
        label="Way",
        help="What becomes of values outside",
        default="clip",
        options=options(
            clip="Clip: held at the limits",
            squeeze="Squeeze: all of the range made smaller",
            show="Show: marked by stripes",
        ),
    )
    low = Number(
        label="Lowest", help="The darkest level of 8 bit", default=16, hard=(0, 254), usual=(0, 64), decimals=0
    )
    high = Number(
        label="Highest", help="The brightest level of 8 bit", default=235, hard=(1, 255), usual=(192, 255), decimals=0
    )

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        low, high = np.float32(min(self.low, self.high) / 255), np.float32(max(self.low, self.high) / 255)
        colours, out = field[..., :3], field.copy()
        if self.way == "clip":
            out[..., :3] = np.clip(colours, low, high)
        elif self.way == "squeeze":
            out[..., :3] = low + np.clip(colours, 0, 1) * (high - low)
        else:
            most, least = colours.max(axis=2), colours.min(axis=2)
            stripes = ((grid.xs()[None] + grid.ys()[:, None]) % 16) < 8
            slack = np.float32(0.5 / 255)
            out[(most > high + slack) & stripes, :3] = (1.0, 0.25, 0.3)
            out[(least < low - slack) & stripes & (most <= high + slack), :3] = (0.25, 0.55, 1.0)
        return out
