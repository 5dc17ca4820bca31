"""Alpha levels."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_level
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.colour.channels import as_channels, channel
from nimble_quake.raster.geometry.grid import Grid


class AlphaLevels(Shaper):
    """Sets how much of the map covers: from its own alpha or value, between two levels."""

    title = "Alpha levels"
    group = "Channels"
    rank = 1600
    help = "Makes parts clear, by alpha or by value"
    lively = {"by": "value", "low": 0.4, "high": 0.6}

    by = Choice(
        label="By",
        help="What the cover is made of",
        default="alpha",
        row=True,
        options=options(alpha="Alpha", value="Value: dark parts become clear", rest="Distance from rest"),
    )
    low = a_level("Clear at", "What is clear", 0.0)
    high = a_level("Full at", "What covers fully", 1.0)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        out = as_channels(field, 4)
        out = out.copy() if out is field else out
        cover = channel(field, "alpha" if self.by == "alpha" else "value")
        if self.by == "rest":
            cover = np.abs(cover - np.float32(ctx.rest)) * 2
        span = self.high - self.low
        span = span if abs(span) > 1e-6 else 1e-6
        out[..., 3] = np.clip((cover - np.float32(self.low)) * np.float32(1 / span), 0, 1)
        return out
