"""How far a flat picture beneath a clear surface is seen aside, by the slope of the surface (Snell's law)."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from nimble_quake.conventions import Field, Pixels, Warp
from nimble_quake.raster.rows import run_rows

STEEPEST = 50.0
"""Slopes are held to this, which is 88.9 degrees: no flank is a wall."""


def shift_of(slope: float, index: float, depth: Pixels) -> Pixels:
    """Return how far uphill a place is looked at. slope: rise over run; index 0: simply depth x slope.

    Beyond the critical angle, where no light passes, the shift at that angle stays.
    """
    slope = max(-STEEPEST, min(STEEPEST, slope))
    if index <= 0:
        return depth * slope
    first = math.atan(abs(slope))
    second = math.asin(min(math.sin(first) / index, 1.0))
    turn = max(-1.4, min(1.4, first - second))  # 80 degrees: it lands far off, but somewhere
    return depth * math.tan(turn) * math.copysign(1.0, slope) if slope else 0.0


@njit(cache=True, nogil=True, error_model="numpy")
def _bent(slope, index, depth, steepest, out, first, last):  # type: ignore[no-untyped-def]
    one, zero, small = np.float32(1), np.float32(0), np.float32(1e-12)
    n, far, most = np.float32(index), np.float32(depth), np.float32(steepest)
    limit = np.float32(math.tan(1.4))
    for j in range(first, last):
        for i in range(slope.shape[1]):
            x, y = slope[j, i, 0], slope[j, i, 1]
            steep = np.sqrt(x * x + y * y)
            if not steep > small:
                out[0, j, i], out[1, j, i] = zero, zero
                continue
            if steep > most:
                x, y, steep = x * most / steep, y * most / steep, most
            if n <= zero:
                out[0, j, i], out[1, j, i] = far * x, far * y
                continue
            sine = steep / np.sqrt(one + steep * steep)
            bent = min(sine / n, one)
            tan_b = bent / np.sqrt(max(one - bent * bent, small))
            tan = (steep - tan_b) / (one + steep * tan_b)  # of the difference of the two angles
            tan = min(max(tan, -limit), limit)
            out[0, j, i], out[1, j, i] = far * tan * x / steep, far * tan * y / steep


def bent_by_slope(slope: Field, index: float, depth: Pixels) -> Warp:
    """Return how far places look aside through a surface. slope: (H, W, 2) rise over run, across and down."""
    out = np.empty((2, *slope.shape[:2]), np.float32)
    run_rows(_bent, slope.shape[0], slope, float(index), float(depth), STEEPEST, out)
    return out
