"""Fetch a picture at displaced places: one pass, one filter, four edge rules.

A result sample at shot place p shows the source at A(p + d(p)): `d` is the composed warp in shot pixels, `A` the
affine map from shot place to source place. Both are applied in one kernel, so a warp of exact zeros gives the same
bits as no warp at all.

Filters: nearest (round half up), linear, cubic (Catmull-Rom: Keys 1981 with a = -1/2); "good" is linear and "best" is
cubic with parts that are made smaller averaged over what each pixel covers (`raster.sampling.shrunk`).
Edges: empty (transparent black, as W3C Filter Effects 1 says for feDisplacementMap), hold, wrap, mirror (half-sample).
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Picture, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.sampling.edges import EDGES, index_of
from nimble_quake.raster.sampling.linear import FAR, can_look_up, covered, look_up, places_of_row
from nimble_quake.raster.sampling.shrunk import LEAST, average_shrunk
from nimble_quake.raster.threads.rows import run_rows

FILTERS = ("nearest", "linear", "good", "cubic", "best")
NO_WARP = np.zeros((2, 0, 0), np.float32)


@kernel(inline="always")
def _cubic(t: float, w: NDArray[np.float32]) -> None:
    t2 = t * t
    t3 = t2 * t
    w[0] = -0.5 * t3 + t2 - 0.5 * t
    w[1] = 1.5 * t3 - 2.5 * t2 + 1.0
    w[2] = -1.5 * t3 + 2.0 * t2 + 0.5 * t
    w[3] = 0.5 * t3 - 0.5 * t2


@kernel(error_model="numpy", fastmath={"contract"})
def _positions(warp, warped, x0, y0, step, m, us, vs, first, last):
    for j in range(first, last):
        places_of_row(warp, warped, x0, y0, step, m, j, us[j], vs[j])


@kernel(error_model="numpy")
def _cover(out, us, vs, width, height, across, down, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            fraction = covered(us[j, i], vs[j, i], width, height, across, down)
            if fraction < 1:
                for k in range(out.shape[2]):
                    out[j, i, k] *= fraction


def _fetch_linear(
    source: Picture,
    warp: Warp,
    warped: bool,
    x0: float,
    y0: float,
    step: float,
    m: Affine,
    edge: int,
    out: Picture,
    enlarged: tuple[float, ...],
    least: float,
) -> None:
    """OpenCV's remap interpolates at exact float places since its version 5 (before, at 1/32 px)."""
    crisp = edge == 0 and max(enlarged) > 1.001
    kept = out.shape[:2] if least or not can_look_up(source, out) else (0, 0)  # places that somebody asks for after
    us, vs = np.empty(kept, np.float32), np.empty(kept, np.float32)
    border = (cv2.BORDER_CONSTANT, cv2.BORDER_REPLICATE, cv2.BORDER_WRAP, cv2.BORDER_REFLECT)[1 if crisp else edge]

    def band(first: int, last: int) -> None:
        _positions(warp, warped, x0, y0, step, m, us, vs, first, last)  # still in the core's cache when looked up
        part = out[first:last]
        got = cv2.remap(source, us[first:last], vs[first:last], cv2.INTER_LINEAR, dst=part, borderMode=border)
        if got is not part:
            part[...] = got.reshape(part.shape)

    times = (max(enlarged[0], 1.0), max(enlarged[1], 1.0)) if crisp else (0.0, 0.0)
    if can_look_up(source, out):
        look_up(source, warp, warped, (x0, y0, step), m, 1 if crisp else edge, times, (us, vs), out)
    else:
        run_rows(band, out.shape[0])
        if crisp:
            size = (source.shape[1], source.shape[0])
            run_rows(_cover, out.shape[0], out, us, vs, *size, *map(np.float32, times))
    if least:
        average_shrunk(source, us, vs, edge, (x0 / step, y0 / step), out, least)


