"""Options of all couplings that bend: colour split, and what is done to the picture before and after."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Pixels, Value
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate, Spread
from nimble_quake.operators.reading import ReadsMap
from nimble_quake.operators.steps import Shaper, Step
from nimble_quake.params.kinds import Choice, Number, Place, Toggle, When, options
from nimble_quake.raster.blur.filters import blur_margin, gaussian_inside
from nimble_quake.raster.finishes.flank_light import lit_flanks
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.operations import Bend, placed
from nimble_quake.raster.warps.slopes import slopes

SPLIT, LIGHT, CUT, BEFORE = "Colour split", "Light", "Cut-out", "Picture before"


def _fraction(label: str, help: str, section: str, default: float, hard: tuple[float, float], **more: Value) -> Number:
    usual = (max(hard[0], -0.5), min(hard[1], 1.0))
    return Number(
        label=label,
        help=help,
        section=section,
        default=default,
        hard=hard,
        usual=usual,
        unit="%",
        factor=100,
        decimals=0,
        **more,
    )


class Splits(Coordinate):
    """Strengths of their own for red, green and blue, in the same sampling."""

    split = Toggle(label="Split", help="Moves the colours by different strengths", section=SPLIT)
    split_by = Choice(
        label="Into",
        help="Three colours, or a whole spectrum between the two ends",
        default="three",
        row=True,
        options=options(three="Three", spectrum="Spectrum"),
        section=SPLIT,
        shown_when=When("split"),
    )
    split_red = _fraction("Red", "How much farther red is moved", SPLIT, -0.08, (-10, 10), shown_when=When("split"))
    split_green = _fraction("Green", "How much farther green is moved", SPLIT, 0.0, (-10, 10), shown_when=When("split"))
    split_blue = _fraction("Blue", "How much farther blue is moved", SPLIT, 0.08, (-10, 10), shown_when=When("split"))
    split_samples = Number(
        label="Samples",
        help="How many colours the spectrum has: more is smoother, and slower",
        default=7.0,
        hard=(3, 32),
        usual=(3, 16),
        whole=True,
        decimals=0,
        section=SPLIT,
        shown_when=When("split_by", "spectrum"),
    )
    split_soft = _fraction(
        "Softness", "How far the colours run into one another", SPLIT, 0.0, (0, 1), shown_when=When("split")
    )
    split_form = Choice(
        label="Shape",
        help="Even: alike everywhere. Radial: growing from a centre, as a lens does",
        default="even",
        row=True,
        options=options(even="Even", radial="Radial"),
        section=SPLIT,
        shown_when=When("split"),
    )
    split_centre = Place(
        label="Split centre",
        help="Where the colours do not part",
        section=SPLIT,
        shown_when=When("split_form", "radial"),
    )

    def spread(self) -> Spread | None:
        ends = (self.split_red, self.split_green, self.split_blue)
        if not self.split or ends == (0.0, 0.0, 0.0):
            return None
        centre = self.split_centre if self.split_form == "radial" else None
        if self.split_by == "three" and self.split_soft <= 0:
            return Spread(np.array(ends, np.float32), np.eye(3, dtype=np.float32), centre)
        return spectrum(ends, int(self.split_samples) if self.split_by == "spectrum" else 9, self.split_soft, centre)


def spectrum(ends: tuple[float, float, float], count: int, soft: float, centre: tuple[float, float] | None) -> Spread:
    """Return `count` colours between the ends, each channel a hat about its own, 1 + 2 `soft` spaces wide.

    The weights of each channel sum to 1, so that a picture without offsets keeps its colours.
    """
    along = np.linspace(0, 2, count)
    factors = np.interp(along, (0, 1, 2), ends)
    hats = np.maximum(0.0, 1 - np.abs(along[:, None] - np.arange(3)[None]) / (0.5 + soft + 1e-6))
    hats += 1e-6 * np.exp(-np.abs(along[:, None] - np.arange(3)[None]))  # where no sample lies under a hat
    return Spread(factors.astype(np.float32), (hats / hats.sum(axis=0)).astype(np.float32), centre)


class BeforeAndAfter(ReadsMap, Shaper):
    """The picture turned or blurred before it is bent; light from the map's slope, and a cut-out, afterwards."""

    before = Toggle(label="Change it", help="Changes the picture before it is bent", section=BEFORE)
    flip_x = Toggle(label="Flip across", help="Left becomes right", section=BEFORE, shown_when=When("before"))
    flip_y = Toggle(label="Flip down", help="Top becomes bottom", section=BEFORE, shown_when=When("before"))
    before_turn = Number(
        label="Turned",
        help="Turns it clockwise",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        section=BEFORE,
        shown_when=When("before"),
    )
    before_scale = _fraction("Scaled", "Its size", BEFORE, 1.0, (0.01, 100), shown_when=When("before"))
    before_blur = Number(
        label="Blurred",
        help="Softens it: the standard deviation of a Gaussian",
        default=0.0,
        hard=(0, 400),
        usual=(0, 40),
        unit="px",
        section=BEFORE,
        shown_when=When("before"),
    )
    before_about = Place(label="About", help="The place that stays", section=BEFORE, shown_when=When("before"))

    light = Toggle(label="Light", help="Lights the picture by the map's slope", section=LIGHT)
    light_brightness = _fraction(
        "Brightness",
        "How much light is added, and taken away opposite",
        LIGHT,
        0.35,
        (-10, 10),
        shown_when=When("light"),
    )
    light_from = Number(
        label="Light from",
        help="Where the light comes from; 0 from the right, clockwise",
        default=-135.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        ring=True,
        section=LIGHT,
        shown_when=When("light"),
    )
    light_sharp = Number(
        label="Sharpness",
        help="How narrow the light is: high keeps it to the steepest flanks",
        default=1.0,
        hard=(0.05, 50),
        usual=(0.2, 8),
        decimals=1,
        section=LIGHT,
        shown_when=When("light"),
    )
    light_depth = Number(
        label="Depth",
        help="How high white stands above black: more makes every flank steeper",
        default=60.0,
        hard=(0, 10000),
        usual=(0, 300),
        unit="px",
        decimals=0,
        section=LIGHT,
        shown_when=When("light"),
    )
    light_rim = _fraction(
        "Rim fall-off",
        "How fast it fades along a rim, away from where the light comes from",
        LIGHT,
        0.0,
        (0, 20),
        shown_when=When("light"),
    )

    cut = Toggle(label="Cut out", help="Keeps only where the map says", section=CUT)
    cut_by = Choice(
        label="Cut by",
        help="What the cut-out is made of",
        default="value",
        row=True,
        options=options(value="Value", alpha="Alpha"),
        section=CUT,
        shown_when=When("cut"),
    )
    cut_low = Number(
        label="Clear at",
        help="The map value that is wholly clear",
        default=0.45,
        hard=(-4, 5),
        usual=(0, 1),
        decimals=3,
        section=CUT,
        shown_when=When("cut"),
    )
    cut_high = Number(
        label="Full at",
        help="The map value that is wholly there",
        default=0.55,
        hard=(-4, 5),
        usual=(0, 1),
        decimals=3,
        section=CUT,
        shown_when=When("cut"),
    )

    def still(self) -> bool:
        """Whether nothing at all is done, before and after too."""
        return False

    def parts(self) -> tuple[Step, ...]:
        found: list[Step] = []
        if self.still():
            return ()
        if self.before:
            found += [BeforeBend(self._values), BeforeBlur(self._values)]
        found.append(self)
        if self.light and self.map and self.light_brightness:
            found.append(Lit(self))
        if self.cut and self.map:
            found.append(CutOut(self._values))
        return tuple(step for step in found if not step.idle())


