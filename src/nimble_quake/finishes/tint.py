"""Tint."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Choice, Colour, Stop, Stops, When, options
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.gradient import colour_at


class Tint(Finish):
    """Colours by brightness: two colours, for black and for white, or a gradient between."""

    title = "Tint"
    group = "Colour"
    rank = 320
    help = "Its brightness in other colours: duotone, sepia, gradient map"
    alpha = "kept"
    looks = (
        ("Sepia", "Brown as an old print", {"black": (0.12, 0.07, 0.03, 1.0), "white": (1.0, 0.92, 0.76, 1.0)}),
        ("Gradient map", "Colours of a gradient", {"by": "stops"}),
    )

    by = Choice(
        label="By",
        help="Two colours, or a gradient",
        default="two",
        row=True,
        options=options(two="Two colours", stops="Gradient"),
    )
    black = Colour(
        label="Black", help="What black becomes", default=(0.07, 0.05, 0.25, 1.0), shown_when=When("by", "two")
    )
    white = Colour(
        label="White", help="What white becomes", default=(1.0, 0.78, 0.5, 1.0), shown_when=When("by", "two")
    )
    stops = Stops(
        label="Stops",
        help="From black to white",
        shown_when=When("by", "stops"),
        default=(
            Stop(0.0, (0.05, 0.03, 0.2, 1.0)),
            Stop(0.5, (0.85, 0.2, 0.45, 1.0)),
            Stop(1.0, (1.0, 0.95, 0.7, 1.0)),
        ),
    )
    amount = a_fraction("Amount", "How much of it is mixed in", 1.0)

    def idle(self) -> bool:
        return self.amount <= 0

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        stops = self.stops if self.by == "stops" else (Stop(0.0, self.black), Stop(1.0, self.white))
        bright = np.ascontiguousarray(np.clip(luminance(field), 0, 1))
        tinted = colour_at(stops, bright)[..., :3]
        out = field.copy()
        out[..., :3] += (tinted - field[..., :3]) * np.float32(self.amount)
        return out
