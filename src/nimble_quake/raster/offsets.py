"""From map values to a warp, in one pass."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Warp
from nimble_quake.raster.rows import run_rows


@njit(cache=True, nogil=True, error_model="numpy")
def _offsets(across, down, rest, times_x, times_y, out, first, last):  # type: ignore[no-untyped-def]
    level, x, y = np.float32(rest), np.float32(times_x), np.float32(times_y)
    for j in range(first, last):
        for i in range(across.shape[1]):
            out[0, j, i] = (across[j, i] - level) * x
            out[1, j, i] = (down[j, i] - level) * y


def scaled_offsets(
    across: NDArray[np.float32], down: NDArray[np.float32], rest: float, times_x: float, times_y: float
) -> Warp:
    """Return (value - rest) x times per axis: values (H, W) -> (2, H, W)."""
    out = np.empty((2, *across.shape), np.float32)
    run_rows(_offsets, across.shape[0], across, down, float(rest), float(times_x), float(times_y), out)
    return out
