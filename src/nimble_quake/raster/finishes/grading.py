"""Brightness, saturation, tint and grain, each as strong as a field says."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import LUMA_709, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

NO_GRAIN = np.zeros((1, 1), np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _graded(picture, amounts, numbers, tint, luma, grain, grained, premultiplied, out, first, last):
    one, zero = np.float32(1), np.float32(0)
    brighten, saturate, fraction = numbers[0], numbers[1], numbers[2]
    for j in range(first, last):
        for i in range(picture.shape[1]):
            amount, alpha = amounts[j, i], picture[j, i, 3]
            whole = alpha if premultiplied else one
            grey = picture[j, i, 0] * luma[0] + picture[j, i, 1] * luma[1] + picture[j, i, 2] * luma[2]
            more = (brighten + (grain[j, i] if grained else zero)) * amount * whole
            strong, mix = one + saturate * amount, min(max(fraction * amount, zero), one)
            strong = strong if strong > zero else zero
            for k in range(3):
                v = grey + (picture[j, i, k] - grey) * strong + more
                v += (tint[k] * whole - v) * mix
                out[j, i, k] = min(max(v, zero), whole) if premultiplied else v
            out[j, i, 3] = alpha


def graded(
    picture: Picture,
    amounts: NDArray[np.float32],
    numbers: tuple[float, float, float],
    tint: tuple[float, ...],
    grain: NDArray[np.float32] | None,
    *,
    premultiplied: bool,
) -> Picture:
    """Return a picture (H, W, 4) graded by `amounts` (H, W).

    numbers: light added, saturation added (-1: grey), share of the tint. grain: (H, W), added.
    """
    out = np.empty_like(picture)
    run_rows(
        _graded,
        picture.shape[0],
        picture,
        np.ascontiguousarray(amounts),
        np.array(numbers, np.float32),
        np.array(tint, np.float32),
        np.array(LUMA_709, np.float32),
        NO_GRAIN if grain is None else grain,
        grain is not None,
        premultiplied,
        out,
    )
    return out


@kernel(error_model="numpy", fastmath={"contract"}, slp=True, loops=False)
def _multiplied(picture, by, out, first, last):
    """by: (16,), column after column. The four channels in one instruction."""
    zero, one, i1, i2, i3 = np.float32(0), np.float32(1), np.uint64(1), np.uint64(2), np.uint64(3)
    r0, r1, r2, r3 = by[0], by[1], by[2], by[3]
    g0, g1, g2, g3 = by[4], by[5], by[6], by[7]
    b0, b1, b2, b3 = by[8], by[9], by[10], by[11]
    a0, a1, a2, a3 = by[12], by[13], by[14], by[15]
    for j in range(first, last):
        row, made = picture[j], out[j].reshape(-1)
        for i in range(len(row)):
            n, r, g, b, a = np.uint64(4 * i), row[i, 0], row[i, 1], row[i, 2], row[i, 3]
            m0, m1 = r * r0 + g * g0 + b * b0 + a * a0, r * r1 + g * g1 + b * b1 + a * a1
            m2, m3 = r * r2 + g * g2 + b * b2 + a * a2, r * r3 + g * g3 + b * b3 + a * a3
            m0, m1, m2, m3 = max(m0, zero), max(m1, zero), max(m2, zero), max(m3, zero)
            made[n], made[n + i1], made[n + i2], made[n + i3] = min(m0, one), min(m1, one), min(m2, one), min(m3, one)


def multiplied(picture: Picture, matrix: NDArray[np.float64]) -> Picture:
    """Return a picture (H, W, 4) whose colours are multiplied by a matrix (3, 3), within 0...1; its alpha stays."""
    whole = np.eye(4)
    whole[:3, :3] = matrix
    out = np.empty(picture.shape, np.float32)
    run_rows(_multiplied, len(picture), picture, whole.T.astype(np.float32).ravel(), out)
    return out
