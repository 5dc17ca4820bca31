"""Figures by their signed distance: negative inside, in shot pixels (after Quilez, "2D distance functions")."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.distances import (
    SCRATCH,
    TOGETHER,
    covered,
    ellipse_row,
    is_within,
    nearest_edge,
    on_crease,
    rectangle_distance,
)
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

FIGURES = ("ellipse", "rectangle", "polygon", "star", "curve")
ELLIPSE, RECTANGLE, CURVE = 0, 1, 4


class Fill(NamedTuple):
    """Values inmost, at the rim and around a figure; with `dome` it rises as a quarter of a circle, not straight."""

    middle: float
    rim: float
    ground: float
    dome: bool = False


@kernel(inline="always")
def _edge(figure, u, v, a, b, per, points, all_edges, step):
    """Distance to a figure's edge, the way from its nearest place, and whether a crease runs through the sample."""
    if figure == RECTANGLE:
        d, nu, nv = rectangle_distance(u, v, a, b)
        return d, math.copysign(nu, u), math.copysign(nv, v), on_crease(u, v, a, b, step)
    d, nu, nv, crease = nearest_edge(u * per, v * per, points, all_edges, len(all_edges), step * per)
    d /= per
    return (-d if is_within(u * per, v * per, points) else d), nu, nv, crease


@kernel(inline="always")
def _painted(values, cover, j, i, d, fraction, deep, fill, dome):
    """Paint one sample, so much of it as a figure covers, with the value that it has so deep inside."""
    inner = min(max(-d / deep, 0.0), 1.0)
    if dome:
        inner = math.sqrt(inner * (2.0 - inner))
    value = fill[1] + (fill[0] - fill[1]) * inner
    values[j, i] += (value - values[j, i]) * fraction
    cover[j, i] += (1.0 - cover[j, i]) * fraction


@kernel(inline="always")
def _bounds(x, y, wide, tall, x0, y0, step, columns, first, last):
    """The rows and columns of the samples within a box about a place."""
    top = max(first, int(math.floor((y - tall - y0) / step)))
    end = min(last, int(math.ceil((y + tall - y0) / step)))
    left = max(0, int(math.floor((x - wide - x0) / step)))
    return top, end, left, min(columns, int(math.ceil((x + wide - x0) / step)))


@kernel(error_model="numpy")
def _ellipses(each, x0, y0, step, soft, fill, dome, values, cover, first, last):
    """As `_figures`; the places of a row that need to be measured are measured at once."""
    hollow, columns = fill[0] != fill[1], values.shape[1]
    rows, at = np.empty((SCRATCH, columns), np.float64), np.empty(columns, np.int64)
    work = np.empty((5, TOGETHER), np.float64)
    for n in range(len(each)):
        x, y, a, b, c, s, opacity, _ = each[n]
        wide, tall = math.hypot(a * c, b * s) + 0.5 * soft + step, math.hypot(a * s, b * c) + 0.5 * soft + step
        top, end, left, right = _bounds(x, y, wide, tall, x0, y0, step, columns, first, last)
        deep = max(min(a, b), 1e-6)
        for j in range(top, end):
            where = (x0, step, x, y0 + (j + 0.5) * step - y)
            count, inner = ellipse_row((left, right), where, (a, b), (c, s), (soft, 0.0), hollow, rows, at, work)
            for m in range(count):
                if rows[1, m] * opacity > 0.0:
                    _painted(values, cover, j, at[m], rows[0, m], rows[1, m] * opacity, deep, fill, dome)
            for m in range(inner, columns):
                values[j, at[m]] += (fill[1] - values[j, at[m]]) * opacity
                cover[j, at[m]] += (1.0 - cover[j, at[m]]) * opacity


