"""Fetch a picture with its colours parted: several places a pixel, each giving its share of red, green and blue."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Picture, Pixels, Warp
from nimble_quake.kernels import kernel, prefetch
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.sampling.edges import EDGES, index_of
from nimble_quake.raster.sampling.linear import AHEAD, pixel_at_border, pixel_between, pixels_of_row
from nimble_quake.raster.sampling.sample import NO_WARP
from nimble_quake.raster.threads.rows import run_rows

SOME = 64
"""Pixels whose colours are found before they are put together; they stay in the core's nearest cache."""


class Split(NamedTuple):
    """Sample k looks `factors[k]` x `moved` (2, H, W) farther, and gives `weights[k]` (r, g, b) of what it finds."""

    moved: Warp
    factors: NDArray[np.float32]
    weights: NDArray[np.float32]

    @property
    def max_displacement(self) -> Pixels:
        """The largest factor."""
        return float(np.abs(self.factors).max())


@kernel(inline="always")
def _four(x, y, width, height, edge):
    """The four samples round a place and how far on it lies between them; -1: nothing there."""
    left, top = math.floor(x), math.floor(y)
    col, row = int(left), int(top)
    return (
        index_of(col, width, edge),
        index_of(col + 1, width, edge),
        index_of(row, height, edge),
        index_of(row + 1, height, edge),
        np.float32(x - left),
        np.float32(y - top),
    )


@kernel(error_model="numpy", fastmath={"contract"})
def _parted(source, warp, warped, moved, factors, weights, x0, y0, step, m, edge, out, first, last):
    height, width = source.shape[:2]
    a, b, c, d, e, f = m
    far, zero, one = 1e6, np.float32(0), np.float32(1)
    for j in range(first, last):
        for i in range(out.shape[1]):
            px, py = x0 + (i + 0.5) * step, y0 + (j + 0.5) * step
            if warped:
                px += warp[0, j, i]
                py += warp[1, j, i]
            red, green, blue, alpha = zero, zero, zero, zero
            for k in range(len(factors)):
                qx, qy = px + factors[k] * moved[0, j, i], py + factors[k] * moved[1, j, i]
                u, v = a * qx + b * qy + c - 0.5, d * qx + e * qy + f - 0.5
                if not (-far < u < far and -far < v < far):
                    continue
                left, right, top, low, fx, fy = _four(u, v, width, height, edge)
                for n in range(4):
                    col, row = (left if n & 1 == 0 else right), (top if n < 2 else low)
                    if col < 0 or row < 0:
                        continue
                    fraction = (one - fx if n & 1 == 0 else fx) * (one - fy if n < 2 else fy)
                    if weights[k, 0] > 0:
                        red += source[row, col, 0] * fraction * weights[k, 0]
                    if weights[k, 1] > 0:
                        green += source[row, col, 1] * fraction * weights[k, 1]
                    if weights[k, 2] > 0:
                        blue += source[row, col, 2] * fraction * weights[k, 2]
                    alpha += source[row, col, 3] * fraction * (weights[k, 0] + weights[k, 1] + weights[k, 2])
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = red, green, blue
            out[j, i, 3] = max(min(alpha / np.float32(3), one), max(red, max(green, blue)))


@kernel(error_model="numpy", fastmath={"contract"})
def _linear_row(flat, stride, at, ahead, fxs, fys, out):
    """A row of samples well inside, linear between pixels. ahead: ask early for what is read later."""
    for i in range(len(fxs)):
        if ahead and i & 1 == 0:
            soon = np.int64(at[i + AHEAD])
            prefetch(flat, soon)
            prefetch(flat, soon + stride)
        pixel_between(flat, np.uint64(at[i]), np.uint64(stride), fxs[i], fys[i], out, np.uint64(4 * i))


@kernel(error_model="numpy", fastmath={"contract"})
def _places(warp, warped, moved, x0, y0, step, m, j, us, vs, dus, dvs):
    """Where a row's samples look before their colours part, and how far on a colour of factor 1 is found."""
    a, b, c, d, e, f = (
        np.float32(m[0]),
        np.float32(m[1]),
        np.float32(m[2]),
        np.float32(m[3]),
        np.float32(m[4]),
        np.float32(m[5]),
    )
    half, x032, step32 = np.float32(0.5), np.float32(x0), np.float32(step)
    py0 = np.float32(y0) + (np.float32(j) + half) * step32
    move_x, move_y = moved[0, j], moved[1, j]
    if warped:
        across, down = warp[0, j], warp[1, j]
        for i in range(len(us)):
            px, py = x032 + (np.float32(np.int32(i)) + half) * step32 + across[i], py0 + down[i]
            us[i], vs[i] = a * px + b * py + c - half, d * px + e * py + f - half
    else:
        for i in range(len(us)):
            px = x032 + (np.float32(np.int32(i)) + half) * step32
            us[i], vs[i] = a * px + b * py0 + c - half, d * px + e * py0 + f - half
    for i in range(len(us)):
        dus[i], dvs[i] = a * move_x[i] + b * move_y[i], d * move_x[i] + e * move_y[i]


@kernel(error_model="numpy", fastmath={"contract"})
def _moved_on(us, vs, dus, dvs, factor, to_u, to_v):
    for i in range(len(us)):
        to_u[i], to_v[i] = us[i] + dus[i] * factor, vs[i] + dvs[i] * factor


@kernel(error_model="numpy", fastmath={"contract"})
def _parting(dus, dvs):
    """Of how many of a run of pixels the colours are found at more than one place."""
    count = np.int32(0)
    for i in range(len(dus)):
        count = np.int32(count + (1 if (dus[i] != 0) | (dvs[i] != 0) else 0))
    return count


