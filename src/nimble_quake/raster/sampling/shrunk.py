"""Parts of a picture that a warp makes smaller, averaged over what each result pixel covers: they do not alias."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.sampling.edges import index_of
from nimble_quake.raster.threads.rows import run_rows

LEAST = {"good": 2.0, "best": 1.4}
"""Parts made smaller by less than this are looked up as they are, by filter: two by two are averaged there anyway."""
BLOCK = 8
"""Pixels along the side of a part that is looked at once."""
MOST = 12
"""At most so many places are looked at along each side of a result pixel."""


@kernel(inline="always")
def _step(plane, j, i, dj, di):
    """How far a place moves towards the next sample; the smaller way across a seam."""
    height, width = plane.shape
    here = plane[j, i]
    on = plane[j + dj, i + di] - here if j + dj < height and i + di < width else np.float32(0)
    back = here - plane[j - dj, i - di] if j - dj >= 0 and i - di >= 0 else on
    if not (j + dj < height and i + di < width):
        on = back
    return on if abs(on) <= abs(back) else back


@kernel(error_model="numpy")
def _take(plane, line):
    """A block of a plane as one line."""
    rows, columns = plane.shape
    for j in range(rows):
        for i in range(columns):
            line[j * columns + i] = plane[j, i]


@kernel(error_model="numpy")
def _give(total, per, made):
    for n in range(len(made)):
        made[n] = total[n] * per


@kernel(error_model="numpy")
def _add_outside(source, us, vs, count, across, down, edge, total):
    """Add what lies round them to those of `count` totals whose places reach over the border."""
    height, width = source.shape[:2]
    zero, one, far = np.float32(0), np.float32(1), np.float32(1e6)
    high_x, high_y = np.float32(width - 1.01), np.float32(height - 1.01)
    for n in range(count):
        u, v = us[n] + across, vs[n] + down
        if (u >= zero and v >= zero and u < high_x and v < high_y) or not (-far < u < far and -far < v < far):
            continue
        lx, ly = np.floor(u), np.floor(v)
        left, top, fx, fy = int(lx), int(ly), u - lx, v - ly
        for e in range(4):
            col = index_of(left + (e & 1), width, edge)
            row = index_of(top + (e >> 1), height, edge)
            if col >= 0 and row >= 0:
                fraction = (fx if e & 1 else one - fx) * (fy if e >> 1 else one - fy)
                for k in range(4):
                    total[4 * n + k] += source[row, col, k] * fraction


@kernel(error_model="numpy", fastmath={"contract"})
def _places(us, vs, count, across, down, width, height, at, weights):
    """Find the pixel left above each of `count` places moved by across and down, and how much of four to take.

    Returns how many are not well inside: nothing is taken for those.
    """
    zero, one = np.float32(0), np.float32(1)
    high_x, high_y = np.float32(width - 1.01), np.float32(height - 1.01)
    stride, outside = np.int32(4 * width), np.int32(0)
    k00, k10, k01, k11 = weights[0], weights[1], weights[2], weights[3]
    for n in range(count):
        u, v = us[n] + across, vs[n] + down
        good = (u >= zero) & (v >= zero) & (u < high_x) & (v < high_y)
        u, v, all_of = u if good else zero, v if good else zero, one if good else zero
        left, top = np.int32(u), np.int32(v)
        fx, fy = u - np.float32(left), v - np.float32(top)
        at[n] = np.int32(np.int32(top * stride) + np.int32(left * np.int32(4)))
        k10[n], k11[n] = fx * (one - fy), fx * fy
        k00[n], k01[n] = all_of - fy - fx * (one - fy), fy - fx * fy
        outside = np.int32(outside + (0 if good else 1))
    return outside


@kernel(error_model="numpy", fastmath={"contract"})
def _add(flat, at, weights, count, below, total):
    """Add four pixels, from `at` on, to each of `count` totals: all channels in one instruction."""
    i1, i2, i3, i4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    w0, w1, w2, w3 = weights[0], weights[1], weights[2], weights[3]
    for n in range(count):
        p, o = np.uint64(at[n]), np.uint64(4 * n)
        q, r, s = p + i4, p + below, p + below + i4
        k00, k10, k01, k11 = w0[n], w1[n], w2[n], w3[n]
        m0 = flat[p] * k00 + flat[q] * k10 + flat[r] * k01 + flat[s] * k11
        m1 = flat[p + i1] * k00 + flat[q + i1] * k10 + flat[r + i1] * k01 + flat[s + i1] * k11
        m2 = flat[p + i2] * k00 + flat[q + i2] * k10 + flat[r + i2] * k01 + flat[s + i2] * k11
        m3 = flat[p + i3] * k00 + flat[q + i3] * k10 + flat[r + i3] * k01 + flat[s + i3] * k11
        m0, m1, m2, m3 = total[o] + m0, total[o + i1] + m1, total[o + i2] + m2, total[o + i3] + m3
        total[o], total[o + i1], total[o + i2], total[o + i3] = m0, m1, m2, m3


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _averaged(source, us, vs, edge, least, most, before_x, before_y, out, first, last):
    """Block by block of result pixels, which are made smaller alike; `first` and `last` are rows of blocks.

    before_x, before_y: how much of the first blocks lies before the first sample.
    """
    height, width = source.shape[:2]
    rows, columns = us.shape
    one, half, golden, far = np.float32(1), np.float32(0.5), np.float32(0.6180340), np.float32(1e6)
    flat, below = source.reshape(-1), np.uint64(4 * width)
    total, at = np.empty(4 * BLOCK * BLOCK, np.float32), np.empty(BLOCK * BLOCK, np.int32)
    weights = np.empty((4, BLOCK * BLOCK), np.float32)
    block_u, block_v = np.empty(BLOCK * BLOCK, np.float32), np.empty(BLOCK * BLOCK, np.float32)
    for row in range(BLOCK * first - before_y, min(BLOCK * last - before_y, rows), BLOCK):
        y = max(min(row + BLOCK // 2, rows - 1), 0)
        top, low = max(row, 0), min(row + BLOCK, rows)
        for column in range(-before_x, columns, BLOCK):
            x = max(min(column + BLOCK // 2, columns - 1), 0)
            ux, vx, uy, vy = _step(us, y, x, 0, 1), _step(vs, y, x, 0, 1), _step(us, y, x, 1, 0), _step(vs, y, x, 1, 0)
            across, down = max(abs(ux), abs(vx)), max(abs(uy), abs(vy))
            if not max(across, down) > least or max(across, down) > far:
                continue
            nx, ny = max(min(int(across + half), most), 1), max(min(int(down + half), most), 1)
            count = max(max(nx, ny), (nx * ny + 1) // 2)
            left, wide = max(column, 0), min(column + BLOCK, columns) - max(column, 0)
            pixels = wide * (low - top)
            _take(us[top:low, left : left + wide], block_u)
            _take(vs[top:low, left : left + wide], block_v)
            total[: 4 * pixels] = np.float32(0)
            per, t = one / np.float32(count), half
            for number in range(count):  # spread by steps of the golden ratio: no two in a row or column
                s = (np.float32(number) + half) * per - half
                t += golden
                t = t - one if t >= one else t
                du, dv = ux * s + uy * (t - half), vx * s + vy * (t - half)
                outside = _places(block_u, block_v, pixels, du, dv, width, height, at, weights)
                if outside < pixels:
                    _add(flat, at, weights, pixels, below, total)
                if outside > 0:
                    _add_outside(source, block_u, block_v, pixels, du, dv, edge, total)
            for j in range(top, low):
                _give(total[4 * wide * (j - top) :], per, out[j, left : left + wide].reshape(-1))


def average_shrunk(
    source: Picture,
    us: NDArray[np.float32],
    vs: NDArray[np.float32],
    edge: int,
    corner: tuple[float, float],
    out: Picture,
    least: float,
) -> None:
    """Put averages where places (index coordinates, centres at whole numbers) lie more than a source pixel apart.

    Elsewhere `out`, (H, W, C), stays as it is. edge: as in `sample.EDGES`; least: made smaller by how much (`LEAST`).
    corner: where the first sample lies in the shot, in samples: blocks are the same in whatever part of it is made.
    """
    height, width = us.shape
    if source.shape[2] != 4 or height < 2 or width < 2:
        return
    before_x, before_y = (round(at) % BLOCK for at in corner)
    blocks = -(-(height + before_y) // BLOCK)
    source = np.ascontiguousarray(source)
    run_rows(_averaged, blocks, source, us, vs, edge, np.float32(least), MOST, before_x, before_y, out)
