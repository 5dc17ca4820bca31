"""How far a flat picture beneath a clear surface is seen aside, by the slope of the surface (Snell's law)."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field, Pixels, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

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


@kernel(error_model="numpy", fastmath={"contract"})
def _gently(flank, index, far, steepest, across, down):
    """A row that is nowhere steep, under a denser surface; False, and nothing done, for any other.

    Snell's law and the tangent of the difference of two angles, with s the square of the slope and
    r = sqrt(n^2 + (n^2 - 1) s), come to (r - 1) / (r + s) for each unit of slope: one root, one division.
    """
    one, limit, steep = np.float32(1), steepest * steepest, np.int32(0)
    for i in range(len(across)):
        s = flank[2 * i] * flank[2 * i] + flank[2 * i + 1] * flank[2 * i + 1]
        steep = np.int32(steep + (0 if s <= limit else 1))
    if steep > 0:
        return False
    square = index * index
    more = square - one
    for i in range(len(across)):
        x, y = flank[2 * i], flank[2 * i + 1]
        s = x * x + y * y
        r = np.sqrt(square + more * s)
        times = far * (r - one) / (r + s)
        across[i], down[i] = times * x, times * y
    return True


@kernel(error_model="numpy", fastmath={"contract"})
def _bent(slope, index, depth, steepest, out, first, last):
    """No branches, so that several samples are computed at once."""
    one, zero, small = np.float32(1), np.float32(0), np.float32(1e-12)
    far, most = np.float32(depth), np.float32(steepest)
    inverse, limit = one / np.float32(index if index > 0 else 1.0), np.float32(math.tan(1.4))
    for j in range(first, last):
        flank, across, down = slope[j].reshape(-1), out[0, j], out[1, j]
        if index <= 0:
            for i in range(len(across)):
                x, y = flank[2 * i], flank[2 * i + 1]
                steep = np.sqrt(x * x + y * y)
                times = far * most / steep if steep > most else far
                across[i], down[i] = times * x, times * y
            continue
        if index >= 1 and _gently(flank, np.float32(index), far, limit, across, down):
            continue
        for i in range(len(across)):
            x, y = flank[2 * i], flank[2 * i + 1]
            found = np.sqrt(x * x + y * y)
            steep = found if found < most else most
            sine = steep * inverse / np.sqrt(one + steep * steep)
            bent = sine if sine < one else one
            left = one - bent * bent
            tan_b = bent / np.sqrt(left if left > small else small)
            tan = (steep - tan_b) / (one + steep * tan_b)  # of the difference of the two angles
            tan = tan if tan < limit else limit
            tan = tan if tan > -limit else -limit
            times = far * tan / found if found > small else zero
            across[i], down[i] = times * x, times * y


def bent_by_slope(slope: Field, index: float, depth: Pixels) -> Warp:
    """Return how far places look aside through a surface. slope: (H, W, 2) rise over run, across and down."""
    out = np.empty((2, *slope.shape[:2]), np.float32)
    run_rows(_bent, slope.shape[0], np.ascontiguousarray(slope), float(index), float(depth), STEEPEST, out)
    return out
