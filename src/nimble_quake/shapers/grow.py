"""Grow and shrink."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.blur.morphology import morphed
from nimble_quake.raster.geometry.grid import Grid


class Grow(Shaper):
    """Grows what is light over what is dark, or the other way round; opened and closed, it cleans up."""

    title = "Grow"
    group = "Softness"
    alpha = "premultiplied"
    help = "Light parts grow or shrink; along one axis, into streaks"
    lively = {"radius": 40.0}
    looks = (("Shrink", "Dark parts grow", {"way": "shrink"}),)

    way = Choice(
        label="Way",
        help="What it does to light parts",
        default="grow",
        row=True,
        options=options(
            grow="Grow", shrink="Shrink", open="Open: small light parts go", close="Close: small dark parts go"
        ),
    )
    radius = a_distance("Radius", "How far, to each side", 12.0, (0, 60), (0, 400))
    form = Choice(
        label="Form",
        help="The shape it grows by",
        default="round",
        row=True,
        options=options(
            round="Round", square="Square", across="Across: to both sides alone", down="Down: up and down alone"
        ),
    )

    def idle(self) -> bool:
        return self.radius <= 0

    def margin(self, at: Moment) -> Pixels:
        times = 2 if self.way in ("open", "close") else 1
        return min(self.radius * times + 1, at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        out = morphed(field, self.way, self.form, self.radius * grid.scale)
        return np.ascontiguousarray(out[grid.inside(outer)])
