"""Streaks."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture, Pixels, Sides
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, a_level
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.trails import streaked


class Streaks(Shaper):
    """Draws trails from light parts to one side, fading as they go; light that has left the frame still trails in."""

    title = "Streaks"
    group = "Softness"
    alpha = "premultiplied"
    help = "Trails that light parts leave to one side"
    lively = {"length": 700.0, "above": 0.7}

    way = Choice(
        label="To",
        help="Which way the trails lie",
        default="up",
        row=True,
        options=options(up="Up", down="Down", left="Left", right="Right"),
    )
    length = a_distance("Length", "After how far a trail has faded to a tenth", 180.0, (10, 800), (1, 5000))
    above = a_level("From", "Values above this leave trails", 0.5)
    strength = a_fraction("Strength", "How bright a trail is at its start", 0.9)

    def margin(self, at: Moment) -> Pixels:
        return min(self.length * 2, at.width, at.height)

    def sees(self, at: Moment) -> Sides:
        """Only where trails come from."""
        far = self.margin(at)
        return {"right": (far, 0, 0, 0), "down": (0, far, 0, 0), "left": (0, 0, far, 0), "up": (0, 0, 0, far)}[self.way]

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        planes = [self.shape(np.ascontiguousarray(picture[..., k : k + 1]), outer, grid, ctx) for k in range(4)]
        return np.concatenate(planes, axis=2)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        keep = 0.1 ** (1 / max(self.length * grid.scale, 0.2))
        out = streaked(field, self.way, keep, self.above, self.strength)
        return np.ascontiguousarray(out[grid.inside(outer)])
