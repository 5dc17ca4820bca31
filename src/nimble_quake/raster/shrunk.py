"""Parts of a picture that a warp makes smaller, averaged over what each result pixel covers: they do not alias."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.raster.bent import minified
from nimble_quake.raster.pyramid import LEAST
from nimble_quake.raster.rows import run_rows
from nimble_quake.raster.sample_edges import index_of

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


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _averaged(source, us, vs, levels, least, most, edge, out, first, last):  # type: ignore[no-untyped-def]
    height, width, channels = source.shape
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    far = np.float32(1e6)
    sums = np.empty(channels, np.float32)
    for j in range(first, last):
        for i in range(us.shape[1]):
            if not levels[j >> 2, i >> 2] > least:
                continue
            u, v = us[j, i], vs[j, i]
            if not (-far < u < far and -far < v < far):
                continue
            ux, vx = _step(us, j, i, 0, 1), _step(vs, j, i, 0, 1)
            uy, vy = _step(us, j, i, 1, 0), _step(vs, j, i, 1, 0)
            across = min(int(math.ceil(max(abs(ux), abs(vx)))), most)
            down = min(int(math.ceil(max(abs(uy), abs(vy)))), most)
            if across <= 1 and down <= 1:
                continue
            across, down = max(across, 1), max(down, 1)
            for k in range(channels):
                sums[k] = zero
            for b in range(down):
                t = (np.float32(b) + half) / np.float32(down) - half
                for a in range(across):
                    s = (np.float32(a) + half) / np.float32(across) - half
                    x, y = u + ux * s + uy * t, v + vx * s + vy * t
                    left, top = int(math.floor(x)), int(math.floor(y))
                    fx, fy = x - np.float32(left), y - np.float32(top)
                    for n in range(4):
                        col, row = left + (n & 1), top + (n >> 1)
                        col, row = index_of(col, width, edge), index_of(row, height, edge)
                        if col < 0 or row < 0:
                            continue
                        share = (fx if n & 1 else one - fx) * (fy if n >> 1 else one - fy)
                        for k in range(channels):
                            sums[k] += source[row, col, k] * share
            per = one / np.float32(across * down)
            for k in range(channels):
                out[j, i, k] = sums[k] * per


def average_shrunk(source: Picture, us: NDArray[np.float32], vs: NDArray[np.float32], edge: int, out: Picture) -> None:
    """Put averages where places (index coordinates, centres at whole numbers) lie more than a source pixel apart.

    Elsewhere `out`, (H, W, C), stays as it is. edge: as in `sample.EDGES`.
    """
    levels = minified(us, vs, 1.0)
    if float(levels.max(initial=0.0)) <= LEAST:
        return
    run_rows(_averaged, us.shape[0], source, us, vs, levels, np.float32(LEAST), MOST, edge, out)
