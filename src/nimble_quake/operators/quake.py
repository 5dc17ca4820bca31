"""The base classes of couplings.

A quake reads a map and changes the picture, or the map, that it stands on. `BendQuake` says for every place where it
looks, and is composed with its neighbours; `PixelQuake` makes a new image. What they share is declared once: reading
the map (operators.reading), the strength, a mask, and what is done before and after (operators.options).
"""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture, Pixels, Warp
from nimble_quake.operators.base import AS_DRAWN, Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.graphs import Curve, Graph, Remark
from nimble_quake.operators.options import BEFORE, CUT, LIGHT, SPLIT, BeforeAndAfter, Splits
from nimble_quake.operators.reading import READING, ReadsMap, Weighted
from nimble_quake.operators.steps import MASK_HOOK, STAGGER, Shaper, Step, placed_values
from nimble_quake.params.kinds import Choice, MapRef, Number, Place, Toggle, When, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.threads.rows import in_bands
from nimble_quake.raster.warps.operations import Bend, bent, bent_offsets, rolled, unrolled

WHERE, EDGES, RINGS = "Where", "Edges", "Ring space"
FOOT = "Strength"
CHIPS = {READING: "Reading", SPLIT: "Split", BEFORE: "Before", RINGS: "Ring", STAGGER: "Stagger"}
"""What sections are called on a chip, where that is shorter."""
"""What stays in view at the foot of the settings."""


class Quake(ReadsMap, Shaper):
    """A coupling."""

    family = "quake"
    rank = 2900
    needs_map = True
    flat_is_still: ClassVar[bool] = False
    """Any flat map moves nothing, whatever its level."""
    may_fold: ClassVar[bool] = True
    """A picture folded over itself is no surprise: refraction and noise do it. Else a sign says so."""
    idle_because = "Its settings move nothing"
    better_for_slopes: ClassVar[str] = ""
    """The kind that reads a map which holds a slope already; empty where this one does."""
    sections = (READING, EDGES, SPLIT, LIGHT, CUT, BEFORE, RINGS, WHERE, STAGGER, FOOT)

    strength = Number(
        label="Strength",
        help="Scales all it does",
        default=1.0,
        hard=(-100, 100),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=FOOT,
    )
    mask = MapRef(
        label="Mask", help="A map that says where it acts: wholly at white, not at all at black", section=WHERE
    )
    mask_hook = replace(MASK_HOOK, section=WHERE)
    mask_on = Choice(
        label="Mask on",
        help="Strength: motion fades out. Result: moved and unmoved picture are mixed, edges double",
        default="strength",
        row=True,
        options=options(strength="Strength", result="Result"),
        section=WHERE,
    )
    opacity = Number(
        label="Mix",
        help="How much of the result is used, over what was there before",
        default=1.0,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        section=WHERE,
    )

    def idle(self) -> bool:
        return self.strength == 0

    @property
    def masks_strength(self) -> bool:
        return self.mask_on == "strength"

    def shares_at(self, places: Places, ctx: Context) -> NDArray[np.float32] | None:
        """Return the mask on the strength at places, (H, W) within 0...1; None where there is none."""
        if not self.mask or not self.masks_strength:
            return None
        field = ctx.reads.at(self.mask, places, self.mask_hook, AS_DRAWN)
        values = channel(field, "value")
        if field.shape[2] == 4:
            values = values * np.clip(field[..., 3], 0, 1)
        fractions: NDArray[np.float32] = np.clip(values, 0, 1)
        return fractions

    # What the window says about it. All of it is of resolved numbers; no screen knows a kind.

    def summary(self) -> str:
        return f"{self.strength * 100:.0f} %"

    def graph(self, rest: float) -> Graph:
        """Return what it does with map values, or with places, as curves."""
        ends = tuple((self.strength * (v - rest) * 100, v) for v in (0.0, 1.0))
        return Graph((Curve(ends),), 100.0, "%")

    def white_goes(self) -> tuple[float, float]:
        """Return which way white pushes the picture, of length 1; (0, 0) where it has no one way."""
        return 0.0, 0.0

    @classmethod
    def begins_with(cls, width: float, height: float) -> dict[str, object]:
        return placed_values(cls, cls.lively, width, height)

    def slide(self, means: tuple[float, float], rest: float) -> tuple[float, float]:
        """Return how far the whole picture slides when the map's mean is not at rest, in shot pixels."""
        return 0.0, 0.0

    def does_at(self, level: float, rest: float) -> tuple[str, float]:
        """Return what becomes of a picture where the map has a level, in words, and how much of it; "" for nothing.

        For a ground that was meant to be still: what is too little to be seen, or far from rest on purpose, is nothing.
        """
        far = max(map(abs, self.slide((level, level), rest)))
        return (f"it slides {far:.0f} px", far) if far > 1 else ("", 0.0)

    def channels_read(self) -> tuple[str, str]:
        """Return which channels of the map it reads, across and down."""
        return "value", "value"


