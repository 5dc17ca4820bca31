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
def _at_border(source, edge, left, top, fx, fy, pixel):
    """Add what lies round a place that reaches over the border."""
    height, width = source.shape[:2]
    one = np.float32(1)
    for e in range(4):
        col = index_of(left + (e & 1), width, edge)
        row = index_of(top + (e >> 1), height, edge)
        if col >= 0 and row >= 0:
            fraction = (fx if e & 1 else one - fx) * (fy if e >> 1 else one - fy)
            for k in range(4):
                pixel[k] += source[row, col, k] * fraction


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _averaged(source, us, vs, edge, least, most, before_x, before_y, out, first, last):
    """Block by block of result pixels, which are made smaller alike; `first` and `last` are rows of blocks.

    before_x, before_y: how much of the first blocks lies before the first sample.
    """
    height, width = source.shape[:2]
    rows, columns = us.shape
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    golden, far, flat = np.float32(0.6180340), np.float32(1e6), source.reshape(-1)
    wide, rim, o1 = width * 4, np.zeros(4, np.float32), np.uint64(1)
    o2, o3 = np.uint64(2), np.uint64(3)
    high_x, high_y = np.float32(width - 1.01), np.float32(height - 1.01)
    for row in range(BLOCK * first - before_y, min(BLOCK * last - before_y, rows), BLOCK):
        y = max(min(row + BLOCK // 2, rows - 1), 0)
        for column in range(-before_x, columns, BLOCK):
            x = max(min(column + BLOCK // 2, columns - 1), 0)
            ux, vx, uy, vy = _step(us, y, x, 0, 1), _step(vs, y, x, 0, 1), _step(us, y, x, 1, 0), _step(vs, y, x, 1, 0)
            across, down = max(abs(ux), abs(vx)), max(abs(uy), abs(vy))
            if not max(across, down) > least or max(across, down) > far:
                continue
            nx, ny = max(min(int(across + half), most), 1), max(min(int(down + half), most), 1)
            count = max(max(nx, ny), (nx * ny + 1) // 2)
            per = one / np.float32(count)
            for j in range(max(row, 0), min(row + BLOCK, rows)):
                for i in range(max(column, 0), min(column + BLOCK, columns)):
                    red, green, blue, alpha = zero, zero, zero, zero
                    u0, v0 = us[j, i], vs[j, i]
                    t = half
                    for number in range(count):  # spread by steps of the golden ratio: no two in a row or column
                        s = (np.float32(number) + half) * per - half
                        t += golden
                        t = t - one if t >= one else t
                        u, v = u0 + ux * s + uy * (t - half), v0 + vx * s + vy * (t - half)
                        if u >= zero and v >= zero and u < high_x and v < high_y:
                            left, top = int(u), int(v)
                            fx, fy = u - np.float32(left), v - np.float32(top)
                            k10, k11 = fx * (one - fy), fx * fy
                            k00, k01 = one - fy - k10, fy - k11
                            p = np.uint64(top * wide + left * 4)  # unsigned: no number is looked at for its sign
                            q, m = p + np.uint64(4), p + np.uint64(wide)
                            n = m + np.uint64(4)
                            p1, p2, p3, q1, q2, q3 = p + o1, p + o2, p + o3, q + o1, q + o2, q + o3
                            m1, m2, m3, n1, n2, n3 = m + o1, m + o2, m + o3, n + o1, n + o2, n + o3
                            r = flat[p] * k00 + flat[q] * k10 + flat[m] * k01 + flat[n] * k11
                            g = flat[p1] * k00 + flat[q1] * k10 + flat[m1] * k01 + flat[n1] * k11
                            b = flat[p2] * k00 + flat[q2] * k10 + flat[m2] * k01 + flat[n2] * k11
                            a = flat[p3] * k00 + flat[q3] * k10 + flat[m3] * k01 + flat[n3] * k11
                            red, green, blue, alpha = red + r, green + g, blue + b, alpha + a
                        elif -far < u < far and -far < v < far:
                            rim[:] = zero
                            lx, ly = np.floor(u), np.floor(v)
                            _at_border(source, edge, int(lx), int(ly), u - lx, v - ly, rim)
                            red, green, blue, alpha = red + rim[0], green + rim[1], blue + rim[2], alpha + rim[3]
                    out[j, i, 0], out[j, i, 1] = red * per, green * per
                    out[j, i, 2], out[j, i, 3] = blue * per, alpha * per


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
