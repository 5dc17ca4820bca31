"""Slope."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field, Pixels, Values, Warp
from nimble_quake.operators.base import Context, MadeOf
from nimble_quake.operators.coordinates import Spread
from nimble_quake.operators.graphs import Curve, Graph, plotted
from nimble_quake.operators.quake import BendQuake
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.reading import a_channel
from nimble_quake.operators.steps import refit_smoothness
from nimble_quake.params.kinds import Choice, Number, When, options
from nimble_quake.params.refit import Refit
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.threads.extremes import ends_of
from nimble_quake.raster.warps.refraction import STEEPEST, bent_by_slope, shift_of
from nimble_quake.raster.warps.slopes import blur_before_slope, soft_slopes

INDICES = {"water": 1.333, "glass": 1.5, "diamond": 2.42}


class Slope(BendQuake):
    """Reads the map as the height of a clear surface and looks through it: flat parts still, flanks bent.

    Simple: p shows p + depth x slope. Physical: a ray from straight above meets the surface, is bent by Snell's law,
    n1 sin a = n2 sin b (Born & Wolf, Principles of Optics, section 1.5), and lands depth x tan(a - b) aside, uphill.
    """

    title = "Slope"
    called = "refraction, glass, water"
    group = "Glass"
    rank = 2010
    help = "Like glass or water: flanks bend the picture, flat parts do not"
    lively = {"height": 160.0, "smooth": 10.0}
    idle_because = "Its height or its depth is 0"
    flat_is_still = True
    better_for_slopes = "push"

    height = Number(
        label="Height",
        help="How high white stands above black: more makes every flank steeper",
        default=90.0,
        hard=(-1e6, 1e6),
        usual=(0, 300),
        unit="px",
        decimals=0,
    )
    smooth = a_distance(
        "Smoothness", "Softens the height first: soft, as water, or crisp, as cut glass", 8.0, (0, 60), (0, 400)
    )
    bends_by = Choice(
        label="Bends by",
        help="Simple, or as light is bent going into a clear stuff",
        default="simple",
        options=options(
            simple="Simple", water="Water, 1.33", glass="Glass, 1.50", diamond="Diamond, 2.42", own="Index"
        ),
    )
    index = Number(
        label="Index",
        help="The refractive index of the stuff; below 1, as from water up into air",
        default=1.5,
        hard=(0.2, 10),
        usual=(1, 2.5),
        decimals=3,
        shown_when=When("bends_by", "own"),
    )
    depth = Number(
        label="Depth",
        help="How far beneath the surface the picture lies: more bends it farther",
        default=40.0,
        hard=(-1e6, 1e6),
        usual=(0, 200),
        unit="px",
        decimals=0,
    )
    dispersion = Number(
        label="Dispersion",
        help="Added to the index for blue, taken off for red: 0.02 makes 1.5 to 1.48 and 1.52, and rims coloured",
        default=0.0,
        hard=(-1, 1),
        usual=(0, 0.1),
        decimals=3,
        shown_when=When("bends_by", "water", "glass", "diamond", "own"),
    )
    height_from = a_channel("Height by", "The channel that is the height")

    @classmethod
    def refit_rest(cls, values: Values, by: Refit) -> Values:
        return refit_smoothness(values, cls.smooth, by)

    def idle(self) -> bool:
        return self.height * self.depth * self.strength == 0

    def _index(self) -> float:
        return 0.0 if self.bends_by == "simple" else INDICES.get(self.bends_by, self.index)

    def _made(self, gain: float = 1.0) -> MadeOf:
        height = self.height * gain

        def make(field: Field, outer: Grid, grid: Grid) -> Field:
            values = np.ascontiguousarray(self.read_levels(field, self.height_from, 0, 0.5))
            return soft_slopes(
                values, blur_before_slope(self.smooth, grid.scale), height * grid.scale, grid.inside(outer)
            )

        key = ("slope", height, self.smooth, self.height_from, self.clear)
        return MadeOf(make, min(blur_margin(self.smooth) + 8, 4000.0), key)

    def offsets(self, places: Places, ctx: Context) -> Warp:
        slope = self.field_at(places, ctx, self._made(self.gain(self.level_now(ctx))))
        moves = bent_by_slope(slope, self._index(), self.depth * self.strength)
        return ctx.reads.turned(moves, self.hook)

    def reading_margin(self) -> Pixels:
        return self._made().margin

    def spread(self) -> Spread | None:
        index = self._index()
        if not index or not self.dispersion or index <= 1:
            return super().spread()
        ends = (-self.dispersion / (index - 1), 0.0, self.dispersion / (index - 1))  # of the shift, for small angles
        return Spread(np.array(ends, np.float32), np.eye(3, dtype=np.float32))

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        made = self._made(self.gain(self.level_now(ctx)))

        def steepest() -> float:
            slope = ctx.reads.whole(self.map, made)
            return math.hypot(*(max(map(abs, ends_of(slope[..., axis]))) for axis in (0, 1)))

        most = min(ctx.reads.remembered(self.map, ("steepest", made.key), steepest), STEEPEST)
        far = abs(shift_of(most, self._index(), self.depth * self.strength))
        return ctx.reads.stretched(far, self.hook)

    def summary(self) -> str:
        return f"{self.height:.0f} px"

    def graph(self, rest: float) -> Graph:
        """The shift of a flank, from 45 degrees down to 45 degrees up."""
        index, depth = self._index(), self.depth * self.strength
        points = tuple((shift_of(t * 2 - 1, index, depth), t) for t, _ in plotted(lambda t: t, 0.0, 1.0))
        reach = max(abs(x) for x, _ in points)
        return Graph((Curve(points),), max(reach, 1.0), "px", "flank")