class BendQuake(Splits, BeforeAndAfter, Coordinate, Quake):
    """A coupling that moves."""

    edge = Choice(
        label="Edge",
        help="What is pulled in from beyond the plate's border; the last quake's edge counts",
        default="empty",
        section=EDGES,
        options=options(
            empty="Empty: nothing",
            hold="Hold: the border's pixels go on",
            wrap="Wrap: the other side comes in",
            mirror="Mirror: it is folded back",
        ),
    )
    filter = Choice(
        label="Filter",
        help="How pixels are fetched between pixels",
        default="good",
        section=EDGES,
        options=options(
            linear="Draft: linear",
            good="Good: linear, what shrinks is averaged",
            best="Best: cubic, what shrinks is averaged",
            cubic="Cubic: sharper",
            nearest="Nearest: no smoothing",
        ),
    )
    ring = Toggle(
        label="Ring space", help="Bends round a centre: across becomes round, down becomes outwards", section=RINGS
    )
    ring_centre = Place(label="Ring centre", help="What the rings lie round", section=RINGS, shown_when=When("ring"))

    far = 0.5

    def fetched_by(self) -> str:
        return self.filter

    def edge_beyond(self) -> str:
        return self.edge

    def still(self) -> bool:
        return self.strength == 0

    def offsets(self, places: Places, ctx: Context) -> Warp:
        """Return how far from places its source lies, (2, H, W) shot pixels; strength counted, the mask not."""
        raise NotImplementedError

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        if self.ring and self.goes_round():
            return Remark("Ring space over what goes round already", "Without it", (("ring", False),), 1.0)
        return None

    def look(self, places: Places, ctx: Context) -> Places:
        if self.ring:
            return self._look_round(places, ctx)
        return places.moved(self._masked(self.offsets(places, ctx), places, ctx))

    def _look_round(self, places: Places, ctx: Context) -> Places:
        """Into ring space, there as always, and back."""
        size = (ctx.at.width, ctx.at.height)
        radius = float(np.hypot(*size)) / 2
        round_ = places.put(bent(places.absolute(), (rolled(self.ring_centre, radius, 0.0, size),)))
        moves = self._masked(self.offsets(round_, ctx), places, ctx)
        if not moves.any():
            return places
        back = round_.moved(moves).absolute()
        return places.put(bent(back, (unrolled(self.ring_centre, radius, 0.0, size),)))

    def _masked(self, moves: Warp, places: Places, ctx: Context) -> Warp:
        fractions = self.shares_at(places, ctx)
        return moves if fractions is None else moves * fractions

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        """Return the longest of its offsets, along either axis."""
        return float("inf")

    def max_displacement(self, ctx: Context) -> Pixels:
        return float("inf") if self.ring else self.reach_of_offsets(ctx)


class FreeQuake(Weighted, BendQuake):
    """A coupling that moves by itself; a map only says how strongly, where."""

    needs_map = False
    simple: ClassVar[bool] = True
    """It is made of simple operations (`ops`); else `own_offsets` is asked."""

    def ops(self, ctx: Context) -> tuple[Bend, ...]:
        """Return the operations it is made of, its strength counted."""
        raise NotImplementedError

    def bends(self, ctx: Context) -> tuple[Bend, ...] | None:
        plain = self.simple and not self.map and not self.ring and not (self.mask and self.masks_strength)
        return self.ops(ctx) if plain else None

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        """Return its offsets where it acts wholly."""
        moved = bent_offsets(places.grid, places.warp, self.ops(ctx))
        return moved if places.warp is None else moved - places.warp

    def offsets(self, places: Places, ctx: Context) -> Warp:
        moves, weights = self.own_offsets(places, ctx), self.weights_at(places, ctx)
        return moves if weights is None else moves * weights

    def look(self, places: Places, ctx: Context) -> Places:
        if self.bends(ctx) is not None:
            return Coordinate.look(self, places, ctx)
        return super().look(places, ctx)


class PixelQuake(Quake):
    """A coupling that makes a new image: it blurs, delays, or grades."""

    needs_map = True

    def amounts(self, grid: Grid, ctx: Context) -> NDArray[np.float32]:
        """Return how strongly it acts at the samples of a grid, (H, W): 1 at white, 0 at rest; mask and strength
        counted."""
        places, rest = Places(grid), self.level_now(ctx)
        span = 1 - rest if abs(1 - rest) > 1e-3 else 1e-3
        values = self.levels(self.field_at(places, ctx), self.channels_read()[0], 0, rest)
        rests, times = np.float32(rest), np.float32(self.strength / span)
        fractions = self.shares_at(places, ctx)
        if fractions is None:
            return np.asarray(in_bands(lambda of: (of - rests) * times, values), np.float32)
        return np.asarray(in_bands(lambda of, fraction: (of - rests) * times * fraction, values, fractions), np.float32)

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        return self.shape(picture, outer, grid, ctx)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        raise NotImplementedError


__all__ = ["BendQuake", "FreeQuake", "PixelQuake", "Quake"]