@kernel(error_model="numpy", fastmath={"contract"})
def _beyond(between):
    """Whether none of a run of pixels finds any of its colours well inside."""
    inside = np.int32(0)
    for k in range(len(between)):
        for i in range(between.shape[1]):
            inside = np.int32(inside + (1 if between[k, i] >= 0 else 0))
    return inside == 0


@kernel(inline="always")
def _is_clear(u, v, width, height, edge):
    """Whether there is nothing at a place, or it is too far off."""
    far = np.float32(1e6)
    if edge == 0:
        return not (u > -1 and v > -1 and u < width and v < height)
    return not (-far < u < far and -far < v < far)


@kernel(error_model="numpy", fastmath={"contract"})
def _row_at_border(source, places, factors, edge, insides, begin, end, made):
    """Those pixels of a row some of whose colours look over the border. insides: less than 0 where one does."""
    height, width = source.shape[:2]
    us, vs, dus, dvs, zero, one = places[0], places[1], places[2], places[3], np.float32(0), np.float32(1)
    found = np.empty((3, 4), np.float32)
    for i in range(begin, end):
        if insides[0, i] >= zero and insides[len(insides) // 2, i] >= zero and insides[len(insides) - 1, i] >= zero:
            continue
        clear, looks = True, 1 if dus[i] == zero and dvs[i] == zero else 3
        for k in range(looks):
            u, v = us[i] + dus[i] * factors[k], vs[i] + dvs[i] * factors[k]
            if _is_clear(u, v, width, height, edge):
                found[k] = zero
            else:
                pixel_at_border(source, u, v, edge, found[k])
                clear = False
        if clear:
            made[i] = zero
        elif looks == 1:
            made[i] = found[0]
        else:
            alpha = min((found[0, 3] + found[1, 3] + found[2, 3]) * np.float32(1 / 3), one)
            made[i, 0], made[i, 1], made[i, 2] = found[0, 0], found[1, 1], found[2, 2]
            made[i, 3] = max(alpha, max(found[0, 0], max(found[1, 1], found[2, 2])))


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _three(source, warp, warped, moved, factors, weights, x0, y0, step, m, edge, out, first, last):
    """As `_parted`, where each colour has one place of its own; where all have the same, that is looked up once."""
    (height, width), columns = source.shape[:2], out.shape[1]
    flat, third, one = source.reshape(-1), np.float32(1 / 3), np.float32(1)
    at, fractions = np.zeros((3, columns + AHEAD), np.int32), np.empty((2, 3, columns), np.float32)
    lines, rows = np.empty((3, 4 * SOME), np.float32), np.empty((6, columns), np.float32)
    us, vs, dus, dvs, to_u, to_v = rows[0], rows[1], rows[2], rows[3], rows[4], rows[5]
    for j in range(first, last):
        begin, end = columns, 0
        _places(warp, warped, moved, x0, y0, step, m, j, us, vs, dus, dvs)
        parting = _parting(dus, dvs)
        looks, some = 1 if parting == 0 else 3, parting < columns
        for k in range(looks):
            if parting > 0:
                _moved_on(us, vs, dus, dvs, factors[k], to_u, to_v)
            u, v = (to_u, to_v) if parting > 0 else (us, vs)
            low, high = pixels_of_row(u, v, width, height, 4, at[k, :columns], fractions[0, k], fractions[1, k])
            begin, end = min(begin, low if high > low else columns), max(end, high if high > low else 0)
        made, run = out[j], SOME if parting > 0 else columns
        for start in range(0, columns, run):
            stop = min(start + run, columns)
            if begin < end and _beyond(fractions[0, :looks, start:stop]):
                continue
            alone = some and _parting(dus[start:stop], dvs[start:stop]) == 0
            for k in range(1 if alone else 3):
                _linear_row(
                    flat,
                    4 * width,
                    at[k, start:],
                    alone or k == 0,
                    fractions[0, k, start:stop],
                    fractions[1, k, start:stop],
                    made[start:stop].reshape(-1) if alone else lines[k],
                )
            if alone:
                continue
            for i in range(stop - start):
                red, green, blue = lines[0, 4 * i], lines[1, 4 * i + 1], lines[2, 4 * i + 2]
                alpha = (lines[0, 4 * i + 3] + lines[1, 4 * i + 3] + lines[2, 4 * i + 3]) * third
                made[start + i, 0], made[start + i, 1], made[start + i, 2] = red, green, blue
                made[start + i, 3] = max(min(alpha, one), max(red, max(green, blue)))
        _row_at_border(source, rows, factors, edge, fractions[0, :looks], begin, end, made)


def fetch_split(
    source: Picture, grid: Grid, to_source: Affine, warp: Warp | None, split: Split, *, edge: str = "empty"
) -> Picture:
    """Return `source` seen through a warp, its colours parted; linear between pixels.

    As `sample.fetch`. The alpha is the mean of what the colours find, and never less than any of them: premultiplied.
    """
    out = np.empty((grid.height, grid.width, 4), np.float32)
    m = tuple(float(v) for v in to_source)
    moves = NO_WARP if warp is None else warp
    one_each = split.weights.shape == (3, 3) and bool((split.weights == np.eye(3)).all())
    source = np.ascontiguousarray(source)
    run_rows(
        _three if one_each else _parted,
        grid.height,
        source,
        moves,
        warp is not None,
        split.moved,
        split.factors,
        split.weights,
        float(grid.x0),
        float(grid.y0),
        float(grid.step),
        m,
        EDGES.index(edge),
        out,
    )
    return out
