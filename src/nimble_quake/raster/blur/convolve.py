"""Symmetrical kernels across and down a picture, in one pass over its rows.

Each row is first summed down into a line that stays in the core's nearest cache, then across it. The taps of a kernel
are taken by pairs, as they are alike on both sides, and four pairs at a time, so that sums are seldom put aside.
"""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

Half = NDArray[np.float32]
"""One side of a symmetrical kernel, from half of its middle tap outwards."""


@lru_cache(maxsize=64)
def half_gaussian(sigma: float, reach: int) -> Half:
    """Return one side of a Gaussian of sigma samples that is cut at `reach` samples and sums to one."""
    whole = cv2.getGaussianKernel(2 * reach + 1, max(sigma, 1e-3), cv2.CV_32F)[:, 0]
    half = np.array(whole[reach:], np.float32)
    half[0] /= 2
    half.flags.writeable = False
    return half


@kernel(error_model="numpy", fastmath={"contract"})
def _two(total, a, b, c, d, u, v, fresh):
    if fresh:
        for n in range(len(total)):
            total[n] = u * (a[n] + b[n]) + v * (c[n] + d[n])
    else:
        for n in range(len(total)):
            total[n] += u * (a[n] + b[n]) + v * (c[n] + d[n])


@kernel(error_model="numpy", fastmath={"contract"})
def _four(total, a, b, c, d, e, f, g, h, u, v, w, x, fresh):
    if fresh:
        for n in range(len(total)):
            total[n] = u * (a[n] + b[n]) + v * (c[n] + d[n]) + w * (e[n] + f[n]) + x * (g[n] + h[n])
    else:
        for n in range(len(total)):
            total[n] += u * (a[n] + b[n]) + v * (c[n] + d[n]) + w * (e[n] + f[n]) + x * (g[n] + h[n])


@kernel(inline="always")
def _inside(row, most):
    return min(max(row, 0), most)


@kernel(error_model="numpy", fastmath={"contract"})
def _down(flat, begin, end, y, half, total):
    """Sum rows round row y, from column `begin` to `end`; beyond the border the edge goes on."""
    most, reach, zero = flat.shape[0] - 1, len(half) - 1, np.float32(0)
    for t in range(0, reach + 1, 4):
        p, q, r = min(t + 1, reach), min(t + 2, reach), min(t + 3, reach)
        a, b = flat[_inside(y - t, most), begin:end], flat[_inside(y + t, most), begin:end]
        c, d = flat[_inside(y - p, most), begin:end], flat[_inside(y + p, most), begin:end]
        u, v = half[t], half[p] if t + 1 <= reach else zero
        if t + 2 > reach:
            _two(total, a, b, c, d, u, v, t == 0)
            continue
        e, f = flat[_inside(y - q, most), begin:end], flat[_inside(y + q, most), begin:end]
        g, h = flat[_inside(y - r, most), begin:end], flat[_inside(y + r, most), begin:end]
        _four(total, a, b, c, d, e, f, g, h, u, v, half[q], half[r] if t + 3 <= reach else zero, t == 0)


@kernel(error_model="numpy", fastmath={"contract"})
def _across(line, channels, half, total):
    """Sum along a line that goes on by the kernel's reach on both sides."""
    size, reach, zero = len(total), len(half) - 1, np.float32(0)
    middle = reach * channels
    for t in range(0, reach + 1, 4):
        p, q, r = min(t + 1, reach), min(t + 2, reach), min(t + 3, reach)
        k, m = t * channels, p * channels
        a, b = line[middle - k : middle - k + size], line[middle + k : middle + k + size]
        c, d = line[middle - m : middle - m + size], line[middle + m : middle + m + size]
        u, v = half[t], half[p] if t + 1 <= reach else zero
        if t + 2 > reach:
            _two(total, a, b, c, d, u, v, t == 0)
            continue
        k, m = q * channels, r * channels
        e, f = line[middle - k : middle - k + size], line[middle + k : middle + k + size]
        g, h = line[middle - m : middle - m + size], line[middle + m : middle + m + size]
        _four(total, a, b, c, d, e, f, g, h, u, v, half[q], half[r] if t + 3 <= reach else zero, t == 0)


NEAR = 120_000
"""Numbers of the rows that are summed down at once: so many stay in a core's own cache from one row to the next."""
LEAST = 256
"""Pixels that a part of a row has at least."""


@kernel(error_model="numpy", fastmath={"contract"})
def _convolved(flat, channels, across, down, top, left, out, first, last):
    """Part by part of wide rows, so that what is summed down is still near."""
    reach, wide, count = len(across) - 1, flat.shape[1] // channels, out.shape[1] // channels
    size = max(NEAR // (channels * (2 * len(down) - 1)) - 2 * reach, LEAST)
    parts = max((count + size // 2) // size, 1)
    size = (count + parts - 1) // parts
    line = np.empty((size + 2 * reach) * channels, np.float32)
    sums = np.empty(size * channels, np.float32)
    for part in range(0, count, size):
        some = min(size, count - part)
        low, high = min(max(left + part - reach, 0), wide - 1), min(max(left + part + some + reach, 1), wide)
        full = (some + 2 * reach) * channels
        begin = min(max((low - left - part + reach) * channels, 0), full - channels)  # a part may lie beyond the border
        end = begin + (high - low) * channels
        for j in range(first, last):
            _down(flat, low * channels, high * channels, j + top, down, line[begin:end])
            for n in range(begin):  # the border goes on
                line[n] = line[begin + n % channels]
            for n in range(end, full):
                line[n] = line[n - channels]
            # summed where numbers lie without gaps, as those of `out` may not: only then are several summed at once
            _across(line, channels, across, sums[: some * channels])
            made = out[j, part * channels : (part + some) * channels]
            for n in range(len(made)):
                made[n] = sums[n]


def _flat(array: Field) -> NDArray[np.float32]:
    """An array (H, W, C) whose rows have no gaps as (H, W x C), without a copy."""
    return array.reshape(array.shape[0], array.shape[1] * array.shape[2])


def convolve(
    array: Field | Picture,
    across: Half,
    down: Half,
    out: Field | Picture,
    top: int = 0,
    left: int = 0,
    *,
    alone: bool = False,
) -> None:
    """Put the part of a convolved array (H, W, C) from (left, top) on into `out`, (h, w, C).

    Beyond the border the edge value is held. The rows of both have no gaps. alone: on this thread only.
    """
    args = (_flat(np.ascontiguousarray(array)), array.shape[2], across, down, top, left, _flat(out))
    if alone:
        _convolved(*args, 0, out.shape[0])
    else:
        run_rows(_convolved, out.shape[0], *args)
