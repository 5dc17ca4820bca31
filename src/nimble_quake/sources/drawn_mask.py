"""Drawn mask."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Value
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context, Traced
from nimble_quake.operators.quantities import a_count, a_distance, a_level, a_size, an_angle, linked_to
from nimble_quake.operators.steps import Made, Source
from nimble_quake.params.kinds import Choice, Outline, Place, Toggle, When, options
from nimble_quake.raster.geometry.feathered import feathered, feathered_box
from nimble_quake.raster.geometry.figures import regular, smooth_outline
from nimble_quake.raster.geometry.grid import Grid

AROUND = 96
"""Points an ellipse is drawn with."""


class DrawnMask(Source):
    """A shape drawn by hand in the picture: white inside, black outside, with a feather between.

    The feather is measured from the edge, half inwards, half outwards. More of them in one map are joined by
    "lighten", cut out of one another by "multiply" of an inverted one.
    """

    title = "Drawn mask"
    group = "Shapes"
    rank = 30
    help = "A shape drawn in the picture, white inside, with a feather"
    meant_to_clip = True
    looks = (
        ("Box mask", "A rectangle", {"form": "rectangle"}),
        ("Polygon mask", "Corners of your own", {"form": "polygon"}),
        ("Curve mask", "A smooth curve through points of your own", {"form": "curve"}),
    )

    form = Choice(
        label="Figure",
        help="What is drawn",
        default="ellipse",
        options=options(
            ellipse="Ellipse",
            rectangle="Rectangle",
            polygon="Polygon: corners of your own",
            curve="Curve: smooth, through points of your own",
            regular="Regular: even corners",
        ),
    )
    place = Place(label="Place", help="Its middle")
    width = a_size("Width", "Width of the figure", 640.0, (10, 1920))
    height = linked_to("width", a_size("Height", "Height of the figure", 400.0, (10, 1080)))
    turn = an_angle()
    corners = a_count("Corners", "How many corners", 6, 64, (3, 12), When("form", "regular"))
    outline = Outline(
        label="Points",
        help="The points of its outline: drag them in the picture",
        shown_when=When("form", "polygon", "curve"),
        smooth_when=When("form", "curve"),
    )
    feather = a_distance("Feather", "How wide its edge fades, half inwards, half outwards", 24.0, (0, 400), (0, 20000))
    grow = a_distance("Grow", "Makes it larger all round; below 0 smaller", 0.0, (-100, 100), (-5000, 5000))
    invert = Toggle(label="Invert", help="Black inside, white outside")
    high = a_level("Inside", "The value inside", 1.0)
    low = a_level("Outside", "The value outside", 0.0)

    traced = Traced("outline")

    @classmethod
    def boxes(cls) -> tuple[tuple[str, str, str], ...]:
        return (("place", "width", "height"),)

    def make(self, grid: Grid, ctx: Context) -> Made:
        fade = (self.feather, self.grow)
        if self.form in ("ellipse", "rectangle"):
            size, is_round = (self.width, self.height), self.form == "ellipse"
            fraction = feathered_box(grid, self.place, size, self.turn, *fade, is_round=is_round)
        else:
            fraction = feathered(grid, self._corners(), *fade)
        if self.invert:
            fraction = 1 - fraction
        return np.asarray(self.low + fraction * np.float32(self.high - self.low), np.float32)[..., None]

    def rest(self, ctx: Context) -> float:
        return 0.0

    def _corners(self) -> np.ndarray:
        """The outline, (N, 2) shot pixels."""
        if self.form in ("polygon", "curve"):
            fractions = np.array(self.outline, np.float64)
            if self.form == "curve":
                fractions = smooth_outline(fractions, 8)
        elif self.form == "rectangle":
            fractions = np.array([(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5)])
        elif self.form == "regular":
            fractions = regular(max(3, int(self.corners)), 1.0) / 2
        else:
            angle = np.linspace(0, 2 * np.pi, AROUND, endpoint=False)
            # a polygon of many corners with the ellipse's own area
            round_ = 0.5 * np.sqrt(2 * np.pi / AROUND / np.sin(2 * np.pi / AROUND))
            fractions = np.stack([np.cos(angle), np.sin(angle)], axis=1) * round_
        own = fractions * (self.width, self.height)
        c, s = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        return np.asarray(own @ np.array([[c, s], [-s, c]]) + self.place)

    def drawn_lines(self, moment: Moment) -> list[list[tuple[float, float]]]:
        corners = [(float(x), float(y)) for x, y in self._corners()]
        return [[*corners, corners[0]]]

    def dragged_points(self, moment: Moment) -> dict[str, list[tuple[float, float]]]:
        if self.form not in ("polygon", "curve"):
            return {}
        c, s = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        own = np.array(self.outline, np.float64) * (self.width, self.height)
        return {"outline": [(float(x), float(y)) for x, y in own @ np.array([[c, s], [-s, c]]) + self.place]}

    def with_point(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Value:
        c, s = np.cos(np.radians(self.turn)), np.sin(np.radians(self.turn))
        x, y = (np.array(place) - self.place) @ np.array([[c, -s], [s, c]])
        points = list(self.outline)
        points[number] = (round(float(x / self.width), 4), round(float(y / self.height), 4))
        return tuple(points)
