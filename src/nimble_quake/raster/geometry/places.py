"""Where the samples of a grid look: the places that coordinate steps compose, one after another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.extremes import ends_of
from nimble_quake.raster.threads.rows import run_rows


@kernel()
def _added(a, b, out, first, last):
    for axis in range(2):
        for j in range(first, last):
            left, right, row = a[axis, j], b[axis, j], out[axis, j]
            for i in range(len(row)):
                row[i] = left[i] + right[i]


@kernel()
def _placed(warp, xs, ys, sign, out, first, last):
    """Offsets and the samples' own places added, or taken apart again."""
    for j in range(first, last):
        across, down, y = out[0, j], out[1, j], ys[j] * sign
        far_x, far_y = warp[0, j], warp[1, j]
        for i in range(len(xs)):
            across[i] = far_x[i] + xs[i] * sign
            down[i] = far_y[i] + y


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
        if self.warp is None:
            out[0] = self.grid.xs()
            out[1] = self.grid.ys()[:, None]
        else:
            run_rows(_placed, self.grid.height, self.warp, self.grid.xs(), self.grid.ys(), np.float32(1), out)
        return out

    def moved(self, offsets: Warp) -> Places:
        """Return the places that lie so far from these."""
        if self.warp is None:
            return Places(self.grid, offsets)
        out = np.empty_like(self.warp)
        run_rows(_added, self.grid.height, self.warp, offsets, out)
        return Places(self.grid, out)

    def put(self, absolute: Warp) -> Places:
        """Return places given as they are, (2, H, W) shot pixels; the array is used up."""
        run_rows(_placed, self.grid.height, absolute, self.grid.xs(), self.grid.ys(), np.float32(-1), absolute)
        return Places(self.grid, absolute)

    def bounds(self) -> tuple[float, float, float, float]:
        """Return the least x, the largest, the least y and the largest that are looked at, shot pixels."""
        xs, ys = self.absolute()
        return (*ends_of(xs), *ends_of(ys))