@kernel(error_model="numpy")
def _figures(figure, each, points, all_edges, x0, y0, step, soft, fill, dome, values, cover, first, last):
    """each: (N, 8) x, y, half width, half height, cosine, sine, opacity, 1/scale. Painted in order, over each other."""
    for n in range(len(each)):
        x, y, a, b, c, s, opacity, per = each[n]
        wide, tall = abs(a * c) + abs(b * s), abs(a * s) + abs(b * c)  # of the box that it lies in
        if figure == CURVE:  # it swings out between its points
            wide = tall = math.hypot(a, b)
        wide, tall = wide + 0.5 * soft + step, tall + 0.5 * soft + step
        top, end, left, right = _bounds(x, y, wide, tall, x0, y0, step, values.shape[1], first, last)
        deep = max(min(a, b), 1e-6)
        for j in range(top, end):
            dy = y0 + (j + 0.5) * step - y
            for i in range(left, right):
                dx = x0 + (i + 0.5) * step - x
                u, v = dx * c + dy * s, dy * c - dx * s
                d, nu, nv, crease = _edge(figure, u, v, a, b, per, points, all_edges, step)
                if crease:
                    fraction = 0.0
                    for part in range(4):
                        px, py = (0.5 * (part & 1) - 0.25) * step, (0.25 * (part & 2) - 0.25) * step
                        pu, pv = u + px * c + py * s, v + py * c - px * s
                        part_d, nu, nv, _ = _edge(figure, pu, pv, a, b, per, points, all_edges, step)
                        fraction += 0.25 * covered(part_d, nu * c - nv * s, nu * s + nv * c, soft, 0.5 * step)
                else:
                    fraction = covered(d, nu * c - nv * s, nu * s + nv * c, soft, step)
                fraction *= opacity
                if fraction > 0.0:
                    _painted(values, cover, j, i, d, fraction, deep, fill, dome)


def figures(
    grid: Grid, figure: str, each: NDArray[np.float64], points: NDArray[np.float64], soft: float, fill: Fill
) -> tuple[Field, Field]:
    """Return figures over a ground value, and what they cover, each (H, W, 1)."""
    values, cover = np.full(grid.shape, fill.ground, np.float32), np.zeros(grid.shape, np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    painted = (float(soft), (fill.middle, fill.rim), int(fill.dome), values, cover)
    number = FIGURES.index(figure)
    if number == ELLIPSE:
        run_rows(_ellipses, grid.height, each, *where, *painted)
    else:
        edges = np.arange(len(points))
        run_rows(_figures, grid.height, number, each, np.ascontiguousarray(points), edges, *where, *painted)
    return values[..., None], cover[..., None]


def regular(corners: int, inner: float = 1.0) -> NDArray[np.float64]:
    """Return a regular polygon in the unit circle, (N, 2), or a star whose notches lie at `inner` of the radius."""
    count = corners if inner >= 1 else 2 * corners
    turns = 2 * np.pi * np.arange(count) / count - np.pi / 2
    radius = np.where(np.arange(count) % 2 == 1, inner, 1.0) if inner < 1 else np.ones(count)
    return np.stack([radius * np.cos(turns), radius * np.sin(turns)], axis=1)


def smooth_line(points: NDArray[np.float64], per: int = 10) -> NDArray[np.float64]:
    """Return an open curve through points (N, 2): as `smooth_outline`, each end standing for its own neighbour."""
    ends = np.concatenate([points[:1], points, points[-1:]])
    curve = smooth_outline(ends, per)
    return curve[per : per * len(points) + 1] if len(points) > 1 else points


def smooth_outline(points: NDArray[np.float64], per: int = 10) -> NDArray[np.float64]:
    """Return a closed curve through points (N, 2): a uniform Catmull-Rom spline (Catmull & Rom, 1974), flattened."""
    if len(points) < 3:
        return points
    a, b, c, d = (np.roll(points, shift, axis=0)[:, None] for shift in (1, 0, -1, -2))
    t = np.linspace(0, 1, per, endpoint=False)[None, :, None]
    curve = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
    return np.asarray(curve.reshape(-1, 2))
