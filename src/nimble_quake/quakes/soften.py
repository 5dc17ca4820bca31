"""Soften."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import PixelQuake
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.reading import ReadsMap, a_channel
from nimble_quake.params.kinds import Toggle
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.blur.variable import softened
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import in_bands

SEEN = 0.3
"""A blur of less than so many pixels is not said."""
FAINT = 0.25
"""A ground that is blurred by more than this fraction of the radius is meant to be."""


class Soften(PixelQuake):
    """Blurs each pixel by as much as the map says: a Gaussian of its own width, wide ones as cheap as narrow.

    The width is radius x (c - rest) / (1 - rest): the whole radius at white, nothing at rest, darker as lighter where
    it is two-sided.
    """

    title = "Soften"
    group = "Look"
    rank = 2050
    in_light = True
    help = "Blurs by the map: depth of field, real heat haze"
    holds_border = True
    idle_because = "Its radius is 0"

    radius = a_distance(
        "Radius", "How wide the blur is at white: the standard deviation of a Gaussian", 12.0, (0, 60), (0, 1000)
    )
    by = a_channel("By", "The channel of the map that says how strongly")
    invert = Toggle(label="Invert", help="Blurs where the map rests, and is sharp at white")
    rest_by = replace(ReadsMap.rest_by, default="one")
    averages = True

    def idle(self) -> bool:
        return self.radius * self.strength == 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.radius * abs(self.strength)), at.width, at.height)

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        return self.shape(picture, outer, grid, ctx)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        amounts = self.amounts(grid, ctx)
        most = np.float32(max(min(ctx.at.width, ctx.at.height) * grid.scale, 1.0))
        strength, radius = np.float32(abs(self.strength)), np.float32(self.radius * grid.scale)

        def widths_of(amounts: NDArray[np.float32]) -> NDArray[np.float32]:
            found = np.abs(amounts)
            if self.invert:
                found = np.maximum(strength - found, 0)
            return np.minimum(found * radius, most)

        widths: NDArray[np.float32] = in_bands(widths_of, amounts)
        rows, columns = grid.inside(outer)
        return softened(np.ascontiguousarray(field), widths, columns.start, rows.start)

    def summary(self) -> str:
        return f"{self.radius * self.strength:.0f} px"

    def does_at(self, level: float, rest: float) -> tuple[str, float]:
        fraction = (level - rest) / (1 - rest if abs(1 - rest) > 1e-3 else 1e-3)
        far = abs(self.radius * self.strength * fraction)
        meant = self.invert or abs(fraction) > FAINT
        return ("", 0.0) if meant or far < SEEN else (f"it is blurred by {far:.1f} px", far)

    def graph(self, rest: float) -> Graph:
        far, span = abs(self.radius * self.strength), (1 - rest if abs(1 - rest) > 1e-3 else 1e-3)
        points = []
        for n in range(33):
            fraction = min(abs((n / 32 - rest) / span), 4.0)
            points.append(((max(1 - fraction, 0.0) if self.invert else fraction) * far, n / 32))
        return Graph((Curve(tuple(points)),), max(far, 1.0), "px", one_way=True)
