"""Line drawing."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Colour, Number
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.finishes.finishing import brightness_and_alpha, lined
from nimble_quake.raster.finishes.rims import border_extended
from nimble_quake.raster.geometry.grid import Grid


class LineDrawing(Finish):
    """Draws lines where the picture's brightness or outline changes quickly; the plate between them may show."""

    title = "Line drawing"
    group = "Rims"
    rank = 240
    help = "Lines along its contours, as drawn with a pen"
    lively = {"width": 6.0}
    looks = (
        ("Pen on paper", "Dark lines on white", {"colour": (0.08, 0.08, 0.12, 1.0), "paper": 1.0, "shows": 0.0}),
        ("Chalk lines", "Light lines over the picture", {"shows": 0.35}),
    )

    width = a_distance("Width", "How wide the lines are", 2.5, (1, 20), (0.5, 200))
    threshold = a_fraction("Threshold", "How strong a change must be to be drawn", 0.05, (0, 4))
    smooth = a_fraction("Smoothness", "How gently a line begins above the threshold", 0.15, (0.001, 4))
    colour = Colour(label="Line colour", help="The colour of the lines", default=(1.0, 0.95, 0.85, 1.0))
    shows = a_fraction("Plate shows", "How much of the plate shows between the lines", 0.0)
    paper = a_fraction("Paper", "How white it is between the lines, inside the plate's outline", 0.0)
    power = Number(
        label="Power",
        help="How strong the lines are",
        default=1.0,
        hard=(0, 20),
        usual=(0, 3),
        unit="%",
        factor=100,
        decimals=0,
    )

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.width / 2) + 16, at.width, at.height)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        inside, sigma = grid.inside(outer), max(self.width * grid.scale / 2, 0.3)
        tones = border_extended(brightness_and_alpha(field), outer, (ctx.at.width, ctx.at.height), fresh=True)
        soft = gaussian_inside(tones, sigma, sigma)
        corner = (inside[0].start, inside[1].start)
        return lined(
            np.ascontiguousarray(soft),
            field[inside],
            corner,
            self.width * grid.scale,
            self.threshold,
            self.smooth,
            self.power,
            self.colour,
            self.shows,
            self.paper,
        )