@kernel(error_model="numpy", fastmath={"contract"})
def _fetch_nearest(source, warp, warped, x0, y0, step, m, edge, out, first, last):
    height, width, channels = source.shape
    a, b, c, d, e, f = m
    for j in range(first, last):
        for i in range(out.shape[1]):
            px = x0 + (i + 0.5) * step
            py = y0 + (j + 0.5) * step
            if warped:
                px += warp[0, j, i]
                py += warp[1, j, i]
            u, v = a * px + b * py + c, d * px + e * py + f
            inside = -1e7 < u < 1e7 and -1e7 < v < 1e7
            col = index_of(int(math.floor(u)), width, edge) if inside else -1
            row = index_of(int(math.floor(v)), height, edge) if inside else -1
            for k in range(channels):
                out[j, i, k] = source[row, col, k] if row >= 0 and col >= 0 else np.float32(0)


@kernel(error_model="numpy", fastmath={"contract"})
def _fetch_cubic(source, warp, warped, x0, y0, step, m, edge, out, first, last):
    height, width, channels = source.shape
    a, b, c, d, e, f = m
    wx = np.zeros(4, np.float32)
    wy = np.zeros(4, np.float32)
    cols = np.zeros(4, np.int64)
    for j in range(first, last):
        for i in range(out.shape[1]):
            px = x0 + (i + 0.5) * step
            py = y0 + (j + 0.5) * step
            if warped:
                px += warp[0, j, i]
                py += warp[1, j, i]
            u, v = a * px + b * py + c - 0.5, d * px + e * py + f - 0.5
            for k in range(channels):
                out[j, i, k] = 0.0
            if not (-1e7 < u < 1e7 and -1e7 < v < 1e7):
                continue
            left, top = int(math.floor(u)), int(math.floor(v))
            _cubic(u - left, wx)
            _cubic(v - top, wy)
            for n in range(4):
                cols[n] = index_of(left + n - 1, width, edge)
            for n in range(4):
                row = index_of(top + n - 1, height, edge)
                if row < 0:
                    continue
                for o in range(4):
                    if cols[o] >= 0:
                        weight = wy[n] * wx[o]
                        for k in range(channels):
                            out[j, i, k] += weight * source[row, cols[o], k]


@kernel()
def _copied(source, rows, columns, out, first, last):
    zero = np.float32(0)
    for j in range(first, last):
        row = rows[j]
        for i in range(out.shape[1]):
            column = columns[i]
            if row >= 0 and column >= 0:
                for k in range(out.shape[2]):
                    out[j, i, k] = source[row, column, k]
            else:
                for k in range(out.shape[2]):
                    out[j, i, k] = zero


@kernel()
def _indices(start, size, edge, out):
    for n in range(len(out)):
        out[n] = index_of(start + n, size, edge)


@kernel(error_model="numpy")
def _averaged_over(source, columns, rows, edge, out, first, last):
    """The mean of the rectangle of the source that each sample stands for. columns, rows: where each begins."""
    height, width, channels = source.shape
    line = np.empty(width * channels, np.float32)
    taken = np.empty(channels, np.float64)
    for j in range(first, last):
        line[:] = np.float32(0)
        low, high = rows[j], rows[j + 1]
        for r in range(int(math.floor(low)), int(math.ceil(high))):
            row = index_of(r, height, edge)
            if row < 0:
                continue
            part = np.float32((min(high, r + 1.0) - max(low, r * 1.0)) / (high - low))
            flat = source[row].reshape(-1)
            for n in range(width * channels):
                line[n] += flat[n] * part
        for i in range(out.shape[1]):
            left, right = columns[i], columns[i + 1]
            for k in range(channels):
                taken[k] = 0.0
            for c in range(int(math.floor(left)), int(math.ceil(right))):
                column = index_of(c, width, edge)
                if column < 0:
                    continue
                part = (min(right, c + 1.0) - max(left, c * 1.0)) / (right - left)
                for k in range(channels):
                    taken[k] += line[column * channels + k] * part
            for k in range(channels):
                out[j, i, k] = taken[k]


