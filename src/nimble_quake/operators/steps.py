"""The base classes of a recipe's steps: sources make values, shapers change the values made so far.

Four kinds of shaper, by what they need: a `Shaper` sees the values before it on a grid grown by its margin; a
`PointShaper` turns one value into another, wherever it is; a `Coordinate` step (operators.coordinates) says for every
place where it looks; and one that overrides `run` may ask for the steps before it on any grid, at any time.

Shapers work on pictures too, as finishes. Each declares how (`alpha`): on colours taken out of their alpha, as W3C
Filter Effects 1 has it for feComponentTransfer and feColorMatrix, or on premultiplied ones, as it has for
feGaussianBlur and feMorphology.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import ClassVar, TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import REST, Field, Picture, Pixels, Sides, Value, Values
from nimble_quake.motion.motion import is_moving
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import ACTS, Context, Operator
from nimble_quake.operators.graphs import Remark
from nimble_quake.params.kinds import Choice, MapRef, Number, Place, When, options
from nimble_quake.params.refit import Refit
from nimble_quake.raster.colour.channels import as_channels
from nimble_quake.raster.colour.clear import has_clear, unweighted, weighted
from nimble_quake.raster.colour.pointwise import Op, run_ops
from nimble_quake.raster.finishes.rims import border_extended
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.slopes import blur_before_slope

OPACITY = Number(
    label="Mix",
    help="How much of this step is used",
    default=1.0,
    neutral=1.0,
    gone=0.0,
    hard=(0, 1),
    usual=(0, 1),
    unit="%",
    factor=100,
    decimals=0,
)
NO_RIM = "The picture fills the frame: its rim lies outside"
"""Why nothing is seen of what acts along a rim."""
MASK = MapRef(label="Mask", help="A map that says where this step is used: all of it at white, nothing at black")
MASK_HOOK = Choice(
    label="Mask with",
    called="hook-up, attach",
    help="Frame: the mask stays where it is. Plate: it travels, turns and grows with the plate (never in a recipe)",
    default="frame",
    row=True,
    options=options(frame="Frame", plate="Plate"),
    shown_when=When("mask"),
)

STAGGER = "Staggered"
"""The section of what repeats a step later and later."""
TIMES = Number(
    label="Times",
    help="How often it acts in all, each time later than the one before, as one item",
    called="staggered, repeated",
    default=1.0,
    hard=(1, 12),
    usual=(1, 6),
    whole=True,
    decimals=0,
    section=STAGGER,
    nothing_at=1.0,
)
STAGGER_BY = Number(
    label="Later",
    help="How many frames each is later than the one before: its numbers and its map with it",
    called="staggered, offset",
    default=5.0,
    hard=(-10_000, 10_000),
    usual=(-12, 12),
    unit="f",
    decimals=1,
    section=STAGGER,
)
STAGGERS = frozenset({"stagger_times", "stagger_by"})

COMBINES = options(
    over="Over: covers what came before",
    add="Add: added about rest, so rest plus rest stays rest",
    average="Average: half of each",
    multiply="Multiply: darkens",
    screen="Screen: lightens",
    lighten="Lighten: keeps the lighter",
    darken="Darken: keeps the darker",
    difference="Difference: how far apart the two are",
    replace="Replace: takes its place, clear parts too",
)

Made: TypeAlias = Field | tuple[Field, Field]
"""Map values; or values (H, W, 1) and how much they cover, (H, W, 1), 0...1."""


class Step(Operator):
    """What sources and shapers share."""

    works_on: ClassVar[frozenset[str]] = frozenset({"map"})
    """On what it works: "map", "picture", or both."""

    # What a result depends on beside the resolved numbers and what they refer to. A step that asks its context for
    # more than it says here is refused it, so that none can be forgotten: see `Context`.

    sees_other_times: ClassVar[bool] = False
    """It asks for the steps before at other moments than now."""

    sees_beneath: ClassVar[bool] = False
    """It asks for what lies beneath its plate."""

    def timed(self) -> bool:
        """Whether it asks for the moment."""
        return self.sees_other_times

    encloses: ClassVar[bool] = False
    """The steps that follow it and name it lie inside it: see `Enclosing`."""
    sure: ClassVar[bool] = False
    """Inside the frame it moves nothing farther than it says beforehand: it reads its map there and nowhere else."""
    acts = ACTS
    opacity = OPACITY
    mask = MASK
    mask_hook = MASK_HOOK

    @property
    def masks_strength(self) -> bool:
        """Whether its mask weakens what it does, rather than mixing what it made."""
        return False

    idle_because: ClassVar[str] = "Its settings change nothing"
    """Why its settings may do nothing, for the line that says so."""

    def idle(self) -> bool:
        """Whether these numbers change nothing."""
        return False

    def parts(self) -> tuple[Step, ...]:
        """Return the steps it is made of, the one that acts first on the picture first; itself where it is one."""
        return () if self.idle() else (self,)

    def map_read(self) -> str:
        """Return the id of the map that drives it; empty where none does."""
        return ""

    def carries(self, ctx: Context) -> Pixels:
        """Return how far it can carry anything along either axis, in shot pixels; infinite where that is not known."""
        return math.inf

    def goes_round(self) -> bool:
        """Whether what it makes goes round a centre already."""
        return False

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        """Return what is off with it in the frame that is shown; None where nothing is.

        before: the steps before it, the first one first.
        """
        return None

    def lacking(self, grid: Grid, ctx: Context) -> NDArray[np.bool_] | None:
        """Return where it cannot show what it is asked for, (H, W); None where it can everywhere."""
        return None

    def eased(self) -> Values:
        """Return settings that keep more of its values from black and white; none where it clips nothing."""
        return {}

    def dragged_points(self, moment: Moment) -> dict[str, list[tuple[float, float]]]:
        """Return where the points of its lists lie, shot pixels, by parameter, to be dragged in the picture."""
        return {}

    tied_points: ClassVar[dict[str, str]] = {}
    """Lists whose points are handles of the points of another list: they are shown for the one dragged last."""

    def with_point(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Value:
        """Return a list of points with one of them dragged to a place."""
        raise NotImplementedError

    def drawn_lines(self, moment: Moment) -> list[list[tuple[float, float]]]:
        """Return the lines that are drawn with its handles, shot pixels."""
        return []


class Source(Step):
    """A step that makes values."""

    family = "source"
    without = frozenset({"mask_hook"})  # there is no plate it could travel with
    combine = Choice(label="Combine", help="How it meets the steps before it", default="over", options=COMBINES)

    def make(self, grid: Grid, ctx: Context) -> Made:
        """Return the map values on a grid, (H, W, 1), (H, W, 2) or (H, W, 4), or grey values with their cover."""
        raise NotImplementedError

    def rest(self, ctx: Context) -> float:
        """Return the value that this source's picture rests at."""
        return REST


