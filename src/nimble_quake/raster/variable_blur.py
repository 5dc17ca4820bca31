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
from numpy.typing import NDArray

from nimble_quake.kernels import kernel
from nimble_quake.raster.rows import run_rows

Plane = NDArray[np.float32]
FIRST = 1.0
"""The least width that is blurred, in samples; below it a pixel is mixed with the picture as it is."""
STEPS = 2
"""Widths to each doubling."""
MOST = 22
LEAST = 0.05
"""Pixels of a width below this are as they are."""
TILE = 96
"""Samples along the side of a part that is blurred or passed over."""


class Level(NamedTuple):
    """The picture blurred by `sigma` samples, made smaller by `scale`; its first sample lies at (left, top) of it."""

    picture: Plane
    sigma: float
    scale: int
    left: int = 0
    top: int = 0


def levels_up_to(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> list[Level]:
    """Return a picture (H, W, C) blurred by growing widths, the last at least as wide as the widest.

    widths: (H, W), of the part from (left, top) on. Narrow blurs are made there alone, and only where the widths ask
    for them; wide ones all round it too.
    """
    widest, found = float(widths.max(initial=0.0)), list[Level]()
    while (found[-1].sigma if found else 0.0) < widest and len(found) < MOST:
        number = len(found)
        sigma, scale = FIRST * 2 ** (number / STEPS), 2 ** (number // STEPS)
        if scale == 1:
            wanted = (found[-1].sigma if found else LEAST, sigma * 2 ** (1 / STEPS))
            found.append(Level(_blurred_where(picture, sigma, widths, wanted, left, top), sigma, 1, left, top))
        else:
            found.append(_smaller(found[-1], picture, sigma, scale))
    return found


@kernel()
def _any_between(widths, low, high):  # type: ignore[no-untyped-def]
    for j in range(widths.shape[0]):
        for i in range(widths.shape[1]):
            if low <= widths[j, i] <= high:
                return True
    return False


def _blurred_where(
    picture: Plane, sigma: float, widths: NDArray[np.float32], wanted: tuple[float, float], left: int, top: int
) -> Plane:
    """The part of a picture from (left, top) on, blurred in the tiles in which some of the widths are wanted."""
    reach = math.ceil(3.2 * sigma)
    out = np.empty((*widths.shape, picture.shape[2]), np.float32)
    size = (2 * reach + 1, 2 * reach + 1)

    def band(first: int, last: int) -> None:
        for y in range(first, last, TILE):
            for x in range(0, widths.shape[1], TILE):
                part = out[y : min(y + TILE, last), x : x + TILE]
                height, width = part.shape[:2]
                if not _any_between(widths[y : y + height, x : x + width], *wanted):
                    part[...] = 0  # it is multiplied by nothing, which garbage must not be
                    continue
                above, before = min(reach, top + y), min(reach, left + x)
                source = picture[
                    top + y - above : top + y + height + reach, left + x - before : left + x + width + reach
                ]
                got = cv2.GaussianBlur(source, size, sigma, sigmaY=sigma, borderType=cv2.BORDER_REPLICATE)
                part[...] = got.reshape(source.shape)[above : above + height, before : before + width]

    run_rows(band, widths.shape[0])
    return out


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


@kernel(error_model="numpy", fastmath={"contract"})
def _row_between(above, below, share, count, lines, first):  # type: ignore[no-untyped-def]
    for n in range(count):
        lines[first + n] = above[n] + (below[n] - above[n]) * share


@kernel(error_model="numpy", fastmath={"contract"})
def _mixed(base, pictures, places, pers, sigmas, widths, left, top, out, first, last):  # type: ignore[no-untyped-def]
    """Row by row: each level's row at that height, then each pixel from the two whose widths lie round its own."""
    zero, half, one, least = np.float32(0), np.float32(0.5), np.float32(1), np.float32(LEAST)
    count, columns = len(sigmas), widths.shape[1]
    wide = base.shape[1]
    for n in range(count - 1):
        wide = max(wide, pictures[n].shape[1])
    stride = (wide + 1) * 4
    lines = np.zeros(count * stride, np.float32)
    shifts, ends, spans = np.empty(count, np.float32), np.empty(count, np.float32), np.empty(count, np.float32)
    for n in range(count):
        shifts[n] = (np.float32(left) - places[n, 0] + half) * pers[n] - half
        ends[n] = np.float32((base if n == 0 else pictures[n - 1]).shape[1] - 1)
        spans[n] = one / (sigmas[n + 1] - sigmas[n]) if n + 1 < count else one
    for j in range(first, last):
        y, line = np.float32(top + j), widths[j]
        least_here, most_here, lowest, highest = line[0], line[0], 0, count - 1
        for i in range(columns):
            least_here, most_here = min(least_here, line[i]), max(most_here, line[i])
        while lowest + 2 < count and least_here >= sigmas[lowest + 1]:
            lowest += 1
        while highest > 1 and most_here < sigmas[highest - 1]:
            highest -= 1
        for n in range(lowest, highest + 1):
            picture = base if n == 0 else pictures[n - 1]
            height, width = picture.shape[:2]
            v = min(max((y - places[n, 1] + half) * pers[n] - half, zero), np.float32(height - 1))
            row, at = int(v), n * stride + width * 4
            above, below = picture[row].reshape(-1), picture[min(row + 1, height - 1)].reshape(-1)
            _row_between(above, below, v - np.float32(row), width * 4, lines, n * stride)
            for k in range(4):
                lines[at + k] = lines[at - 4 + k]
        target, at = out[j].reshape(-1), lowest
        for i in range(columns):
            w, x = line[i], np.float32(i)
            while at > 0 and w < sigmas[at]:
                at -= 1
            while at + 2 < count and w >= sigmas[at + 1]:
                at += 1
            share = (w - sigmas[at]) * spans[at]
            if at == 0:
                share = share * share if w > least else zero
            share = min(share, one)
            u = min(max(x * pers[at] + shifts[at], zero), ends[at])
            v = min(max(x * pers[at + 1] + shifts[at + 1], zero), ends[at + 1])
            a, b = int(u), int(v)
            narrow_1, wide_1 = (u - np.float32(a)) * (one - share), (v - np.float32(b)) * share
            narrow_0, wide_0 = one - share - narrow_1, share - wide_1
            p, q = np.uint64(at * stride + a * 4), np.uint64((at + 1) * stride + b * 4)
            o, next_ = np.uint64(i * 4), np.uint64(4)
            for k in range(next_):
                target[o + k] = (lines[p + k] * narrow_0 + lines[p + next_ + k] * narrow_1
                                 + lines[q + k] * wide_0 + lines[q + next_ + k] * wide_1)  # fmt: skip


def softened(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> Plane:
    """Return the part of a picture (h, w, C) from (left, top) on, each pixel blurred by its own width.

    widths: (H, W) standard deviations in samples.
    """
    channels, (height, width) = picture.shape[2], widths.shape
    if not float(widths.max(initial=0.0)) > LEAST:
        return np.ascontiguousarray(picture[top : top + height, left : left + width])
    whole = picture if channels == 4 else np.ascontiguousarray(np.pad(picture, ((0, 0), (0, 0), (0, 4 - channels))))
    levels = levels_up_to(whole, widths, left, top)
    out = np.empty((height, width, 4), np.float32)
    places = np.array([(0, 0), *((v.left, v.top) for v in levels)], np.float32)
    pers = np.array([1.0, *(1 / v.scale for v in levels)], np.float32)
    sigmas = np.array([0.0, *(v.sigma for v in levels)], np.float32)
    pictures = tuple(levels[min(n, len(levels) - 1)].picture for n in range(MOST))  # a kernel knows how many
    run_rows(_mixed, height, whole, pictures, places, pers, sigmas, widths, left, top, out)
    return out if channels == 4 else np.ascontiguousarray(out[..., :channels])
