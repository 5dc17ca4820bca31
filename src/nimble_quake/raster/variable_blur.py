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
RIM = 8
"""Samples round the part that is looked at that narrow blurs see."""


class Level(NamedTuple):
    """The picture blurred by `sigma` samples, made smaller by `scale`; its first sample lies at (left, top) of it."""

    picture: Plane
    sigma: float
    scale: int
    left: int = 0
    top: int = 0


def levels_up_to(picture: Plane, widest: float, part: tuple[int, int, int, int]) -> list[Level]:
    """Return a picture (H, W, C) blurred by growing widths, the last at least as wide as asked.

    part: (left, top, width, height) that is looked at. Narrow blurs are made there alone, wide ones all round it too.
    """
    left, top, width, height = part
    x, y = max(0, left - RIM), max(0, top - RIM)
    near = np.ascontiguousarray(picture[y : top + height + RIM, x : left + width + RIM])
    found: list[Level] = []
    while (found[-1].sigma if found else 0.0) < widest and len(found) < MOST:
        number = len(found)
        sigma, scale = FIRST * 2 ** (number / STEPS), 2 ** (number // STEPS)
        if scale == 1:
            before = found[-1] if found else Level(near, 0.0, 1, x, y)
            found.append(Level(_blurred(before.picture, math.sqrt(sigma**2 - before.sigma**2)), sigma, 1, x, y))
        else:
            found.append(_smaller(found[-1], picture, sigma, scale))
    return found


def _smaller(before: Level, picture: Plane, sigma: float, scale: int) -> Level:
    """Blurred on from the level before, made half as large; the first of half size comes from the picture itself."""
    source, have = (picture, 0.0) if scale == 2 and before.scale == 1 else (before.picture, before.sigma)
    have = (have / scale) ** 2
    if scale != before.scale:
        odd = (source.shape[0] % 2, source.shape[1] % 2)
        if any(odd):
            source = cv2.copyMakeBorder(source, 0, odd[0], 0, odd[1], cv2.BORDER_REPLICATE)  # type: ignore[assignment]
        source = _halved(source, (source.shape[1] // 2, source.shape[0] // 2))
        have += 1 / 16  # the mean of two samples is a blur too
    return Level(_blurred(source, math.sqrt(max((sigma / scale) ** 2 - have, 1e-4))), sigma, scale)


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


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _add_run(picture, x0, y, per, widths, low, high, rising, square, out, begin, end):  # type: ignore[no-untyped-def]
    """Add a run of samples of one level, each by its share, linear between the level's own samples."""
    zero, half, one = np.float32(0), np.float32(0.5), np.float32(1)
    height, width = picture.shape[:2]
    flat, wide = picture.reshape(-1), width * 4
    v = min(max((y + half) * per - half, zero), np.float32(height - 1.001))
    top = int(v)
    fy = v - np.float32(top)
    span = one / (high - low)
    for i in range(begin, end):
        w = widths[i]
        t = min(w * w / (high * high), one) if square else min((w - low) * span, one)
        share = t if rising else one - t
        u = min(max((x0 + np.float32(i) + half) * per - half, zero), np.float32(width - 1.001))
        left = int(u)
        fx = (u - np.float32(left)) * share
        k10, k11 = fx * (one - fy), fx * fy
        k00, k01 = share * (one - fy) - k10, share * fy - k11
        p = top * wide + left * 4
        m = p + wide
        out[i, 0] += flat[p] * k00 + flat[p + 4] * k10 + flat[m] * k01 + flat[m + 4] * k11
        out[i, 1] += flat[p + 1] * k00 + flat[p + 5] * k10 + flat[m + 1] * k01 + flat[m + 5] * k11
        out[i, 2] += flat[p + 2] * k00 + flat[p + 6] * k10 + flat[m + 2] * k01 + flat[m + 6] * k11
        out[i, 3] += flat[p + 3] * k00 + flat[p + 7] * k10 + flat[m + 3] * k01 + flat[m + 7] * k11


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _mixed(base, pictures, places, pers, sigmas, widths, left, top, out, first, last):  # type: ignore[no-untyped-def]
    """Row by row, in runs of samples whose widths lie between the same two levels."""
    one, least, count = np.float32(1), np.float32(0.05), len(sigmas)
    for j in range(first, last):
        row, line, own = out[j], widths[j], base[top + j, left : left + widths.shape[1]]
        i, columns = 0, widths.shape[1]
        while i < columns:
            begin, at = i, -1
            if line[i] > least and count > 1:
                at = 0
                while at + 2 < count and sigmas[at + 1] <= line[i]:
                    at += 1
            if at < 0:
                while i < columns and not (line[i] > least and count > 1):
                    for k in range(4):
                        row[i, k] = own[i, k]
                    i += 1
                continue
            low, high = sigmas[at], sigmas[at + 1]
            ends = at + 2 >= count
            while i < columns and line[i] > least and line[i] >= low and (ends or line[i] < high):
                i += 1
            i = max(i, begin + 1)
            y = np.float32(top + j)
            if at == 0:
                for n in range(begin, i):
                    rest = one - min(line[n] * line[n] / (high * high), one)
                    for k in range(4):
                        row[n, k] = own[n, k] * rest
            else:
                for n in range(begin, i):
                    for k in range(4):
                        row[n, k] = np.float32(0)
                b = at - 1
                _add_run(pictures[b], np.float32(left) - places[b, 0], y - places[b, 1], pers[b], line, low, high,
                         False, False, row, begin, i)  # fmt: skip
            _add_run(pictures[at], np.float32(left) - places[at, 0], y - places[at, 1], pers[at], line, low, high,
                     True, at == 0, row, begin, i)  # fmt: skip


def softened(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> Plane:
    """Return the part of a picture (h, w, C) from (left, top) on, each pixel blurred by its own width.

    widths: (H, W) standard deviations in samples.
    """
    channels = picture.shape[2]
    whole = picture if channels == 4 else np.ascontiguousarray(np.pad(picture, ((0, 0), (0, 0), (0, 4 - channels))))
    height, width = widths.shape
    levels = levels_up_to(whole, float(widths.max(initial=0.0)), (left, top, width, height))
    out = np.empty((height, width, 4), np.float32)
    pictures = [np.pad(v.picture, ((0, 1), (0, 1), (0, 0)), mode="edge") if min(v.picture.shape[:2]) < 2 else v.picture
                for v in levels]  # fmt: skip
    places = np.array([(v.left, v.top) for v in levels], np.float32).reshape(-1, 2)
    pers = np.array([1 / v.scale for v in levels], np.float32)
    sigmas = np.array([0.0, *(v.sigma for v in levels)], np.float32)
    run_rows(_mixed, height, whole, List(pictures) if levels else List([whole]), places, pers, sigmas, widths,
             left, top, out)  # fmt: skip
    return out if channels == 4 else np.ascontiguousarray(out[..., :channels])