class Shaper(Step):
    """A step that changes the values made so far."""

    family = "shaper"
    rank = 1900
    works_on = frozenset({"map", "picture"})
    stagger_times, stagger_by = TIMES, STAGGER_BY

    def __init_subclass__(cls, **kwargs: object) -> None:
        if cls.sees_other_times:  # it repeats in time by itself; several of it at once would look at times of times
            cls.without = cls.without | STAGGERS
        super().__init_subclass__(**kwargs)

    def margin(self, at: Moment) -> Pixels:
        """Return how far beyond the result the function must see, in shot pixels; never more than a frame's side."""
        return 0.0

    def sees(self, at: Moment) -> Sides:
        """Return the same of each side, where it sees less far on some."""
        far = self.margin(at)
        return far, far, far, far

    def _around(self, grid: Grid, at: Moment) -> Grid:
        left, top, right, bottom = (grid.samples(far) for far in self.sees(at))
        return grid.grown_near((left, top, right, bottom), (at.width, at.height))

    def carries(self, ctx: Context) -> Pixels:
        return math.inf if self.sees_other_times else self.margin(ctx.at)

    @property
    def alone(self) -> bool:
        """Whether it runs by itself, not in one go with its neighbours."""
        return False

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        """Return the new values on `grid`, from values on `outer` (`grid` grown by what it sees)."""
        raise NotImplementedError

    unseen_because: ClassVar[str] = "It changes nothing in this picture"
    """Why nothing may be seen of it although it acts, for the line that says so."""
    unseen_where_full: ClassVar[str] = ""
    """The same where its picture fills the whole frame."""
    holds_border: ClassVar[bool] = False
    """On a picture: what touches the frame's border goes on beyond it, so that no rim is where the frame ends."""
    averages: ClassVar[bool] = False
    """It mixes neighbouring values: clear ones must not count. What is clear is taken out before, put back after."""
    alpha: ClassVar[str] = "straight"
    """How it treats a picture: "straight" (unpremultiplied colour), "premultiplied", or "kept": straight, and it gives
    back the very alpha it was given, which nobody has to look at again."""

    def run(self, grid: Grid, ctx: Context) -> Field:
        """Return the new values on a grid, asking the context for the values before."""
        outer = self._around(grid, ctx.at)
        field = ctx.below(outer)
        if ctx.picture:
            return self._over_border(field, outer, grid, ctx)
        if not (self.averages and has_clear(field)):
            return self.shape(field, outer, grid, ctx)
        return unweighted(self.shape(weighted(field, ctx.rest), outer, grid, ctx), ctx.rest)

    def _over_border(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """Within the frame what touches its border goes on beyond it; beyond it the picture is what it is."""
        size = (ctx.at.width, ctx.at.height)
        extended = border_extended(picture, outer, size) if self.holds_border else picture
        if extended is picture:
            return self.on_picture(picture, outer, grid, ctx)
        rows, columns = grid.inside_frame(size)
        within = grid.part(columns.start, rows.start, columns.stop - columns.start, rows.stop - rows.start)
        if within.shape == grid.shape:
            return self.on_picture(extended, outer, grid, ctx)
        made = np.empty((*grid.shape, 4), np.float32)
        for part, source in ((within, extended), *((part, picture) for part in grid.beyond(size))):
            if part.width > 0 and part.height > 0:
                around = self._around(part, ctx.at)
                own = np.ascontiguousarray(source[around.inside(outer)])
                made[part.inside(grid)] = self.on_picture(own, around, part, ctx)
        return made

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """Return the new picture on `grid` from one on `outer`, both premultiplied."""
        if self.averages or self.alpha == "premultiplied":
            return self.shape(picture, outer, grid, ctx)
        clear = has_clear(picture)
        shaped = self.shape(unweighted(picture, 0.0) if clear else picture, outer, grid, ctx)
        if self.alpha == "kept":
            return weighted(shaped, 0.0) if clear else shaped
        if not clear and shaped.shape[2] == 4 and not has_clear(shaped):
            return shaped
        if shaped.shape[2] == 4:
            return weighted(shaped, 0.0)
        made = np.array(as_channels(shaped, 4))
        made[..., 3] = picture[..., 3][grid.inside(outer)]
        return weighted(made, 0.0)


class Enclosing(Shaper):
    """A step round other steps: they work in a space of its own."""

    works_on = frozenset({"map"})
    encloses = True
    without = STAGGERS

    def enter(self, grid: Grid, ctx: Context) -> Field:
        """Return what was there before, as the steps inside see it."""
        raise NotImplementedError

    def leave(self, grid: Grid, ctx: Context, inside: Callable[[Grid], Field]) -> Field:
        """Return what the steps inside made, laid back where it belongs."""
        raise NotImplementedError


class Finish(Shaper):
    """A step that makes sense on pictures only. It is handed premultiplied colours."""

    family = "finish"
    works_on = frozenset({"picture"})
    alpha = "premultiplied"


class PointShaper(Shaper):
    """A shaper that turns each value into another, alpha left alone. Neighbours in a recipe run in one pass."""

    def ops(self, rest: float) -> tuple[Op, ...]:
        """Return the simple operations it is made of (see raster.colour.pointwise)."""
        raise NotImplementedError

    def idle(self) -> bool:
        return not self.ops(REST)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        return run_ops(field, self.ops(ctx.rest))


def placed_values(operator: type[Operator], values: Values, width: float, height: float) -> Values:
    """Return a look's values for a shot of this size: shares of the frame become shot pixels."""
    found = dict(values)
    for name, value in values.items():
        if isinstance(operator.declared.get(name), Place) and isinstance(value, tuple | list):
            found[name] = (value[0] * width, value[1] * height)
    return found


def refit_smoothness(values: Values, smooth: Number, by: Refit, kernel: int = 3) -> Values:
    """Return values whose smoothness is what softens as much in the new shot, the slope's own blur counted too.

    A smoothness that moves is scaled as any other length. smooth: its parameter.
    """
    now = values.get(smooth.name, smooth.default)
    if by.scale == 1 or is_moving(now):
        return values
    return {**values, smooth.name: smooth.clamp(blur_before_slope(float(now) / by.scale, by.scale, kernel))}


def values_of(field: Field) -> Field:
    """Return a view of a map's values without its alpha."""
    return field[..., :3] if field.shape[2] == 4 else field


def flat(grid: Grid, value: float = REST) -> Field:
    """Return a map of one value."""
    return np.full((*grid.shape, 1), value, np.float32)
