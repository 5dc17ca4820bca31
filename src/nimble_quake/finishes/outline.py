"""Outline."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.params.kinds import Choice, Colour, Number, Place, Stop, Stops, When, options
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.rims import Coverage, alpha_of, grown, laid_under, softened
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.gradient import along, colour_at

RISE = 0.1
"""Over so much alpha above the threshold a plate comes to count wholly."""


class Outline(Finish):
    """A line round the plate's own outline, on its rim or away from it, sharp or soft inwards and outwards."""

    title = "Outline"
    group = "Rims"
    unseen_where_full = NO_RIM
    rank = 210
    in_light = True
    help = "A line round its outline, in a colour or a gradient"
    holds_border = True
    lively = {"width": 24.0}
    looks = (("Hollow", "The line alone", {"shows": "alone"}),)

    width = a_distance("Width", "How wide the line is", 8.0, (0, 60), (0, 500))
    offset = Number(
        label="Offset",
        help="How far outside the rim it begins; below 0 inside it",
        default=0.0,
        hard=(-500, 500),
        usual=(-40, 40),
        unit="px",
        decimals=1,
    )
    corners = Choice(
        label="Corners",
        help="Round, or square: upright corners stay corners",
        default="round",
        row=True,
        options=options(round="Round", square="Square"),
    )
    threshold = Number(
        label="Threshold",
        help="From which alpha on the plate counts as there: above 0 the line runs inside what is soft or faint",
        default=0.0,
        hard=(0, 0.99),
        usual=(0, 0.9),
        unit="%",
        factor=100,
        decimals=0,
    )
    soft_out = a_distance("Soft outwards", "How softly it ends on its outer side", 0.0, (0, 40), (0, 500))
    soft_in = a_distance("Soft inwards", "How softly it ends on its inner side", 0.0, (0, 40), (0, 500))
    paint = Choice(
        label="Colouring",
        help="One colour, or a gradient over the frame",
        default="flat",
        row=True,
        options=options(flat="Flat", gradient="Gradient"),
    )
    colour = Colour(label="Colour", help="The line's colour", shown_when=When("paint", "flat"))
    stops = Stops(
        label="Stops",
        help="The gradient's colours",
        shown_when=When("paint", "gradient"),
        default=(Stop(0.0, (1.0, 0.8, 0.3, 1.0)), Stop(1.0, (0.9, 0.2, 0.5, 1.0))),
    )
    start = Place(
        label="Start", help="Where the gradient begins", default=(0.5, 0.25), shown_when=When("paint", "gradient")
    )
    end = Place(label="End", help="Where the gradient ends", default=(0.5, 0.75), shown_when=When("paint", "gradient"))
    shows = Choice(
        label="Shows",
        help="The line with its plate, or alone",
        default="with",
        row=True,
        options=options(**{"with": "With the plate", "alone": "Alone"}),
    )

    def idle(self) -> bool:
        return self.width <= 0 and self.shows == "with"

    def margin(self, at: Moment) -> Pixels:
        reach = max(abs(self.offset), abs(self.offset + self.width)) + blur_margin(max(self.soft_in, self.soft_out) / 2)
        return min(reach + 2, at.width, at.height)

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        return (("start", "end"),)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        alpha, inside, scale = self._counted(alpha_of(field)), grid.inside(outer), grid.scale
        line = softened(grown(alpha, (self.offset + self.width) * scale, self.corners), self.soft_out * scale / 2)
        own = field[inside]
        apart = self.offset != 0 or self.soft_in > 0 or self.threshold > 0
        if self.shows == "alone" or apart:  # else it simply goes on beneath its plate
            within = grown(alpha, self.offset * scale, self.corners)
            line = np.clip(line - softened(within, self.soft_in * scale / 2), 0, 1)
        line = np.ascontiguousarray(line[inside])
        if self.paint == "flat" and self.offset >= 0:
            return laid_under(own if self.shows == "with" else np.zeros_like(own), line, self.colour)
        drawn = self._coloured(grid, line)
        if self.shows == "alone":
            return drawn
        top, low = (own, drawn) if self.offset >= 0 else (drawn, own)
        return np.asarray(top + low * (1 - top[..., 3:]), np.float32)

    def _counted(self, alpha: Coverage) -> Coverage:
        """An alpha as it counts: from the threshold on, to the whole within a tenth, so that its edge stays smooth."""
        if self.threshold <= 0:
            return alpha
        rise = min(RISE, 1 - self.threshold)
        return np.asarray(np.clip((alpha - np.float32(self.threshold)) / np.float32(rise), 0, 1))

    def _coloured(self, grid: Grid, line: Coverage) -> Picture:
        """The line by itself."""
        if self.paint == "flat":
            colours = np.tile(np.array(self.colour, np.float32), (*line.shape, 1))
        else:
            colours = np.array(colour_at(self.stops, along(grid, "linear", self.start, self.end)))
        colours[..., :3] *= colours[..., 3:]
        return np.asarray(colours * line[..., None], np.float32)
