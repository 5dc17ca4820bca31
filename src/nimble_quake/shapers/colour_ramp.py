"""Colour ramp."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Stop, Stops, Toggle
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.gradient import colour_at, grey_at


class ColourRamp(Shaper):
    """Looks every value up between stops: black is the first, white the last."""

    title = "Colour ramp"
    group = "Channels"
    help = "Values become colours, or other greys"

    stops = Stops(
        label="Stops",
        help="From black to white",
        default=(Stop(0.0, (0.08, 0.05, 0.3, 1.0)), Stop(0.5, (0.8, 0.25, 0.3, 1.0)), Stop(1.0, (1.0, 0.95, 0.7, 1.0))),
    )
    colour = Toggle(label="Colour", help="Keeps the stops' colours instead of their grey", default=True)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        values = np.ascontiguousarray(channel(field, "value"))
        if not self.colour:
            return grey_at(self.stops, values)[0]
        out = colour_at(self.stops, values)
        if field.shape[2] == 4:
            out[..., 3] *= field[..., 3]
        return out
