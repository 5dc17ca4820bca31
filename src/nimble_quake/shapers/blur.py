"""Blurs."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field, Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import an_angle
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, Number, Place, Toggle, When, options
from nimble_quake.raster.blur.filters import blur_margin, boxed, gaussian_inside
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.outline import within_outline
from nimble_quake.raster.warps.trails import along_line, from_centre


class Blur(Shaper):
    """Softens: hard edges tear the picture, soft ones let it wave. The border's values go on beyond it."""

    title = "Blur"
    group = "Softness"
    rank = 1100
    in_light = True
    help = "Softens edges, so that the picture waves instead of tearing"
    holds_border = True
    averages = True
    lively = {"radius": 40.0}
    looks = (
        ("Line blur", "Along one bearing", {"form": "line", "radius": 60.0}),
        ("Zoom blur", "Away from a centre", {"form": "centre", "amount": 0.25}),
        ("Turning blur", "Round a centre", {"form": "turning", "sweep": 18.0}),
    )

    form = Choice(
        label="Kind",
        help="How it softens",
        default="gaussian",
        options=options(
            gaussian="Gaussian",
            box="Box: an even square",
            line="Line: along one bearing",
            centre="Centre: away from a centre",
            turning="Turning: round a centre",
        ),
    )
    radius = Number(
        label="Radius",
        help="Standard deviation of the Gaussian, as in CSS blur(); half a box or line",
        default=8.0,
        hard=(0, 1000),
        usual=(0, 40),
        unit="px",
        shown_when=When("form", "gaussian", "box", "line"),
    )
    along = Choice(
        label="Along",
        help="Which way it softens",
        default="both",
        row=True,
        options=options(both="Both", across="Across", down="Down"),
        shown_when=When("form", "gaussian", "box"),
    )
    turn = an_angle("Bearing of the line", 0.0, "Bearing")
    centre = Place(
        label="Centre", help="What it blurs away from, or round", shown_when=When("form", "centre", "turning")
    )
    amount = Number(
        label="Amount",
        help="How far, beside the distance from the centre",
        default=0.15,
        hard=(0, 1),
        usual=(0, 0.5),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=When("form", "centre"),
    )
    sweep = Number(
        label="Sweep",
        help="How far round",
        default=10.0,
        hard=(0, 360),
        usual=(0, 60),
        unit="°",
        shown_when=When("form", "turning"),
    )

    keep = Toggle(label="Keep outline", help="On a picture: its own outline stays sharp, only what is in it is blurred")

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        soft = self.shape(picture, outer, grid, ctx)
        if not self.keep:
            return soft
        return within_outline(soft, picture[grid.inside(outer)])

    def idle(self) -> bool:
        return {"centre": self.amount, "turning": self.sweep}.get(self.form, self.radius) <= 0

    def margin(self, at: Moment) -> Pixels:
        # Beyond a frame's side the edge is held: nobody sees the difference, and memory stays bounded.
        most = min(at.width, at.height)
        if self.form in ("centre", "turning"):
            return 0.0
        return min(blur_margin(self.radius) if self.form == "gaussian" else self.radius + 2, most)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        if self.form == "centre":
            return from_centre(field, grid, self.centre, self.amount, 0.0)
        if self.form == "turning":
            return from_centre(field, grid, self.centre, 0.0, math.radians(self.sweep))
        size = self.radius * grid.scale
        across, down = size * (self.along != "down"), size * (self.along != "across")
        if self.form == "gaussian":
            return gaussian_inside(field, across, down, grid.inside(outer))
        if self.form == "box":
            soft = boxed(field, across, down)
        else:
            soft = along_line(field, math.radians(self.turn), size)
        return np.ascontiguousarray(soft[grid.inside(outer)])
