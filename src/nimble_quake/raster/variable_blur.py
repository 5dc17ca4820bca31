"""A Gaussian whose width differs from pixel to pixel, at a cost that does not grow with the width.

The picture is blurred by a row of widths, each the square root of two times the one before; wide ones are kept at
half, a quarter ... of the size, where they cost next to nothing. A pixel is mixed from the
two whose widths lie round its own.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.raster.rows import run_rows

Plane = NDArray[np.float32]
FIRST = 1.0
"""The least width that is blurred, in samples; below it a pixel is mixed with the picture as it is."""
STEPS = 2
"""Widths to each doubling."""
MOST = 22


class Level(NamedTuple):
    """The picture blurred by `sigma` samples, made smaller by `scale`."""

    picture: Plane
    sigma: float
    scale: int


def levels_up_to(picture: Plane, widest: float) -> list[Level]:
    """Return a picture (H, W, C) blurred by growing widths, the last at least as wide as asked; itself first."""
    found = [Level(picture, 0.0, 1)]
    while found[-1].sigma < widest and len(found) < MOST:
        number = len(found) - 1
        sigma = FIRST * 2 ** (number / STEPS)
        scale = 2 ** (number // STEPS)
        found.append(_next(found, sigma, scale))
    return found


def _next(found: list[Level], sigma: float, scale: int) -> Level:
    """Blurred on from the level before, or from the widest one of the size before, made half as large."""
    before = found[-1]
    picture, have = before.picture, (before.sigma / scale) ** 2
    if before.scale < scale:
        height, width = picture.shape[:2]
        size = (max(1, (width + 1) // 2), max(1, (height + 1) // 2))
        odd = (height % 2, width % 2)
        if any(odd):
            picture = cv2.copyMakeBorder(picture, 0, odd[0], 0, odd[1], cv2.BORDER_REPLICATE)  # type: ignore[assignment]
        picture = _halved(picture, size)
        have += 1 / 16  # the mean of two samples is a blur too
    more = math.sqrt(max((sigma / scale) ** 2 - have, 1e-4))
    return Level(_blurred(picture, more), sigma, scale)


def _halved(picture: Plane, size: tuple[int, int]) -> Plane:
    out = np.empty((size[1], size[0], picture.shape[2]), np.float32)

    def band(first: int, last: int) -> None:
        got = cv2.resize(picture[2 * first : 2 * last], (size[0], last - first), interpolation=cv2.INTER_AREA)
        out[first:last] = got.reshape(last - first, size[0], picture.shape[2])

    run_rows(band, size[1])
    return out


def _blurred(picture: Plane, sigma: float) -> Plane:
    reach = max(1, math.ceil(3.2 * sigma))
    out = np.empty_like(picture)
    height = picture.shape[0]

    def band(first: int, last: int) -> None:
        low, high = max(0, first - reach), min(height, last + reach)
        size = (2 * reach + 1, 2 * reach + 1)
        got = cv2.GaussianBlur(picture[low:high], size, sigma, sigmaY=sigma, borderType=cv2.BORDER_REPLICATE)
        out[first:last] = got.reshape(high - low, *picture.shape[1:])[first - low : last - low]

    run_rows(band, height)
    return out


@njit(cache=True, nogil=True, forceinline=True, error_model="numpy", fastmath={"contract"})
def _four(flat, start, width, height, per, x, y, share, r, g, b, a):  # type: ignore[no-untyped-def]
    """Add a share of what a level shows at a place of the full size, linear between its samples."""
    zero, half, one = np.float32(0), np.float32(0.5), np.float32(1)
    u = min(max((x + half) * per - half, zero), np.float32(width - 1.001))
    v = min(max((y + half) * per - half, zero), np.float32(height - 1.001))
    left, top = int(u), int(v)
    fx, fy = u - np.float32(left), v - np.float32(top)
    k00, k10 = (one - fx) * (one - fy) * share, fx * (one - fy) * share
    k01, k11 = (one - fx) * fy * share, fx * fy * share
    p = start + (top * width + left) * 4
    m = p + width * 4
    r += flat[p] * k00 + flat[p + 4] * k10 + flat[m] * k01 + flat[m + 4] * k11
    g += flat[p + 1] * k00 + flat[p + 5] * k10 + flat[m + 1] * k01 + flat[m + 5] * k11
    b += flat[p + 2] * k00 + flat[p + 6] * k10 + flat[m + 2] * k01 + flat[m + 6] * k11
    a += flat[p + 3] * k00 + flat[p + 7] * k10 + flat[m + 3] * k01 + flat[m + 7] * k11
    return r, g, b, a


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _mixed(base, flat, starts, shapes, pers, sigmas, widths, left, top, out, first, last):  # type: ignore[no-untyped-def]
    zero, one, least = np.float32(0), np.float32(1), np.float32(0.05)
    count, wide = len(sigmas), base.shape[1]
    plain = base.reshape(-1)
    for j in range(first, last):
        at = 0
        for i in range(widths.shape[1]):
            width = widths[j, i]
            p = ((top + j) * wide + left + i) * 4
            if not width > least or count == 1:
                out[j, i, 0], out[j, i, 1] = plain[p], plain[p + 1]
                out[j, i, 2], out[j, i, 3] = plain[p + 2], plain[p + 3]
                continue
            while at > 0 and sigmas[at] > width:
                at -= 1
            while at + 2 < count and sigmas[at + 1] <= width:
                at += 1
            low, high = sigmas[at], sigmas[at + 1]
            share = min((width - low) / (high - low), one) if at else min(width * width / (high * high), one)
            x, y = np.float32(left + i), np.float32(top + j)
            r, g, b, a = zero, zero, zero, zero
            if at == 0:
                rest = one - share
                r, g, b, a = plain[p] * rest, plain[p + 1] * rest, plain[p + 2] * rest, plain[p + 3] * rest
            elif share < one:
                n = at - 1
                r, g, b, a = _four(flat, starts[n], shapes[n, 1], shapes[n, 0], pers[n], x, y, one - share, r, g, b, a)
            r, g, b, a = _four(flat, starts[at], shapes[at, 1], shapes[at, 0], pers[at], x, y, share, r, g, b, a)
            out[j, i, 0], out[j, i, 1], out[j, i, 2], out[j, i, 3] = r, g, b, a


def softened(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> Plane:
    """Return the part of a picture (h, w, C) from (left, top) on, each pixel blurred by its own width.

    widths: (H, W) standard deviations in samples.
    """
    channels = picture.shape[2]
    whole = picture if channels == 4 else np.ascontiguousarray(np.pad(picture, ((0, 0), (0, 0), (0, 4 - channels))))
    levels = levels_up_to(whole, float(widths.max(initial=0.0)))
    out = np.empty((*widths.shape, 4), np.float32)
    blurred = [np.pad(v.picture, ((0, 1), (0, 1), (0, 0)), mode="edge") if min(v.picture.shape[:2]) < 2 else v.picture
               for v in levels[1:]]  # fmt: skip
    sizes = [found.size for found in blurred]
    flat = np.concatenate([found.reshape(-1) for found in blurred]) if blurred else np.zeros(8, np.float32)
    starts = np.array([sum(sizes[:n]) for n in range(len(sizes))], np.int64)
    shapes = np.array([found.shape[:2] for found in blurred], np.int64).reshape(-1, 2)
    pers = np.array([1 / v.scale for v in levels[1:]], np.float32)
    sigmas = np.array([v.sigma for v in levels], np.float32)
    run_rows(_mixed, widths.shape[0], whole, flat, starts, shapes, pers, sigmas, widths, left, top, out)
    return out if channels == 4 else np.ascontiguousarray(out[..., :channels])