class BeforeBend(BeforeAndAfter, Coordinate):
    """Flips, turns and scales the picture."""

    def idle(self) -> bool:
        return (self.flip_x, self.flip_y, self.before_turn, self.before_scale) == (False, False, 0, 1)

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        across, down = (-1 if flip else 1 for flip in (self.flip_x, self.flip_y))
        size = self.before_scale
        return (placed(self.before_about, (0.0, 0.0), self.before_turn, across * size, down * size),)


class BeforeBlur(BeforeAndAfter):
    """Softens the picture."""

    averages = True

    def idle(self) -> bool:
        return self.before_blur <= 0

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.before_blur), at.width, at.height)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        sigma = self.before_blur * grid.scale
        return gaussian_inside(field, sigma, sigma, grid.inside(outer))


class Lit(BeforeAndAfter):
    """Adds light on flanks that face it, and takes it from those that do not. by: the coupling whose map that is."""

    def __init__(self, by: BeforeAndAfter) -> None:
        super().__init__(by.values)
        self._by = by

    def run(self, grid: Grid, ctx: Context) -> Field:
        return lit_by_map(ctx.below(grid), self._by, grid, ctx)


def lit_by_map(field: Field, by: BeforeAndAfter, grid: Grid, ctx: Context) -> Field:
    """Return a picture or map lit by the slope of the map that a coupling reads."""
    wide = grid.grown(max(2, grid.samples(by.reading_margin())))
    values = by.levels(by.field_at(Places(wide), ctx), "value", 0, by.level_now(ctx))
    slope = slopes(np.ascontiguousarray(values), 3)
    slope *= np.float32(by.light_depth * grid.scale)
    numbers = (by.light_from, by.light_sharp, 4 * by.light_rim, by.light_brightness)
    return lit_flanks(np.ascontiguousarray(field), slope, grid.inside(wide), *numbers, bool(ctx.picture))


class CutOut(BeforeAndAfter):
    """Makes clear what the map does not keep; on a lens, shows there what lies beneath it as it is."""

    def run(self, grid: Grid, ctx: Context) -> Field:
        field = ctx.below(grid)
        values = self.levels(self.field_at(Places(grid), ctx), self.cut_by, 0, self.level_now(ctx))
        span = self.cut_high - self.cut_low
        span = span if abs(span) > 1e-6 else 1e-6
        t = np.clip((values - np.float32(self.cut_low)) * np.float32(1 / span), 0, 1)
        kept = (t * t * (3 - 2 * t))[..., None]
        if ctx.picture:
            through = ctx.untouched(grid)
            if through is not None:
                return np.asarray(through + (field - through) * kept, np.float32)
            return np.asarray(field * kept, np.float32)
        rest = np.float32(ctx.rest)
        return np.asarray(rest + (field - rest) * kept, np.float32)
