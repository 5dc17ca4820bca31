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
from numba.typed import List
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
def _add(picture, scale, x, y, share, out):  # type: ignore[no-untyped-def]
    """Add a share of what a level shows at a place of the full size, linear between its samples."""
    zero, half, one = np.float32(0), np.float32(0.5), np.float32(1)
    height, width = picture.shape[:2]
    u = (np.float32(x) + half) / np.float32(scale) - half
    v = (np.float32(y) + half) / np.float32(scale) - half
    u = min(max(u, zero), np.float32(width - 1))
    v = min(max(v, zero), np.float32(height - 1))
    left, top = int(u), int(v)
    right, low = min(left + 1, width - 1), min(top + 1, height - 1)
    fx, fy = u - np.float32(left), v - np.float32(top)
    a, b = (one - fx) * (one - fy) * share, fx * (one - fy) * share
    c, d = (one - fx) * fy * share, fx * fy * share
    for k in range(picture.shape[2]):
        out[k] += (
            picture[top, left, k] * a
            + picture[top, right, k] * b
            + picture[low, left, k] * c
            + picture[low, right, k] * d
        )


@njit(cache=True, nogil=True, error_model="numpy")
def _mixed(pictures, sigmas, scales, widths, left, top, out, first, last):  # type: ignore[no-untyped-def]
    zero, one = np.float32(0), np.float32(1)
    count = len(sigmas)
    for j in range(first, last):
        for i in range(widths.shape[1]):
            width = widths[j, i]
            pixel = out[j, i]
            for k in range(len(pixel)):
                pixel[k] = zero
            if not width > np.float32(0.05) or count == 1:
                for k in range(len(pixel)):
                    pixel[k] = pictures[0][top + j, left + i, k]
                continue
            at = 0
            while at + 2 < count and sigmas[at + 1] <= width:
                at += 1
            low, high = sigmas[at], sigmas[at + 1]
            share = min((width - low) / (high - low), one) if at else min(width * width / (high * high), one)
            if share < one:
                _add(pictures[at], scales[at], left + i, top + j, one - share, pixel)
            if share > zero:
                _add(pictures[at + 1], scales[at + 1], left + i, top + j, share, pixel)


def softened(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> Plane:
    """Return the part of a picture (h, w, C) from (left, top) on, each pixel blurred by its own width.

    widths: (H, W) standard deviations in samples.
    """
    levels = levels_up_to(picture, float(widths.max(initial=0.0)))
    out = np.empty((*widths.shape, picture.shape[2]), np.float32)
    pictures = tuple(level.picture for level in levels)
    sigmas = np.array([level.sigma for level in levels], np.float32)
    scales = np.array([level.scale for level in levels], np.int64)
    run_rows(_mixed, widths.shape[0], List(pictures), sigmas, scales, widths, left, top, out)
    return out
