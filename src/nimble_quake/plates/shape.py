"""Shape."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from nimble_quake.conventions import Pixels, Value
from nimble_quake.media.drawing.drawn_shape import Paint, Repeat, Stroke, draw_shape
from nimble_quake.media.drawing.drawn_shape import Shape as Drawn
from nimble_quake.operators.base import Context, Traced
from nimble_quake.operators.plate_kind import CROP, MATTE, PIN, PlateKind, Raster
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, a_size, linked_to
from nimble_quake.params.kinds import Choice, Colour, Number, Outline, Pairs, Stop, Stops, Toggle, When, options
from nimble_quake.raster.geometry.figures import regular, smooth_line, smooth_outline

FILL, STROKE, COPIES, PLACE = "Fill", "Stroke", "Copies", "Place"
GRADIENTS = ("linear", "radial", "conic")
NIGHT = (Stop(0.0, (0.98, 0.75, 0.35, 1.0)), Stop(1.0, (0.75, 0.2, 0.35, 1.0)))

PLACED = ("position", "anchor", "scale_x", "scale_y", "turn", "blend", "opacity", "mask", "mask_invert", "mask_hook")
"""What says where a plate lies, and how it lies there."""


class Shape(PlateKind):
    """A drawn figure with a fill and a stroke, sharp at any size; copies of it may follow, each a step farther."""

    flat_colour = "colour"
    title = "Shape"
    rank = 20
    help = "Rectangle, line, ellipse, polygon, star or curve, filled and stroked"
    sections = (FILL, STROKE, COPIES, PLACE, CROP, MATTE, PIN)

    form = Choice(
        label="Figure",
        help="What is drawn",
        default="ellipse",
        options=options(
            rectangle="Rectangle",
            line="Line",
            ellipse="Ellipse",
            polygon="Polygon",
            star="Star",
            curve="Curve: smooth, through points of your own",
            free="Free: corners of your own",
        ),
    )
    width = a_size("Width", "How wide it is", 360.0, (10, 1920))
    height = linked_to(
        "width",
        a_size(
            "Height",
            "How high it is",
            360.0,
            (10, 1080),
            when=When("form", "rectangle", "ellipse", "polygon", "star", "curve", "free"),
        ),
    )
    corners = a_count("Corners", "How many corners or points", 5, 200, (3, 12), When("form", "polygon", "star"))
    notch = a_fraction("Notch", "How far in the notches of the star lie", 0.45, (0.01, 1), When("form", "star"))
    round = a_distance(
        "Rounding",
        "The radius of its corners",
        0.0,
        (0, 100),
        when=When("form", "rectangle", "polygon", "star", "free"),
    )
    points = Outline(
        label="Points",
        help="The points of its outline: drag them in the picture",
        shown_when=When("form", "curve", "free"),
        smooth_when=When("form", "curve"),
        closed_when=When("closed"),
    )
    closed = Toggle(
        label="Closed",
        help="Its end is joined to its beginning, so that it can be filled",
        default=True,
        shown_when=When("form", "curve", "free"),
    )

    fill = Choice(
        label="Fill",
        help="How its inside is coloured",
        default="flat",
        section=FILL,
        options=options(
            none="None", flat="Flat", linear="Linear gradient", radial="Radial gradient", conic="Conic gradient"
        ),
    )
    colour = Colour(
        label="Fill colour",
        help="The colour inside",
        default=(0.98, 0.75, 0.35, 1.0),
        section=FILL,
        shown_when=When("fill", "flat"),
    )
    stops = Stops(
        label="Fill stops",
        help="The gradient's colours",
        default=NIGHT,
        section=FILL,
        shown_when=When("fill", *GRADIENTS),
    )
    fill_turn = Number(
        label="Fill turn",
        help="The bearing of the gradient",
        default=90.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        section=FILL,
        shown_when=When("fill", "linear", "conic"),
    )

    stroke = Choice(
        label="Stroke",
        help="How its edge is drawn",
        default="none",
        section=STROKE,
        options=options(none="None", flat="Flat", along="Gradient along it", across="Gradient across it, from its rim"),
    )
    thick = Number(
        label="Stroke width",
        help="How wide the stroke is, half inwards, half outwards",
        default=12.0,
        hard=(0, 5000),
        usual=(0, 80),
        unit="px",
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    ink = Colour(
        label="Stroke colour", help="The colour of the stroke", section=STROKE, shown_when=When("stroke", "flat")
    )
    ink_stops = Stops(
        label="Stroke stops",
        help="The colours of the stroke, from its beginning, or from its rim",
        default=NIGHT,
        section=STROKE,
        shown_when=When("stroke", "along", "across"),
    )
    begin = Number(
        label="Begins",
        help="Where along its length the stroke begins: moved to its end it vanishes",
        default=0.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    end = Number(
        label="Ends",
        help="Where along its length the stroke ends: from 0 to 100 % it draws itself",
        default=1.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    shift = Number(
        label="Moved on",
        help="Moves what is drawn of the stroke along it",
        default=0.0,
        hard=(-1000, 1000),
        usual=(-1, 1),
        unit="%",
        factor=100,
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    dash = Number(
        label="Dash",
        help="The length of its dashes; 0: none",
        default=0.0,
        zero="none",
        hard=(0, 5000),
        usual=(0, 100),
        unit="px",
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    gap = Number(
        label="Gap",
        help="The gap between dashes",
        default=20.0,
        hard=(0.1, 5000),
        usual=(1, 100),
        unit="px",
        decimals=1,
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )
    round_ends = Toggle(
        label="Round ends",
        help="Ends and joins of the stroke are round",
        section=STROKE,
        shown_when=When("stroke", "flat", "along", "across"),
    )

    copies = Number(
        label="Copies",
        help="How many there are in all",
        default=1,
        hard=(1, 500),
        usual=(1, 24),
        whole=True,
        decimals=0,
        section=COPIES,
    )
    offset = Pairs(
        label="Offset",
        help="How far each copy lies from the one before, across and down",
        default=(60.0, 0.0),
        unit="px",
        hard=(-20000, 20000),
        section=COPIES,
    )
    copy_turn = Number(
        label="Copy turn",
        help="How far each copy is turned more than the one before",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        section=COPIES,
    )
    copy_scale = Number(
        label="Copy scale",
        help="The size of each copy, beside the one before",
        default=1.0,
        neutral=1.0,
        hard=(0.01, 20),
        usual=(0.5, 1.5),
        unit="%",
        factor=100,
        decimals=1,
        section=COPIES,
    )
    fade = Number(
        label="Copy opacity",
        help="The opacity of each copy, beside the one before",
        default=1.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=COPIES,
    )

    # What it is comes first; where it lies is folded away with the rest.
    # By name, one after the other: no type follows that.
    position, anchor, scale_x, scale_y, turn, blend, opacity, mask, mask_invert, mask_hook = (  # type: ignore[assignment]
        replace(PlateKind.declared[name], section=PLACE) for name in PLACED
    )

    def _size(self) -> tuple[float, float]:
        return (self.width, 1.0) if self.form == "line" else (self.width, self.height)

    def box(self, ctx: Context) -> tuple[float, float]:
        return self._size()

    def _drawn(self) -> Drawn:
        """The figure about its middle."""
        size = np.array(self._size())
        corner = 0.0 if self.form in ("ellipse", "line", "curve") else self.round
        if self.form in ("ellipse", "rectangle"):
            return Drawn(self._size(), self.form, corner=corner)
        if self.form == "line":
            return Drawn(self._size(), "line", ((-self.width / 2, 0.0), (self.width / 2, 0.0)), closed=False)
        if self.form in ("polygon", "star"):
            own = regular(max(3, int(self.corners)), self.notch if self.form == "star" else 1.0) / 2
            return Drawn(self._size(), self.form, _pairs(own * size), corner=corner)
        own = np.array(self.points, np.float64)
        if self.form == "curve":
            own = smooth_outline(own, 16) if self.closed else smooth_line(own, 16)
        return Drawn(self._size(), self.form, _pairs(own * size), closed=self.closed, corner=corner)

    traced = Traced("points", "position", plain={"turn": 0.0, "scale_x": 1.0, "scale_y": 1.0, "anchor": (0.5, 0.5)})

    def own_points(self) -> dict[str, list[tuple[float, float]]]:
        if self.form not in ("curve", "free"):
            return {}
        return {"points": [((x + 0.5) * self.width, (y + 0.5) * self.height) for x, y in self.points]}

    def with_own_point(self, name: str, number: int, place: tuple[float, float]) -> Value:
        points = list(self.points)
        points[number] = (round(place[0] / self.width - 0.5, 4), round(place[1] / self.height - 0.5, 4))
        return tuple(points)

    def raster(self, ctx: Context, zoom: tuple[float, float], bleed: Pixels) -> Raster | None:
        fill = Paint(self.fill, self.colour, self.stops, self.fill_turn)
        edge = Paint(self.stroke, self.ink, self.ink_stops)
        if self.form == "line" and self.stroke == "none":
            edge = Paint("flat", self.colour)  # a line is its stroke
        thick = self.thick if edge.form != "none" else 0.0
        stroke = Stroke(thick, self.dash, self.gap, self.begin, self.end, self.shift, self.round_ends)
        repeat = Repeat(int(self.copies), self.offset, self.copy_turn, self.copy_scale, self.fade)
        picture, (left, top) = draw_shape(self._drawn(), fill, stroke, edge, repeat, zoom)
        x, y = self._size()[0] / 2 + left, self._size()[1] / 2 + top
        return Raster(picture, (zoom[0], 0.0, -x * zoom[0], 0.0, zoom[1], -y * zoom[1]), bits8=False)


def _pairs(points: Any) -> tuple[tuple[float, float], ...]:
    return tuple((float(x), float(y)) for x, y in points)
