"""Colour ramp."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Number, Stop, Stops, Toggle
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.gradient import colour_at, grey_at


class ColourRamp(Shaper):
    """Looks every value up between stops: black is the first, white the last; again and again where it repeats."""

    title = "Colour ramp"
    called = "gradient map, contour bands, colour cycling"
    group = "Channels"
    help = "Values become colours, or other greys"
    looks = (("Bands", "Six bands from black to white, there and back", {"times": 3.0, "back": True}),)

    stops = Stops(
        label="Stops",
        help="From black to white",
        default=(Stop(0.0, (0.08, 0.05, 0.3, 1.0)), Stop(0.5, (0.8, 0.25, 0.3, 1.0)), Stop(1.0, (1.0, 0.95, 0.7, 1.0))),
    )
    times = Number(
        label="Times",
        help="How often the stops are gone through from black to white",
        default=1.0,
        hard=(0.01, 1000),
        usual=(1, 12),
        decimals=2,
    )
    shift = Number(
        label="Shift",
        help="Where in the stops black begins: from 0 % to 100 % they run through once, without a jump",
        default=0.0,
        hard=(-1000, 1000),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    back = Toggle(label="There and back", help="Every second time from the last stop to the first: no hard edges")
    colour = Toggle(label="Colour", help="Keeps the stops' colours instead of their grey", default=True)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        values = self._gone_through(np.ascontiguousarray(channel(field, "value")))
        if not self.colour:
            return grey_at(self.stops, values)[0]
        out = colour_at(self.stops, values)
        if field.shape[2] == 4:
            out[..., 3] *= field[..., 3]
        return out

    def _gone_through(self, values: NDArray[np.float32]) -> NDArray[np.float32]:
        """Where in the stops each value lies, 0...1: a whole number ends a round, as white does."""
        if (self.times, self.shift, self.back) == (1.0, 0.0, False):
            return values
        place = values * np.float32(self.times) + np.float32(self.shift)
        if self.back:
            return np.asarray(np.abs(place - 2 * np.round(place / 2)))
        within = place - np.floor(place)
        within[(within == 0) & (values > 0)] = 1
        return np.asarray(within)
