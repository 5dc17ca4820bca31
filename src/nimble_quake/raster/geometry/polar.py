"""Polar coordinates round a centre."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

_A1, _A3, _A5, _A7, _A9 = (np.float32(v) for v in (0.9998660, -0.3302995, 0.1801410, -0.0851330, 0.0208351))
_TURN, _HALF, _QUARTER = np.float32(1 / (2 * math.pi)), np.float32(0.5), np.float32(0.25)


@kernel(inline="always")
def turn_of(y, x):
    """The angle of (x, y), float32, in turns of -0.5...0.5; error under 2e-6 turns.

    Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.49, folded out from the first octant.
    """
    ax, ay = abs(x), abs(y)
    high, low = max(ax, ay), min(ax, ay)
    a = low / max(high, np.float32(1e-30))
    s = a * a
    turn = a * (_A1 + s * (_A3 + s * (_A5 + s * (_A7 + s * _A9)))) * _TURN
    if ay > ax:
        turn = _QUARTER - turn
    if x < np.float32(0):
        turn = _HALF - turn
    return -turn if y < np.float32(0) else turn


@kernel(error_model="numpy")
def _polar(xs, ys, radius, angle, first, last):
    for j in range(first, last):
        y = ys[j]
        row_r, row_a = radius[j], angle[j]
        for i in range(len(xs)):
            x = xs[i]
            row_r[i] = np.sqrt(x * x + y * y)
            row_a[i] = turn_of(y, x)


def polar_of(grid: Grid, centre: tuple[float, float]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return (H, W) distances in shot pixels and angles in turns (-0.5...0.5, clockwise from the right)."""
    radius, angle = np.empty(grid.shape, np.float32), np.empty(grid.shape, np.float32)
    xs, ys = grid.xs() - np.float32(centre[0]), grid.ys() - np.float32(centre[1])
    run_rows(_polar, grid.height, xs, ys, radius, angle)
    return radius, angle
