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
from nimble_quake.raster.blur.convolve import convolve, half_gaussian
from nimble_quake.raster.geometry.part import box_of
from nimble_quake.raster.threads.rows import run_rows

Plane = NDArray[np.float32]
FIRST = 2.0**-1.5
"""The least width that is blurred, in samples; below it a pixel is mixed with the picture as it is."""
STEPS = 3
"""Widths to each doubling."""
WHOLE = 10
"""Widths that are blurred at full size: up to 2.8 samples; each doubling from there on is kept at half the size."""
MOST = 38
LEAST = 0.05
"""Pixels of a width below this are as they are."""
REACH = 3.2
"""A Gaussian is cut at this many sigmas."""
WIDER = (1 - 2 * REACH * math.exp(-REACH * REACH / 2) / math.sqrt(2 * math.pi) / math.erf(REACH / math.sqrt(2))) ** -0.5
"""What a sigma is multiplied by, so that the Gaussian that was cut has its variance still (a truncated normal's)."""
BETWEEN = 1 / 6
"""The variance that reading straight between samples adds on the mean: that of a triangle two samples wide."""
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
    ends = np.empty((2, *(-(-side // TILE) for side in widths.shape)), np.float32)
    run_rows(_tile_ends, ends.shape[1], widths, ends, least=1)
    widest, found = max(float(ends[1].max()), 0.0), list[Level]()
    while (found[-1].sigma if found else 0.0) < widest and len(found) < MOST:
        number = len(found)
        sigma, scale = FIRST * 2 ** (number / STEPS), 2 ** (max(number - WHOLE + STEPS, 0) // STEPS)
        if scale == 1:
            low, high = found[-1].sigma if found else LEAST, sigma * 2 ** (1 / STEPS)
            tiles = (ends[0] <= np.float32(high)) & (ends[1] >= np.float32(low))
            found.append(Level(_blurred_where(picture, sigma, widths.shape, tiles, left, top), sigma, 1, left, top))
        else:
            found.append(_smaller(found[-1], picture, sigma, scale))
    return found


@kernel(error_model="numpy")
def _tile_ends(widths, out, first, last):
    """The least and the largest width of each tile, (2, rows, columns); `first` and `last` are rows of tiles."""
    rows, columns = widths.shape
    for row in range(first, last):
        for column in range(out.shape[2]):
            left, right = column * TILE, min((column + 1) * TILE, columns)
            low, high = widths[row * TILE, left], widths[row * TILE, left]
            for j in range(row * TILE, min((row + 1) * TILE, rows)):
                for i in range(left, right):
                    low, high = min(low, widths[j, i]), max(high, widths[j, i])
            out[0, row, column], out[1, row, column] = low, high


def _blurred_where(
    picture: Plane, sigma: float, shape: tuple[int, int], tiles: NDArray[np.bool_], left: int, top: int
) -> Plane:
    """The part of a picture from (left, top) on, blurred in some tiles."""
    half = half_gaussian(WIDER * sigma, math.ceil(REACH * sigma))
    out = np.empty((*shape, picture.shape[2]), np.float32)

    def band(first: int, last: int) -> None:
        for row in range(first, last):
            ends = [0, *(np.flatnonzero(np.diff(tiles[row])) + 1).tolist(), tiles.shape[1]]
            for column, end in zip(ends, ends[1:], strict=False):  # tiles side by side are one: their rims are shared
                y, x = row * TILE, column * TILE
                part = out[y : y + TILE, x : end * TILE]
                if tiles[row, column]:
                    convolve(picture, half, half, part, top + y, left + x, alone=True)
                else:
                    part[:, :1] = 0  # nobody asks for the rest; this is multiplied by nothing, as garbage must not be

    run_rows(band, len(tiles), least=1)
    return out


def _smaller(before: Level, picture: Plane, sigma: float, scale: int) -> Level:
    """Blurred on from the level before, made half as large; the first of half size comes from the picture itself."""
    source, have = (picture, 0.0) if scale == 2 and before.scale == 1 else (before.picture, _own(before))
    have *= (before.scale / scale) ** 2
    if scale != before.scale:
        odd = (source.shape[0] % 2, source.shape[1] % 2)
        if any(odd):
            source = cv2.copyMakeBorder(source, 0, odd[0], 0, odd[1], cv2.BORDER_REPLICATE)  # type: ignore[assignment]  # OpenCV's stubs forget the type
        source = _halved(source)
        have += 1 / 16  # the mean of two samples is a blur too
    level = Level(source, sigma, scale)
    return level._replace(picture=_blurred(source, math.sqrt(max(_own(level) - have, 1e-4))))


def _own(level: Level) -> float:
    """The variance of a level in its own samples: less than its sigma's, by what reading it between samples blurs."""
    return (level.sigma / level.scale) ** 2 - (BETWEEN if level.scale > 1 else 0.0)


@kernel(error_model="numpy", fastmath={"contract"}, slp=True, loops=False)
def _means(picture, out, first, last):
    quarter, i1, i2, i3 = np.float32(0.25), np.uint64(1), np.uint64(2), np.uint64(3)
    for j in range(first, last):
        above, below, made = picture[2 * j].reshape(-1), picture[2 * j + 1].reshape(-1), out[j].reshape(-1)
        for i in range(out.shape[1]):
            n, p = np.uint64(4 * i), np.uint64(8 * i)
            q = p + np.uint64(4)
            m0, m1 = (
                above[p] + above[q] + below[p] + below[q],
                above[p + i1] + above[q + i1] + below[p + i1] + below[q + i1],
            )
            m2, m3 = (
                above[p + i2] + above[q + i2] + below[p + i2] + below[q + i2],
                above[p + i3] + above[q + i3] + below[p + i3] + below[q + i3],
            )
            made[n], made[n + i1], made[n + i2], made[n + i3] = m0 * quarter, m1 * quarter, m2 * quarter, m3 * quarter


def _halved(picture: Plane) -> Plane:
    """A picture of four channels at half the size: means of two by two."""
    out = np.empty((picture.shape[0] // 2, picture.shape[1] // 2, 4), np.float32)
    run_rows(_means, len(out), np.ascontiguousarray(picture), out)
    return out


def _blurred(picture: Plane, sigma: float) -> Plane:
    half, out = half_gaussian(WIDER * sigma, max(1, math.ceil(REACH * sigma))), np.empty_like(picture)
    convolve(picture, half, half, out)
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _row_between(picture, v, seen, lines, first):
    """A level's row at a height v, as far as it is seen, into `lines` from `first` on; beyond its end that goes on."""
    height, width = picture.shape[:2]
    row = int(v)
    fraction = v - np.float32(row)
    begin = 4 * min(max(int(seen[0]), 0), width - 1)
    end = 4 * min(max(int(seen[1]), 0) + 2, width)
    above, below = picture[row].reshape(-1)[begin:end], picture[min(row + 1, height - 1)].reshape(-1)[begin:end]
    made = lines[first + begin : first + end]
    for n in range(len(made)):
        made[n] = above[n]
    if fraction > 0:  # else the row below may be one that nobody asked for
        for n in range(len(made)):
            made[n] += (below[n] - made[n]) * fraction
    if end == 4 * width:
        for k in range(4):
            lines[first + end + k] = lines[first + end - 4 + k]


@kernel(inline="always")
def _end_of_run(at, begin):
    """The first pixel behind those that lie between the same two levels as one does."""
    end = begin + 1
    while end < len(at) and at[end] == at[begin]:
        end += 1
    return end


@kernel(error_model="numpy", fastmath={"contract"})
def _level_of(line, sigmas, lowest, highest, at):
    """The last level, from `lowest` to before `highest`, that is not wider than each width."""
    for i in range(len(line)):
        at[i] = lowest
    for n in range(lowest + 1, highest):
        for i in range(len(line)):
            at[i] = np.int32(n) if line[i] >= sigmas[n] else at[i]


@kernel(error_model="numpy")
def _looked_at(at, spread):
    """From which pixel of a row to behind which one each level is looked at."""
    spread[0], spread[1] = len(at), 0
    begin = 0
    while begin < len(at):
        end = _end_of_run(at, begin)
        for n in range(at[begin], at[begin] + 2):
            spread[0, n], spread[1, n] = min(spread[0, n], begin), max(spread[1, n], end)
        begin = end


@kernel(error_model="numpy", fastmath={"contract"})
def _shares(line, at, sigmas, spans, pers, shifts, ends, stride, places, weights):
    """Where in `lines` the two levels of each pixel lie, and how much of four neighbours there goes into it."""
    zero, one, least, columns = np.float32(0), np.float32(1), np.float32(LEAST), len(line)
    begin = 0
    while begin < columns:
        n, end = at[begin], _end_of_run(at, begin)
        narrower, span, per_n, shift_n, end_n = sigmas[n], spans[n], pers[n], shifts[n], ends[n]
        per_m, shift_m, end_m, first_n = pers[n + 1], shifts[n + 1], ends[n + 1], np.int32(n * stride)
        for i in range(begin, end):
            w, x = line[i], np.float32(i)
            fraction = (w * w - narrower * narrower) * span  # blurs add by their squares
            fraction = min(fraction, one) if n > 0 or w > least else zero
            u = min(max(x * per_n + shift_n, zero), end_n)
            v = min(max(x * per_m + shift_m, zero), end_m)
            a, b = np.int32(u), np.int32(v)
            narrow, wide = (u - np.float32(a)) * (one - fraction), (v - np.float32(b)) * fraction
            weights[0, i], weights[1, i] = one - fraction - narrow, narrow
            weights[2, i], weights[3, i] = fraction - wide, wide
            p, q = np.int32(first_n + np.int32(a * 4)), np.int32(np.int32(first_n + stride) + np.int32(b * 4))
            # what counts for nothing is not looked at: it may lie in a tile that nobody asked for
            places[0, i], places[1, i] = q if fraction >= one else p, p if fraction <= zero else q
        begin = end


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _put_together(lines, places, weights, out):
    """The four channels of a pixel in one instruction."""
    i1, i2, i3, i4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    for i in range(places.shape[1]):
        p, q, o = np.uint64(places[0, i]), np.uint64(places[1, i]), np.uint64(i) * i4
        a, b, c, d = weights[0, i], weights[1, i], weights[2, i], weights[3, i]
        r, s = p + i4, q + i4
        k0, k1 = lines[p] * a + lines[r] * b, lines[p + i1] * a + lines[r + i1] * b
        k2, k3 = lines[p + i2] * a + lines[r + i2] * b, lines[p + i3] * a + lines[r + i3] * b
        k0, k1 = k0 + lines[q] * c + lines[s] * d, k1 + lines[q + i1] * c + lines[s + i1] * d
        k2, k3 = k2 + lines[q + i2] * c + lines[s + i2] * d, k3 + lines[q + i3] * c + lines[s + i3] * d
        out[o], out[o + i1], out[o + i2], out[o + i3] = k0, k1, k2, k3


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _mixed(base, pictures, places, pers, sigmas, widths, left, top, out, first, last):
    """Row by row: each level's row at that height, then each pixel from the two whose widths lie round its own."""
    zero, half, one = np.float32(0), np.float32(0.5), np.float32(1)
    count, columns = len(sigmas), widths.shape[1]
    wide = base.shape[1]
    for n in range(count - 1):
        wide = max(wide, pictures[n].shape[1])
    stride = np.int32((wide + 1) * 4)
    lines = np.zeros(count * stride, np.float32)
    shifts, ends, spans = np.empty(count, np.float32), np.empty(count, np.float32), np.empty(count, np.float32)
    spread, at, found, fractions = (
        np.empty((2, count + 1), np.int64),
        np.empty(columns, np.int32),
        np.empty((2, columns), np.int32),
        np.empty((4, columns), np.float32),
    )
    for n in range(count):
        shifts[n] = (np.float32(left) - places[n, 0] + half) * pers[n] - half
        ends[n] = np.float32((base if n == 0 else pictures[n - 1]).shape[1] - 1)
        spans[n] = one / (sigmas[n + 1] * sigmas[n + 1] - sigmas[n] * sigmas[n]) if n + 1 < count else one
    for j in range(first, last):
        y, line = np.float32(top + j), widths[j]
        least_here, most_here, lowest, highest = line[0], line[0], 0, count - 1
        for i in range(columns):
            least_here, most_here = min(least_here, line[i]), max(most_here, line[i])
        while lowest + 2 < count and least_here >= sigmas[lowest + 1]:
            lowest += 1
        while highest > 1 and most_here < sigmas[highest - 1]:
            highest -= 1
        _level_of(line, sigmas, lowest, highest, at)
        _looked_at(at, spread)
        for n in range(lowest, highest + 1):
            begin, end = spread[0, n], spread[1, n]
            if begin < end:
                picture = base if n == 0 else pictures[n - 1]
                v = min(max((y - places[n, 1] + half) * pers[n] - half, zero), np.float32(len(picture) - 1))
                seen = begin * pers[n] + shifts[n], (end - 1) * pers[n] + shifts[n]
                _row_between(picture, v, seen, lines, n * stride)
        _shares(line, at, sigmas, spans, pers, shifts, ends, stride, found, fractions)
        _put_together(lines, found, fractions, out[j].reshape(-1))


def softened(picture: Plane, widths: NDArray[np.float32], left: int, top: int) -> Plane:
    """Return the part of a picture (h, w, C) from (left, top) on, each pixel blurred by its own width.

    widths: (H, W) standard deviations in samples.
    """
    channels, (height, width) = picture.shape[2], widths.shape
    own = picture[top : top + height, left : left + width]
    box = box_of(widths > LEAST)
    if box is None:
        return np.ascontiguousarray(own)
    rows, columns = box
    if (rows.stop - rows.start, columns.stop - columns.start) != (height, width):
        out = own.copy()
        out[rows, columns] = softened(picture, widths[rows, columns], left + columns.start, top + rows.start)
        return out
    widths = np.ascontiguousarray(widths)
    whole = picture if channels == 4 else np.ascontiguousarray(np.pad(picture, ((0, 0), (0, 0), (0, 4 - channels))))
    levels = levels_up_to(whole, widths, left, top)
    out = np.empty((height, width, 4), np.float32)
    places = np.array([(0, 0), *((v.left, v.top) for v in levels)], np.float32)
    pers = np.array([1.0, *(1 / v.scale for v in levels)], np.float32)
    sigmas = np.array([0.0, *(v.sigma for v in levels)], np.float32)
    pictures = tuple(levels[min(n, len(levels) - 1)].picture for n in range(MOST))  # a kernel knows how many
    run_rows(_mixed, height, whole, pictures, places, pers, sigmas, widths, left, top, out)
    return out if channels == 4 else np.ascontiguousarray(out[..., :channels])
