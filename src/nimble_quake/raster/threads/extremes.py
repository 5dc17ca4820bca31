"""The least and the largest of many values, on all cores."""

from __future__ import annotations

from typing import Any

import numpy as np

from nimble_quake.conventions import Pixels, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel()
def _ends(values, out, first, last):
    """Of these rows, into row `first` of `out`; column by column first, which goes eight at once."""
    low, high = values[first].copy(), values[first].copy()
    for j in range(first + 1, last):
        row = values[j]
        for i in range(len(row)):
            low[i] = row[i] if row[i] < low[i] else low[i]
            high[i] = row[i] if row[i] > high[i] else high[i]
    out[first, 0], out[first, 1] = low.min(), high.max()


def ends_of(values: np.ndarray) -> tuple[Any, Any]:
    """Return the least and the largest of values (H, W), which are numbers and at least one."""
    found = np.empty((len(values), 2), values.dtype)
    found[:] = values[0, 0]
    run_rows(_ends, len(values), values, found)
    return found[:, 0].min().item(), found[:, 1].max().item()


def max_displacement(warp: Warp) -> Pixels:
    """Return the longest offset along either axis of a warp (2, H, W), shot pixels."""
    if warp.size == 0:
        return 0.0
    least, most = ends_of(warp.reshape(-1, warp.shape[2]))
    return float(max(-least, most, 0.0))
