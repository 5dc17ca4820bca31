"""The base classes of a recipe's steps: sources make values, shapers change the values made so far.

Four kinds of shaper, by what they need: a `Shaper` sees the values before it on a grid grown by its margin; a
`PointShaper` turns one value into another, wherever it is; a `Bender` says for every place where it looks; and one
that overrides `run` may ask for the steps before it on any grid, at any time.
"""

from __future__ import annotations

from typing import Any, ClassVar, TypeAlias

import numpy as np

from nimble_quake.conventions import REST, Field, Pixels, Warp
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context, Operator
from nimble_quake.params.kinds import Choice, MapRef, Number, Place, options
from nimble_quake.raster.bends import Bend, bent
from nimble_quake.raster.bent import places_of, sampled_at, sampled_through
from nimble_quake.raster.clear import has_clear, seen, unweighted, weighted
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.pointwise import Op, run_ops

OPACITY = Number(
    label="Mix", help="How much of this step is used", default=1.0, hard=(0, 1), usual=(0, 1), unit="%", factor=100,
    decimals=0,
)  # fmt: skip
MASK = MapRef(label="Mask", help="A map that says where this step is used: all of it at white, nothing at black")

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

Look: TypeAlias = tuple[str, str, dict[str, Any]]
"""A named way to set an operator, shown beside it on the board: name, help, values; places as shares of the frame."""


class Step(Operator):
    """What sources and shapers share."""

    looks: ClassVar[tuple[Look, ...]] = ()
    """Named settings that are worth a place of their own on the board."""
    lively: ClassVar[dict[str, Any]] = {}
    """What makes its thumbnail on the board move; places as shares of the frame."""
    whole_map: ClassVar[bool] = False
    """The result depends on the steps before at other moments than now."""

    def timed(self) -> bool:
        """Whether the result depends on the moment beyond the resolved numbers."""
        return self.whole_map

    def looks_back(self) -> bool:
        """Whether the result depends on its own numbers, and on the maps it reads, at other moments than now."""
        return False

    @classmethod
    def handles(cls) -> tuple[tuple[str, str], ...]:
        """Return pairs of place parameters that are shown as the ends of a line."""
        return ()

    @classmethod
    def boxes(cls) -> tuple[tuple[str, str, str], ...]:
        """Return (place, width, height) parameters that are shown as a box round the place."""
        return ()


class Source(Step):
    """A step that makes values."""

    family = "source"
    combine = Choice(label="Combine", help="How it meets the steps before it", default="over", options=COMBINES)
    opacity = OPACITY
    mask = MASK

    def make(self, grid: Grid, ctx: Context) -> Made:
        """Return the map values on a grid, (H, W, 1), (H, W, 2) or (H, W, 4), or grey values with their cover."""
        raise NotImplementedError

    def rest(self, ctx: Context) -> float:
        """Return the value that this source's picture rests at."""
        return REST


class Shaper(Step):
    """A step that changes the values made so far."""

    family = "shaper"
    opacity = OPACITY
    mask = MASK

    def margin(self, at: Moment) -> Pixels:
        """Return how far beyond the result the function must see, in shot pixels; never more than a frame's side."""
        return 0.0

    def idle(self) -> bool:
        """Whether these numbers change nothing."""
        return False

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        """Return the new values on `grid`, from values on `outer` (`grid` grown by the margin)."""
        raise NotImplementedError

    averages: ClassVar[bool] = False
    """It mixes neighbouring values: clear ones must not count. What is clear is taken out before, put back after."""

    def run(self, grid: Grid, ctx: Context) -> Field:
        """Return the new values on a grid, asking the context for the values before."""
        outer = grid.grown(grid.samples(self.margin(ctx.at)))
        field = ctx.below(outer)
        if not (self.averages and has_clear(field)):
            return self.shape(field, outer, grid, ctx)
        return unweighted(self.shape(weighted(field, ctx.rest), outer, grid, ctx), ctx.rest)


class PointShaper(Shaper):
    """A shaper that turns each value into another, alpha left alone. Neighbours in a recipe run in one pass."""

    def ops(self, rest: float) -> tuple[Op, ...]:
        """Return the simple operations it is made of (see raster.pointwise)."""
        raise NotImplementedError

    def idle(self) -> bool:
        return not self.ops(REST)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        return run_ops(field, self.ops(ctx.rest))


class Bender(Shaper):
    """A shaper that says for every place of the result where it looks. Neighbours are composed and sampled once."""

    far: ClassVar[float] = 0.0
    """How far beyond the frame it may see, in frames; farther out the border goes on."""

    def bends(self, ctx: Context) -> tuple[Bend, ...] | None:
        """Return the simple operations it is made of (see raster.bends); None where it answers `look` itself."""
        return None

    def look(self, places: Warp, ctx: Context) -> Warp:
        """Return where places (2, H, W), in shot pixels, look; may write to `places`."""
        return bent(places, self.bends(ctx) or ())

    def run(self, grid: Grid, ctx: Context) -> Field:
        size, bends = (ctx.at.width, ctx.at.height), self.bends(ctx)
        if bends is not None:
            return seen(ctx.below, ctx.rest, lambda below: sampled_through(below, grid, bends, size, self.far))
        places = self.look(places_of(grid), ctx)
        return seen(ctx.below, ctx.rest, lambda below: sampled_at(below, grid, places, size, self.far))


def placed_values(operator: type[Operator], values: dict[str, Any], width: float, height: float) -> dict[str, Any]:
    """Return a look's values for a shot of this size: shares of the frame become shot pixels."""
    found = dict(values)
    for name, value in values.items():
        if isinstance(operator.declared.get(name), Place) and isinstance(value, tuple | list):
            found[name] = (value[0] * width, value[1] * height)
    return found


def values_of(field: Field) -> Field:
    """Return a view of a map's values without its alpha."""
    return field[..., :3] if field.shape[2] == 4 else field


def flat(grid: Grid, value: float = REST) -> Field:
    """Return a map of one value."""
    return np.full((*grid.shape, 1), value, np.float32)
