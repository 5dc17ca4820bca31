"""Sharpen."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Shaper, values_of
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.geometry.grid import Grid


class Sharpen(Shaper):
    """Unsharp mask: adds the difference to a blurred copy."""

    title = "Sharpen"
    group = "Softness"
    help = "Harder edges: where the picture waved, it tears"
    holds_border = True
    averages = True
    lively = {"radius": 24.0}

    radius = a_distance("Radius", "How wide the edges are that it works on", 6.0, (0, 40), (0, 300))
    amount = a_fraction("Amount", "How much is added", 1.5, (0, 50))

    def idle(self) -> bool:
        return self.radius <= 0 or self.amount <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.radius), at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = self.radius * grid.scale
        inside = grid.inside(outer)
        soft = gaussian_inside(field, sigma, sigma, inside)
        out = field[inside].copy()
        values = values_of(out)
        values += (values - values_of(soft)) * np.float32(self.amount)
        return out
