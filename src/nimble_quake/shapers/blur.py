"""Gaussian blur."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.filters import blur_margin, gaussian
from nimble_quake.raster.grid import Grid


class Blur(Shaper):
    """Gaussian blur: hard edges tear the picture, soft ones let it wave."""

    title = "Blur"
    group = "Softness"
    help = "Softens edges, so that the picture waves instead of tearing"

    radius = Number(
        label="Radius", help="Standard deviation of the Gaussian, as in CSS blur()", default=8.0, hard=(0, 1000),
        usual=(0, 40), unit="px",
    )  # fmt: skip
    along = Choice(
        label="Along", help="Which way it softens", default="both", row=True,
        options=options(both="Both", across="Across", down="Down"),
    )  # fmt: skip

    def idle(self) -> bool:
        return self.radius <= 0

    def margin(self, at: Moment) -> Pixels:
        # Beyond a frame's side the edge is held: nobody sees the difference, and memory stays bounded.
        return min(blur_margin(self.radius), at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = self.radius * grid.scale
        sx, sy = sigma * (self.along != "down"), sigma * (self.along != "across")
        return np.ascontiguousarray(gaussian(field, sx, sy)[grid.inside(outer)])
