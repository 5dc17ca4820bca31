"""Where the samples of a grid look: the places that coordinate steps compose, one after another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Warp
from nimble_quake.raster.grid import Grid


@dataclass(frozen=True, slots=True)
class Places:
    """The samples of `grid`, each looking `warp` (2, H, W) shot pixels away; None: at its own place.

    Kept as offsets, since these are exact where nothing moves.
    """

    grid: Grid
    warp: Warp | None = None

    def absolute(self) -> Warp:
        """Return the places that are looked at, (2, H, W) shot pixels, to be written to."""
        out = np.empty((2, *self.grid.shape), np.float32)
        out[0] = self.grid.xs()
        out[1] = self.grid.ys()[:, None]
        if self.warp is not None:
            out += self.warp
        return out

    def moved(self, offsets: Warp) -> Places:
        """Return the places that lie so far from these."""
        return Places(self.grid, offsets if self.warp is None else self.warp + offsets)

    def put(self, absolute: Warp) -> Places:
        """Return places given as they are, (2, H, W) shot pixels; the array is used up."""
        absolute[0] -= self.grid.xs()
        absolute[1] -= self.grid.ys()[:, None]
        return Places(self.grid, absolute)
