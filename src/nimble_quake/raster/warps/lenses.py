"""The row operations of lenses and waves: see `raster.warps.operations`, which runs them."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.kernels import kernel

_S = tuple(np.float32(v) for v in (0.99999997, -19.7391799, 64.9353744, -85.263014, 56.4438973))
"""The sine of a turn over half a turn, a polynomial in the square of the way from its crest, within 2e-7."""


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _wound(turns):
    """Cosine and sine of an angle in turns, within 2e-7."""
    half, quarter = np.float32(0.5), np.float32(0.25)
    t = turns - np.floor(turns + half)  # -0.5...0.5
    a = abs(t)
    q = (a - quarter) * (a - quarter)
    sine = _S[0] + q * (_S[1] + q * (_S[2] + q * (_S[3] + q * _S[4])))
    b = abs(a - quarter)  # how far it is from where the cosine is 0
    p = (quarter - b) * (quarter - b)
    cosine = _S[0] + p * (_S[1] + p * (_S[2] + p * (_S[3] + p * _S[4])))
    return (cosine if a <= quarter else -cosine), (sine if t >= 0 else -sine)


@kernel(error_model="numpy", fastmath={"contract"})
def swirl_fast(xs, ys, k):
    """SWIRL with rule 2: see `raster.warps.operations`."""
    cx, cy, per, turn, pinch = k[0], k[1], np.float32(1) / k[2], k[3], k[4]
    one, two, three = np.float32(1), np.float32(2), np.float32(3)
    to_turns = np.float32(1 / (2 * math.pi))
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        fraction = max(one - np.sqrt(x * x + y * y) * per, np.float32(0))
        fraction *= fraction * (three - two * fraction)
        turns, grow = -turn * fraction * to_turns, one + pinch * fraction
        c, s = _wound(turns)
        xs[i] = (x * c - y * s) * grow + cx
        ys[i] = (x * s + y * c) * grow + cy


@kernel(error_model="numpy", fastmath={"contract"})
def bulge(xs, ys, k):
    """BULGE: see `raster.warps.operations`."""
    cx, cy, per, amount = k[0], k[1], np.float32(1) / (k[2] * k[2]), k[3]
    one = np.float32(1)
    times = int(k[4])
    part = k[4] - np.float32(times)
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        fraction = one - (x * x + y * y) * per
        if fraction <= 0:
            continue
        soft = fraction * (one - part + part * fraction)  # between two whole powers it goes straight
        for _ in range(times):
            soft *= fraction
        grow = one - amount * soft
        xs[i] = x * grow + cx
        ys[i] = y * grow + cy


@kernel(error_model="numpy", fastmath={"contract"})
def polynomial(xs, ys, k):
    """POLYNOMIAL: see `raster.warps.operations`."""
    cx, cy, per, k1, k2, k3 = k[0], k[1], np.float32(1) / (k[2] * k[2]), k[3], k[4], k[5]
    one, most = np.float32(1), np.float32(1e6)
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        r = (x * x + y * y) * per
        grow = one + r * (k1 + r * (k2 + r * k3))
        xs[i] = min(max(x * grow + cx, -most), most)
        ys[i] = min(max(y * grow + cy, -most), most)


@kernel(error_model="numpy", fastmath={"contract"})
def wave(xs, ys, k):
    """WAVE: see `raster.warps.operations`."""
    nx, ny, per, phase, dx, dy, form = k[0], k[1], k[2], k[3], k[4], k[5], k[6]
    one, half, quarter = np.float32(1), np.float32(0.5), np.float32(0.25)
    for i in range(len(xs)):
        t = (xs[i] * nx + ys[i] * ny) * per - phase
        t -= np.floor(t + half)  # -0.5...0.5 of a turn
        if form == 0:
            a = abs(t)
            q = (a - quarter) * (a - quarter)  # the sine over half a turn, within 2e-7, several times faster than sin
            s = _S[0] + q * (_S[1] + q * (_S[2] + q * (_S[3] + q * _S[4])))
            s = s if t >= 0 else -s
        elif form == 1:
            s = (
                np.float32(4) * t
                if abs(t) <= quarter
                else (np.float32(2) - np.float32(4) * abs(t)) * (one if t >= 0 else -one)
            )
        else:
            s = one if t >= 0 else -one
        xs[i] += dx * s
        ys[i] += dy * s
