"""Fill."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import UNPLACED, PlateKind, Raster
from nimble_quake.params.kinds import Choice, Colour, Place, Stop, Stops, When, options
from nimble_quake.raster.geometry.grid import Grid, refuse_enormous
from nimble_quake.raster.shapes.gradient import along, colour_at


class Fill(PlateKind):
    """A flat colour or a gradient that fills the frame and goes on beyond it."""

    flat_colour = "colour"
    title = "Fill"
    rank = 50
    help = "A flat colour or a gradient over the whole frame"
    endless = True
    without = UNPLACED

    shape = Choice(
        label="Gradient",
        help="Flat, or how the gradient spreads",
        default="flat",
        options=options(flat="Flat", linear="Linear", radial="Radial", conic="Conic"),
    )
    colour = Colour(
        label="Colour", help="The flat colour", default=(0.08, 0.07, 0.12, 1.0), shown_when=When("shape", "flat")
    )
    stops = Stops(
        label="Stops",
        help="The gradient's colours",
        default=(Stop(0.0, (0.06, 0.08, 0.2, 1.0)), Stop(1.0, (0.75, 0.33, 0.2, 1.0))),
        shown_when=When("shape", "linear", "radial", "conic"),
    )
    start = Place(
        label="Start",
        help="Where the gradient begins",
        default=(0.5, 0.0),
        shown_when=When("shape", "linear", "radial", "conic"),
    )
    end = Place(
        label="End",
        help="Where the gradient ends",
        default=(0.5, 1.0),
        shown_when=When("shape", "linear", "radial", "conic"),
    )

    @classmethod
    def begins_with(cls, width: float, height: float) -> dict[str, object]:
        return {"colour": (0.16, 0.4, 0.46, 1.0)}  # told apart from the black ground

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        if self.shape == "flat":
            flat = np.empty((1, 1, 4), np.float32)
            flat[...] = (*(c * self.colour[3] for c in self.colour[:3]), self.colour[3])
            return Raster(flat, (0.0, 0.0, 0.5, 0.0, 0.0, 0.5), bits8=False)
        scale = max(zoom)
        side = int(np.ceil(bleed * scale))
        width, height = round(ctx.at.width * scale) + 2 * side, round(ctx.at.height * scale) + 2 * side
        refuse_enormous(width, height, "the fill")
        grid = Grid(-side / scale, -side / scale, width, height, scale)
        colours = colour_at(self.stops, along(grid, self.shape, self.start, self.end))
        colours[..., :3] *= colours[..., 3:]
        return Raster(colours, (scale, 0.0, float(side), 0.0, scale, float(side)), bits8=False)

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        """Return the gradient's ends."""
        return (("start", "end"),)
