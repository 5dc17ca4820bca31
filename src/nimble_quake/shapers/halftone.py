"""Halftone."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction, a_size, an_angle
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.blur.filters import gaussian_inside
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.screens import screened


class Halftone(Shaper):
    """Dots, lines or hatching whose area is the value: the tone stays, the edges are hard."""

    title = "Halftone"
    group = "Cells"
    meant_to_clip = True
    help = "Dots or lines, thicker where it is lighter"
    lively = {"size": 48.0}
    looks = (
        ("Line screen", "Lines, thicker where it is lighter", {"form": "lines", "turn": 0.0}),
        ("Hatch", "Lines crossed over lines, as it gets lighter", {"form": "hatch"}),
    )

    form = Choice(
        label="Kind",
        help="What the tone is made of",
        default="dots",
        row=True,
        options=options(dots="Dots", lines="Lines", hatch="Hatch: crossed lines"),
    )
    size = a_size("Cell", "Distance from dot to dot, or line to line", 18.0, (4, 80), low=2.0)
    turn = an_angle("Turns the screen", 20.0)
    soft = a_fraction("Softness", "How soft the edges are, beside a cell", 0.0)

    def margin(self, at: Moment) -> Pixels:
        return min(2 * self.size, at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = 0.35 * self.size * grid.scale  # the tone of a cell, not of a pixel
        tone = gaussian_inside(np.ascontiguousarray(channel(field, "value"))[..., None], sigma, sigma)[
            grid.inside(outer)
        ]
        return screened(np.ascontiguousarray(tone), grid, self.form, self.size, self.turn, self.soft)