def averaged_over(source: Picture, grid: Grid, to_source: Affine, edge: str = "empty") -> Picture | None:
    """Return the mean of what each sample covers of a source that is made smaller upright; None where it is not.

    source, grid, to_source, edge: as for `fetch`. A sample of a preview is so the mean of those it stands for.
    """
    a, b, c, d, e, f = to_source
    across, down = a * grid.step, e * grid.step
    if b != 0 or d != 0 or min(across, down) < 1 or across * down <= 1.0001:
        return None
    columns = a * grid.x0 + c + across * np.arange(grid.width + 1)
    rows = e * grid.y0 + f + down * np.arange(grid.height + 1)
    if max(abs(columns[0]), abs(columns[-1]), abs(rows[0]), abs(rows[-1])) > FAR:
        return None
    out = np.empty((*grid.shape, source.shape[2]), np.float32)
    columns, rows = np.round(columns, 6), np.round(rows, 6)  # what falls on a pixel's border does so exactly
    run_rows(_averaged_over, grid.height, np.ascontiguousarray(source), columns, rows, EDGES.index(edge), out)
    return out


def _whole_shift(grid: Grid, m: Affine) -> tuple[int, int] | None:
    """How many pixels the source is shifted, where each result pixel is exactly one of its pixels; else None."""
    a, b, c, d, e, f = m
    u, v = a * (grid.x0 + 0.5 * grid.step) + c - 0.5, e * (grid.y0 + 0.5 * grid.step) + f - 0.5
    exact = b == 0 and d == 0 and a * grid.step == 1 and e * grid.step == 1 and u.is_integer() and v.is_integer()
    return (int(u), int(v)) if exact and max(abs(u), abs(v)) < FAR else None


def fetch(
    source: Picture,
    grid: Grid,
    to_source: Affine,
    warp: Warp | None = None,
    *,
    edge: str = "empty",
    filter: str = "linear",
    out: Picture | None = None,
) -> Picture:
    """Return `source` seen through a warp.

    source: (h, w, C) float32. grid: where the result is computed. to_source: shot place -> source place, in source
    pixels with centres at +.5. warp: (2, H, W) shot pixels over the grid, or None. Returns (H, W, C) float32, not to be
    written to: it is `source` itself where it comes to just its pixels.
    """
    a, b, c, d, e, f = to_source
    m = (float(a), float(b), float(c), float(d), float(e), float(f))
    shift = _whole_shift(grid, to_source) if warp is None else None
    if shift == (0, 0) and source.shape[:2] == grid.shape and out is None:
        return source
    if out is None:
        out = np.empty((grid.height, grid.width, source.shape[2]), np.float32)
    if shift is not None:
        columns, rows = np.empty(grid.width, np.int64), np.empty(grid.height, np.int64)
        _indices(shift[0], source.shape[1], EDGES.index(edge), columns)
        _indices(shift[1], source.shape[0], EDGES.index(edge), rows)
        run_rows(_copied, grid.height, source, rows, columns, out)
        return out
    moves = NO_WARP if warp is None else warp
    where = (moves, warp is not None, float(grid.x0), float(grid.y0), float(grid.step), m, EDGES.index(edge), out)
    least = LEAST.get(filter, 0.0) if warp is not None else 0.0
    if filter in ("linear", "good"):
        enlarged = tuple(1 / max(s * grid.step, 1e-9) for s in affine.scales(to_source))
        _fetch_linear(source, *where, enlarged, least)
        return out
    run_rows(_fetch_nearest if filter == "nearest" else _fetch_cubic, grid.height, source, *where)
    if least:
        us, vs = np.empty(grid.shape, np.float32), np.empty(grid.shape, np.float32)
        run_rows(_positions, grid.height, *where[:6], us, vs)
        average_shrunk(source, us, vs, EDGES.index(edge), (grid.x0 * grid.scale, grid.y0 * grid.scale), out, least)
    return out
