"""Coordinate steps: for every place of the result, where does it look? Neighbours are composed and sampled once."""

from __future__ import annotations

import math
from typing import ClassVar, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.operations import Bend, bent_offsets


class Spread(NamedTuple):
    """How colours part: sample k lies `factors[k]` of the step's offsets away, and gives `weights[k]` of r, g, b."""

    factors: NDArray[np.float32]
    weights: NDArray[np.float32]
    centre: tuple[float, float] | None = None


class Coordinate(Shaper):
    """A step that moves. One made of simple operations says which (`bends`); any other overrides `look`."""

    far: ClassVar[float] = 0.0
    """In a recipe: how far beyond the frame it may see, in frames; farther out the border goes on."""

    rough: ClassVar[bool] = False
    """Its places jump from sample to sample on purpose: that is no shrinking to be averaged away."""

    def fetched_by(self) -> str:
        """Return how pixels are fetched (raster.sampling.sample); empty: as its neighbours say."""
        return ""

    def edge_beyond(self) -> str:
        """Return what is pulled in from beyond a picture's border (raster.sampling.sample); empty: it does not say."""
        return ""

    def spread(self) -> Spread | None:
        """Return how its colours part; None where they stay together."""
        return None

    def carries(self, ctx: Context) -> Pixels:
        spread = self.spread()
        more = 1.0 if spread is None else 1 + float(np.abs(spread.factors).max())
        return self.max_displacement(ctx) * more

    def bends(self, ctx: Context) -> tuple[Bend, ...] | None:
        """Return the simple operations it is made of (see raster.warps.operations); None: it is made otherwise."""
        return None

    def look(self, places: Places, ctx: Context) -> Places:
        """Return where places look."""
        return Places(places.grid, bent_offsets(places.grid, places.warp, self.bends(ctx) or ()))

    def max_displacement(self, ctx: Context) -> Pixels:
        """Return the most it can move anything along either axis, in shot pixels; infinite where that is not known."""
        return math.inf
