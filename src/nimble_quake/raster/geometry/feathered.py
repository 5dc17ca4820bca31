"""How much a figure covers, with a feather measured from its edge."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Pixels
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.distances import (
    SCRATCH,
    TOGETHER,
    covered,
    crosses,
    edge_distance,
    ellipse_row,
    is_within,
    nearest_edge,
    on_crease,
    rectangle_distance,
)
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

TILE = 16
"""Samples across a tile: its samples are measured against the edges that can be nearest to any of them."""


@kernel(inline="always")
def _square(u, v, half, turned, fade, step):
    """What a rectangle covers of a sample about (u, v), in its own axes."""
    d, nu, nv = rectangle_distance(u, v, half[0], half[1])
    nu, nv = math.copysign(nu, u), math.copysign(nv, v)
    c, s = turned
    return covered(d - fade[1], nu * c - nv * s, nu * s + nv * c, fade[0], step)


@kernel(inline="always")
def _columns(x, wide, x0, step, columns):
    """The first and the last column of samples that a box so wide to each side of x reaches."""
    left = min(max(0, int(math.floor((x - wide - x0) / step))), columns)
    return left, max(left, min(columns, int(math.ceil((x + wide - x0) / step))))


@kernel(error_model="numpy")
def _ellipse(where, half, turned, fade, out, first, last):
    """where: x0, y0, step of the grid, x, y of the middle. half: half width and height. fade: feather, grow.

    Beyond the box that it lies in nothing is looked at. What lies near the edge is measured row by row.
    """
    x0, y0, step, x, y = where
    a, b = half
    c, s = turned
    feather, grow = fade
    reach, columns = 0.5 * feather + step, out.shape[1]
    more = max(grow, 0.0) + reach + step
    wide, tall = math.hypot(a * c, b * s) + more, math.hypot(a * s, b * c) + more
    span = _columns(x, wide, x0, step, columns)
    rows, at = np.empty((SCRATCH, columns), np.float64), np.empty(columns, np.int64)
    work = np.empty((5, TOGETHER), np.float64)
    for j in range(first, last):
        dy = y0 + (j + 0.5) * step - y
        out[j] = 0.0
        if abs(dy) > tall:
            continue
        count, inner = ellipse_row(span, (x0, step, x, dy), half, turned, fade, False, rows, at, work)
        for n in range(count):
            out[j, at[n]] = rows[1, n]
        for n in range(inner, columns):
            out[j, at[n]] = 1.0


@kernel(error_model="numpy")
def _rectangle(where, half, turned, fade, out, first, last):
    """As `_ellipse`."""
    x0, y0, step, x, y = where
    a, b = half
    c, s = turned
    feather, grow = fade
    reach = 0.5 * feather + step
    more = max(grow, 0.0) + reach + step
    wide, tall = abs(a * c) + abs(b * s) + more, abs(a * s) + abs(b * c) + more
    left, right = _columns(x, wide, x0, step, out.shape[1])
    for j in range(first, last):
        dy = y0 + (j + 0.5) * step - y
        out[j] = 0.0
        if abs(dy) > tall:
            continue
        for i in range(left, right):
            dx = x0 + (i + 0.5) * step - x
            u, v = dx * c + dy * s, dy * c - dx * s
            least = max(abs(u) - a, abs(v) - b)
            if least - grow >= reach and least > 0.0:
                continue
            if least - grow <= -reach and least < 0.0:
                out[j, i] = 1.0
                continue
            if not on_crease(u, v, a, b, step):
                out[j, i] = _square(u, v, half, turned, fade, step)
                continue
            total = 0.0
            for part in range(4):
                du, dv = (0.5 * (part & 1) - 0.25) * step, (0.25 * (part & 2) - 0.25) * step
                total += _square(u + du * c + dv * s, v + dv * c - du * s, half, turned, fade, 0.5 * step)
            out[j, i] = 0.25 * total


@kernel(error_model="numpy")
def _polygon(corners, where, fade, out, first, last):
    """Tiles of samples: one is passed over where it lies far from the edge, else it knows the edges that count."""
    x0, y0, step = where
    feather, grow = fade
    count, width = len(corners), out.shape[1]
    near = np.empty(count, np.int64)
    away = np.empty(count, np.float64)
    top = first
    while top < last:
        low = min(top + TILE, last)
        left = 0
        while left < width:
            right = min(left + TILE, width)
            x, y = x0 + 0.5 * (left + right) * step, y0 + 0.5 * (top + low) * step
            half = 0.5 * math.hypot((right - left) * step, (low - top) * step)
            best, inside = 1e300, False
            j = count - 1
            for i in range(count):
                ax, ay, bx, by = corners[i, 0], corners[i, 1], corners[j, 0], corners[j, 1]
                far, _, _ = edge_distance(x, y, ax, ay, bx, by)
                away[i] = far
                best = min(best, far)
                if crosses(x, y, ax, ay, bx, by):
                    inside = not inside
                j = i
            best = math.sqrt(best)
            own = (-best if inside else best) - grow
            if abs(own) - half > 0.5 * feather + step and best > half:
                for jj in range(top, low):
                    for ii in range(left, right):
                        out[jj, ii] = 1.0 if own < 0.0 else 0.0
                left = right
                continue
            found = 0
            bound = (best + 2.0 * half) * (best + 2.0 * half)
            for i in range(count):
                if away[i] <= bound:
                    near[found] = i
                    found += 1
            on_edge = best <= half
            for jj in range(top, low):
                py = y0 + (jj + 0.5) * step
                for ii in range(left, right):
                    px = x0 + (ii + 0.5) * step
                    d, nx, ny, crease = nearest_edge(px, py, corners, near, found, step)
                    within = is_within(px, py, corners) if on_edge else inside
                    if not crease:
                        out[jj, ii] = covered((-d if within else d) - grow, nx, ny, feather, step)
                        continue
                    total = 0.0
                    for part in range(4):
                        qx, qy = px + (0.5 * (part & 1) - 0.25) * step, py + (0.25 * (part & 2) - 0.25) * step
                        d, nx, ny, _ = nearest_edge(qx, qy, corners, near, found, step)
                        within = is_within(qx, qy, corners) if on_edge else inside
                        total += covered((-d if within else d) - grow, nx, ny, feather, 0.5 * step)
                    out[jj, ii] = 0.25 * total
            left = right
        top = low


def feathered(grid: Grid, corners: NDArray[np.float64], feather: Pixels, grow: Pixels) -> NDArray[np.float32]:
    """Return how much a polygon covers the samples of a grid, (H, W) within 0...1.

    corners: (N, 2) shot pixels. feather: the width over which the edge fades, half inwards, half outwards, by a
    smooth step. grow: how far the edge is moved outwards.
    """
    out = np.empty(grid.shape, np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    points = np.ascontiguousarray(corners, np.float64)
    run_rows(_polygon, grid.height, points, where, (float(feather), float(grow)), out)
    return out


def feathered_box(
    grid: Grid,
    place: tuple[Pixels, Pixels],
    size: tuple[Pixels, Pixels],
    turn: float,
    feather: Pixels,
    grow: Pixels,
    *,
    is_round: bool,
) -> NDArray[np.float32]:
    """As `feathered`, of the ellipse (`is_round`) or rectangle of a size about a place. turn: degrees."""
    out = np.empty(grid.shape, np.float32)
    angle = math.radians(turn)
    where = (float(grid.x0), float(grid.y0), float(grid.step), float(place[0]), float(place[1]))
    half = (max(size[0] / 2, 1e-6), max(size[1] / 2, 1e-6))
    fade = (float(feather), float(grow))
    turned = (math.cos(angle), math.sin(angle))
    run_rows(_ellipse if is_round else _rectangle, grid.height, where, half, turned, fade, out)
    return out
