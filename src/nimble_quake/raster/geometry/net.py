"""A net of points over a rectangle, and where its places are moved: smooth between points, looked up backwards."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.threads.rows import run_rows

FINE = 24
"""Samples of the table to a cell of the net."""
MOST_FINE = 640
ROUNDS = 6
"""How often the way back is improved: each round takes off most of what is left, where nothing folds."""

Table = NDArray[np.float32]


Bends = tuple[tuple[float, ...], tuple[float, ...]]
"""How much steeper the moves are at each point than the spline has them: along its row, along its column; a step."""


@lru_cache(maxsize=64)
def net_table(
    moves: tuple[float, ...], rows: int, columns: int, width: float, height: float, bends: Bends = ((), ())
) -> Table:
    """Return (n, m, 2) how far places of a net are moved, from the moves of its points (x, y; row by row).

    Bicubic splines through the points (SciPy's, not-a-knot), of lower degree where there are fewer than four, with the
    bends of single points laid over it; straight between the points where that would fold over itself and straight
    lines do not.
    """
    grid = np.array(moves, np.float64).reshape(rows, columns, 2)
    smooth = _spline(grid, rows, columns, 3)
    if any(map(any, bends)):
        smooth = smooth + _bent(bends, rows, columns, smooth.shape[:2])
    if folds(smooth, width, height):
        straight = _spline(grid, rows, columns, 1)
        return straight if not folds(straight, width, height) else smooth
    return smooth


def _spline(grid: NDArray[np.float64], rows: int, columns: int, degree: int) -> Table:
    from scipy.interpolate import RectBivariateSpline  # SciPy takes 0.3 s to load

    down, across = (min(FINE, MOST_FINE // (count - 1)) * (count - 1) + 1 for count in (rows, columns))
    ys, xs = np.linspace(0, rows - 1, down), np.linspace(0, columns - 1, across)
    kx, ky = min(degree, rows - 1), min(degree, columns - 1)
    planes = [
        RectBivariateSpline(np.arange(rows), np.arange(columns), grid[..., axis], kx=kx, ky=ky, s=0)(ys, xs)
        for axis in (0, 1)
    ]
    return np.ascontiguousarray(np.stack(planes, axis=2), np.float32)


def _bent(bends: Bends, rows: int, columns: int, shape: tuple[int, ...]) -> Table:
    """What slopes at the points add: Hermite's cubics along the line, his smooth step across, nothing at any point."""
    down, across = _hermite(rows, shape[0]), _hermite(columns, shape[1])
    total = np.zeros((*shape, 2))
    for slopes, first, second in ((bends[0], down[0], across[1]), (bends[1], down[1], across[0])):
        if slopes:
            grid = np.array(slopes, np.float64).reshape(rows, columns, 2)
            total += np.stack([first.T @ grid[..., axis] @ second for axis in (0, 1)], axis=2)
    return total.astype(np.float32)


def _hermite(count: int, samples: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The cubic Hermite basis of each of `count` points at samples from the first to the last: of values, of slopes."""
    away = np.linspace(0, count - 1, samples)[None] - np.arange(count)[:, None]
    t = np.minimum(np.abs(away), 1)
    return 1 - 3 * t**2 + 2 * t**3, away * (1 - t) ** 2


def slopes_of(table: Table, rows: int, columns: int) -> NDArray[np.float32]:
    """Return (2, rows, columns, 2) how steep the moves are at the points, a step: along the row, along the column."""
    (js, below, above, down), (xs, left, right, across) = (
        _beside(side, count) for side, count in zip(table.shape[:2], (rows, columns), strict=True)
    )
    along = (table[js][:, right] - table[js][:, left]) * (across / (right - left))[None, :, None]
    under = (table[above][:, xs] - table[below][:, xs]) * (down / (above - below))[:, None, None]
    return np.stack([along, under])


def _beside(side: int, count: int) -> tuple[NDArray[np.intp], NDArray[np.intp], NDArray[np.intp], int]:
    """The samples at the points, the ones before and behind them, and how many there are to a cell."""
    step = (side - 1) // (count - 1)
    at = np.arange(count) * step
    return at, np.maximum(at - 1, 0), np.minimum(at + 1, side - 1), step


def folds(table: Table, width: float, height: float) -> bool:
    """Return whether a net of a size (shot pixels) folds over itself somewhere: its Jacobian is not above 0."""
    down, across = table.shape[0] - 1, table.shape[1] - 1
    dx = np.diff(table, axis=1)[:-1] / (width / across)
    dy = np.diff(table, axis=0)[:, :-1] / (height / down)
    area = (1 + dx[..., 0]) * (1 + dy[..., 1]) - dx[..., 1] * dy[..., 0]
    return bool((area <= 0).any())


@kernel(error_model="numpy", fastmath={"contract"})
def _looked(places, to_net, to_shot, table, width, height, rounds, out, first, last):
    a, b, c, d, e, f = to_net
    p, q, r, s = to_shot
    down, across = table.shape[0] - 1, table.shape[1] - 1
    zero, one = np.float32(0), np.float32(1)
    per_x, per_y = np.float32(across / width), np.float32(down / height)
    for j in range(first, last):
        for i in range(places.shape[2]):
            x = a * places[0, j, i] + b * places[1, j, i] + c
            y = d * places[0, j, i] + e * places[1, j, i] + f
            u, v = x, y
            mx, my = zero, zero
            for _ in range(rounds):
                gx, gy = u * per_x, v * per_y
                hx = min(max(gx, zero), np.float32(across) - np.float32(1e-3))
                hy = min(max(gy, zero), np.float32(down) - np.float32(1e-3))
                left, top = int(hx), int(hy)
                fx, fy = hx - np.float32(left), hy - np.float32(top)
                k00, k10 = (one - fx) * (one - fy), fx * (one - fy)
                k01, k11 = (one - fx) * fy, fx * fy
                mx = (
                    table[top, left, 0] * k00
                    + table[top, left + 1, 0] * k10
                    + table[top + 1, left, 0] * k01
                    + table[top + 1, left + 1, 0] * k11
                )
                my = (
                    table[top, left, 1] * k00
                    + table[top, left + 1, 1] * k10
                    + table[top + 1, left, 1] * k01
                    + table[top + 1, left + 1, 1] * k11
                )
                out_x, out_y = abs(gx - hx) / np.float32(24), abs(gy - hy) / np.float32(24)
                away = max(out_x, out_y)  # in cells; beyond the net its border's move fades over one
                if away > np.float32(0.01):
                    t = max(one - away, zero)
                    t = t * t * (np.float32(3) - np.float32(2) * t)
                    mx, my = mx * t, my * t
                du, dv = x - mx - u, y - my - v
                u, v = u + du, v + dv
                if abs(du) + abs(dv) < np.float32(0.01):
                    break
            mx, my = u - x, v - y
            out[0, j, i] = p * mx + q * my
            out[1, j, i] = r * mx + s * my


CELL = 24
"""At least so many coarse samples to a cell of the net."""
MOST_COARSE = 4
"""The way back through a net is smooth: on a plain grid it is found at every so many samples, then drawn between."""


@lru_cache(maxsize=8)
def _between(times: int) -> NDArray[np.float32]:
    """The weights (4, times) of the samples round each of the places between two, by Catmull and Rom's cubic."""
    t = (np.arange(times) + 0.5) / times
    found = (
        -0.5 * t**3 + t**2 - 0.5 * t,
        1.5 * t**3 - 2.5 * t**2 + 1,
        -1.5 * t**3 + 2 * t**2 + 0.5 * t,
        0.5 * t**3 - 0.5 * t**2,
    )
    return np.stack(found).astype(np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _drawn(small, weights, out, first, last):
    """Cubic between coarse samples; the corner of `out` lies at the second of them, each way."""
    times, columns, width = weights.shape[1], small.shape[2], out.shape[2]
    line, wide = np.empty(columns, np.float32), np.empty(columns * times, np.float32)
    w0, w1, w2, w3 = weights[0], weights[1], weights[2], weights[3]
    for j in range(first, last):
        top, part = j // times, j % times
        for axis in range(2):
            a, b, c, d = small[axis, top], small[axis, top + 1], small[axis, top + 2], small[axis, top + 3]
            for i in range(columns):
                line[i] = a[i] * w0[part] + b[i] * w1[part] + c[i] * w2[part] + d[i] * w3[part]
            if times == 4:  # the step is a number: eight at once
                for i in range(columns - 3):
                    p, q, r, s = line[i], line[i + 1], line[i + 2], line[i + 3]
                    wide[4 * i] = p * w0[0] + q * w1[0] + r * w2[0] + s * w3[0]
                    wide[4 * i + 1] = p * w0[1] + q * w1[1] + r * w2[1] + s * w3[1]
                    wide[4 * i + 2] = p * w0[2] + q * w1[2] + r * w2[2] + s * w3[2]
                    wide[4 * i + 3] = p * w0[3] + q * w1[3] + r * w2[3] + s * w3[3]
            else:
                for i in range(columns - 3):
                    p, q, r, s, at = line[i], line[i + 1], line[i + 2], line[i + 3], i * times
                    for k in range(times):
                        wide[at + k] = p * w0[k] + q * w1[k] + r * w2[k] + s * w3[k]
            row = out[axis, j]
            for i in range(width):
                row[i] = wide[i]


def looked_back_on(
    grid: Grid,
    to_net: Affine,
    to_shot: tuple[float, float, float, float],
    table: Table,
    size: tuple[float, float],
    cells: tuple[int, int],
) -> Warp:
    """As `looked_back`, for the samples of a grid at their own places. cells: how many the net has, across and down."""
    narrow = min(side / count for side, count in zip(size, cells, strict=True)) * grid.scale
    times = MOST_COARSE
    while times > 2 and narrow < CELL * times:
        times //= 2
    ahead = 1.5 * times * grid.step
    columns, rows = -(-grid.width // times) + 3, -(-grid.height // times) + 3
    few = Grid(grid.x0 - ahead, grid.y0 - ahead, columns, rows, grid.scale / times)
    found = looked_back(Places(few).absolute(), to_net, to_shot, table, size)
    out = np.empty((2, *grid.shape), np.float32)
    run_rows(_drawn, grid.height, found, _between(times), out)
    return out


def looked_back(
    places: Warp, to_net: Affine, to_shot: tuple[float, float, float, float], table: Table, size: tuple[float, float]
) -> Warp:
    """Return how far places (2, H, W) look aside through a net: a point moved from A to B shows at B what was at A.

    to_net: shot place -> place in the net, (0, 0) its upper left corner; to_shot: the linear part of the way back.
    """
    out = np.empty_like(places)
    run_rows(
        _looked,
        places.shape[1],
        places,
        tuple(map(np.float32, to_net)),
        tuple(map(np.float32, to_shot)),
        table,
        np.float32(size[0]),
        np.float32(size[1]),
        ROUNDS,
        out,
    )
    return out
