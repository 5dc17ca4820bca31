"""Parts of a picture that a warp makes smaller, averaged over what each result pixel covers: they do not alias."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.raster.rows import run_rows
from nimble_quake.raster.sample_edges import index_of

LEAST = 1.5
"""Parts made smaller by less than half again are looked up as they are: four samples are averaged there anyway."""
MOST = 12
"""At most so many places are looked at along each side of a result pixel."""


@njit(cache=True, nogil=True, inline="always")
def _step(plane, j, i, dj, di):  # type: ignore[no-untyped-def]
    """How far a place moves towards the next sample; the smaller way across a seam."""
    height, width = plane.shape
    here = plane[j, i]
    on = plane[j + dj, i + di] - here if j + dj < height and i + di < width else np.float32(0)
    back = here - plane[j - dj, i - di] if j - dj >= 0 and i - di >= 0 else on
    if not (j + dj < height and i + di < width):
        on = back
    return on if abs(on) <= abs(back) else back


@njit(cache=True, nogil=True, error_model="numpy")
def _at_border(source, edge, left, top, fx, fy, pixel):  # type: ignore[no-untyped-def]
    """Add what lies round a place that reaches over the border."""
    height, width = source.shape[:2]
    one = np.float32(1)
    for e in range(4):
        col = index_of(left + (e & 1), width, edge)
        row = index_of(top + (e >> 1), height, edge)
        if col >= 0 and row >= 0:
            share = (fx if e & 1 else one - fx) * (fy if e >> 1 else one - fy)
            for k in range(4):
                pixel[k] += source[row, col, k] * share


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _averaged(source, us, vs, blocks, most, edge, out, first, last):  # type: ignore[no-untyped-def]
    height, width = source.shape[:2]
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    far, flat = np.float32(1e6), source.reshape(-1)
    wide, rim = np.int64(width * 4), np.zeros(4, np.float32)
    high_x, high_y = np.float32(width - 1.01), np.float32(height - 1.01)
    for j in range(first, last):
        for i in range(us.shape[1]):
            if not blocks[j >> 2, i >> 2]:
                continue
            u, v = us[j, i], vs[j, i]
            if not (-far < u < far and -far < v < far):
                continue
            ux, vx = _step(us, j, i, 0, 1), _step(vs, j, i, 0, 1)
            uy, vy = _step(us, j, i, 1, 0), _step(vs, j, i, 1, 0)
            across = min(max(int(max(abs(ux), abs(vx)) + half), 1), most)
            down = min(max(int(max(abs(uy), abs(vy)) + half), 1), most)
            if across * down == 1:
                continue
            per_x, per_y = one / np.float32(across), one / np.float32(down)
            ux, vx, uy, vy = ux * per_x, vx * per_x, uy * per_y, vy * per_y
            x0 = u - (ux * np.float32(across - 1) + uy * np.float32(down - 1)) * half
            y0 = v - (vx * np.float32(across - 1) + vy * np.float32(down - 1)) * half
            r, g, b, a = zero, zero, zero, zero
            rim[:] = zero
            for _ in range(down):
                x, y = x0, y0
                for _ in range(across):
                    if x >= zero and y >= zero and x < high_x and y < high_y:
                        left, top = int(x), int(y)
                        fx, fy = x - np.float32(left), y - np.float32(top)
                        k00, k10 = (one - fx) * (one - fy), fx * (one - fy)
                        k01, k11 = (one - fx) * fy, fx * fy
                        p = top * wide + left * 4
                        m = p + wide
                        r += flat[p] * k00 + flat[p + 4] * k10 + flat[m] * k01 + flat[m + 4] * k11
                        g += flat[p + 1] * k00 + flat[p + 5] * k10 + flat[m + 1] * k01 + flat[m + 5] * k11
                        b += flat[p + 2] * k00 + flat[p + 6] * k10 + flat[m + 2] * k01 + flat[m + 6] * k11
                        a += flat[p + 3] * k00 + flat[p + 7] * k10 + flat[m + 3] * k01 + flat[m + 7] * k11
                    else:
                        lx, ly = np.floor(x), np.floor(y)
                        _at_border(source, edge, int(lx), int(ly), x - lx, y - ly, rim)
                    x += ux
                    y += vx
                x0 += uy
                y0 += vy
            per = per_x * per_y
            out[j, i, 0], out[j, i, 1] = (r + rim[0]) * per, (g + rim[1]) * per
            out[j, i, 2], out[j, i, 3] = (b + rim[2]) * per, (a + rim[3]) * per


@njit(cache=True, nogil=True, error_model="numpy")
def _blocks(us, vs, least, out, first, last):  # type: ignore[no-untyped-def]
    """Which blocks of 4 x 4 samples are made smaller by more than `least`."""
    height, width = us.shape
    for j in range(first, last):
        y = min(4 * j + 1, height - 1)
        low = y + 1 if y + 1 < height else y - 1
        for i in range(out.shape[1]):
            x = min(4 * i + 1, width - 1)
            on = x + 1 if x + 1 < width else x - 1
            u, v = us[y, x], vs[y, x]
            far = max(max(abs(us[y, on] - u), abs(vs[y, on] - v)), max(abs(us[low, x] - u), abs(vs[low, x] - v)))
            out[j, i] = far > least


def average_shrunk(source: Picture, us: NDArray[np.float32], vs: NDArray[np.float32], edge: int, out: Picture) -> None:
    """Put averages where places (index coordinates, centres at whole numbers) lie more than a source pixel apart.

    Elsewhere `out`, (H, W, C), stays as it is. edge: as in `sample.EDGES`.
    """
    height, width = us.shape
    if source.shape[2] != 4 or height < 2 or width < 2:
        return
    blocks = np.empty((-(-height // 4), -(-width // 4)), np.bool_)
    run_rows(_blocks, blocks.shape[0], us, vs, np.float32(LEAST), blocks)
    if blocks.any():
        run_rows(_averaged, height, np.ascontiguousarray(source), us, vs, blocks, MOST, edge, out)
