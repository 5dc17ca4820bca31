"""Gradients: stops with midpoints, and the place along linear, radial and conic ones."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.polar import turn_of
from nimble_quake.raster.threads.rows import clamped, run_rows

TABLE = 4096
"""Entries of the colour table between the ends; linear between them, so the error stays under 1/16 level."""


def stop_colours(stops: tuple[Stop, ...], t: NDArray[np.floating]) -> NDArray[np.float64]:
    """Return the straight RGBA at places `t` (...,) -> (..., 4), exactly.

    Between two stops the share is t^k with k = log(1/2) / log(mid), which puts the half mix at the midpoint (the
    form of CSS Images 4 colour hints). Mixing is premultiplied (CSS Color 4).
    """
    places = np.array([s.at for s in stops])
    colours = np.array([s.colour for s in stops], np.float64)
    colours[:, :3] *= colours[:, 3:]
    right = np.clip(np.searchsorted(places, t, side="right"), 1, max(1, len(stops) - 1))
    left = right - 1 if len(stops) > 1 else right * 0
    right = right if len(stops) > 1 else right * 0
    span = places[right] - places[left]
    fraction = np.where(span > 0, (t - places[left]) / np.where(span > 0, span, 1), t >= places[right])
    mids = np.array([s.mid for s in stops])[left]
    fraction = np.power(np.clip(fraction, 0, 1), np.log(0.5) / np.log(mids))
    mixed = colours[left] + (colours[right] - colours[left]) * fraction[..., None]
    alpha = mixed[..., 3:]
    mixed[..., :3] = np.divide(mixed[..., :3], alpha, out=np.zeros_like(mixed[..., :3]), where=alpha > 0)
    return mixed


def colour_at(stops: tuple[Stop, ...], t: NDArray[np.float32]) -> Field:
    """Return the straight RGBA at places `t` (H, W) -> (H, W, 4) float32, from a fine table where stops are soft."""
    gaps = np.diff([s.at for s in stops])
    if len(gaps) and gaps.min() < 8 / TABLE:
        return _exact(stops, t)
    return looked_up(_table(stops), t)


@lru_cache(64)
def _table(stops: tuple[Stop, ...]) -> NDArray[np.float32]:
    """A fine table of a gradient's colours. Do not write to it."""
    return stop_colours(stops, np.linspace(0, 1, TABLE + 1)).astype(np.float32)


def _exact(stops: tuple[Stop, ...], t: NDArray[np.float32]) -> Field:
    """`stop_colours` of a whole field, for stops too near each other for a table."""
    places, mids = np.array([s.at for s in stops]), np.array([s.mid for s in stops])
    colours = np.array([s.colour for s in stops], np.float64)
    colours[:, :3] *= colours[:, 3:]
    out = np.empty((*t.shape, 4), np.float32)
    run_rows(_between_stops, t.shape[0], places, np.log(0.5) / np.log(mids), colours, t, out)
    return out


@kernel(error_model="numpy")
def _between_stops(places, powers, colours, t, out, first, last):
    most = len(places) - 1
    for j in range(first, last):
        for i in range(t.shape[1]):
            at, right = np.float64(t[j, i]), 1
            while right < most and places[right] <= at:
                right += 1
            left = right - 1
            span = places[right] - places[left]
            fraction = (at - places[left]) / span if span > 0 else (1.0 if at >= places[right] else 0.0)
            fraction = min(max(fraction, 0.0), 1.0)
            if powers[left] != 1.0:
                fraction = fraction ** powers[left]
            alpha = colours[left, 3] + (colours[right, 3] - colours[left, 3]) * fraction
            for k in range(3):
                value = colours[left, k] + (colours[right, k] - colours[left, k]) * fraction
                out[j, i, k] = value / alpha if alpha > 0 else 0.0
            out[j, i, 3] = alpha


@kernel(error_model="numpy", slp=True)
def _look_up(table, t, out, first, last):
    """Of a table of four columns: all four in one instruction."""
    most, flat = len(table) - 1, table.reshape(-1)
    top, i1, i2, i3, i4 = np.float32(most), np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    for j in range(first, last):
        row, places = out[j].reshape(-1), t[j]
        for i in range(len(places)):
            place = clamped(places[i] * top, np.float32(0), top)
            index = min(int(place), most - 1)
            fraction, p, n = place - np.float32(index), np.uint64(4 * index), np.uint64(4 * i)
            q = p + i4
            a0, a1, a2, a3 = flat[p], flat[p + i1], flat[p + i2], flat[p + i3]
            b0, b1, b2, b3 = flat[q], flat[q + i1], flat[q + i2], flat[q + i3]
            row[n], row[n + i1] = a0 + (b0 - a0) * fraction, a1 + (b1 - a1) * fraction
            row[n + i2], row[n + i3] = a2 + (b2 - a2) * fraction, a3 + (b3 - a3) * fraction


@kernel(error_model="numpy", fastmath={"contract"})
def _look_up_one(table, t, out, first, last):
    most = np.float32(len(table) - 1)
    top = most - np.float32(0.001)
    for j in range(first, last):
        places, row = t[j], out[j]
        for i in range(len(row)):
            place = clamped(places[i] * most, np.float32(0), top)
            index = np.int32(place)
            low = table[index]
            row[i] = low + (table[index + np.int32(1)] - low) * (place - np.float32(index))


def looked_up(table: NDArray[np.float32], t: NDArray[np.float32]) -> Field:
    """Return a table's values (N + 1, C) at places t (H, W) of 0...1, linear between entries: (H, W, C); C: 1 or 4."""
    out = np.empty((*t.shape, table.shape[1]), np.float32)
    if table.shape[1] == 1:
        run_rows(_look_up_one, t.shape[0], np.ascontiguousarray(table[:, 0]), t, out.reshape(t.shape))
        return out
    run_rows(_look_up, t.shape[0], np.ascontiguousarray(table), t, out)
    return out


def grey_at(stops: tuple[Stop, ...], t: NDArray[np.float32]) -> tuple[Field, Field]:
    """Return the luminance and the alpha of a gradient at places t (H, W), each (H, W, 1)."""
    gaps = np.diff([s.at for s in stops])
    if len(gaps) and gaps.min() < 8 / TABLE:
        colours = _exact(stops, t)
        return luminance(colours)[..., None], np.ascontiguousarray(colours[..., 3:])
    table = _table(stops)
    grey = np.ascontiguousarray(luminance(table[None])[0][:, None])
    if all(stop.colour[3] == 1 for stop in stops):
        return looked_up(grey, t), np.ones((1, 1, 1), np.float32)
    return looked_up(grey, t), looked_up(np.ascontiguousarray(table[:, 3:]), t)


SHAPES = ("linear", "mirrored", "radial", "conic")


@kernel(error_model="numpy")
def _along(shape, repeats, x0, y0, step, ax, ay, bx, by, out, first, last):
    dx, dy = bx - ax, by - ay
    length = math.sqrt(dx * dx + dy * dy)
    per = np.float32(1.0 / length) if length >= 1e-6 else np.float32(0)
    gx, gy = np.float32(dx / max(length * length, 1e-12)), np.float32(dy / max(length * length, 1e-12))
    start, one = np.float32(math.atan2(dy, dx) / (2.0 * math.pi)), np.float32(1)
    for j in range(first, last):
        y = np.float32(y0 + (j + 0.5) * step - ay)
        row = out[j]
        for i in range(len(row)):
            x = np.float32(x0 + (i + 0.5) * step - ax)
            if shape == 3:
                t = turn_of(y, x) - start
                t -= np.floor(t)
            elif length < 1e-6:
                t = one
            elif shape == 2:
                t = np.sqrt(x * x + y * y) * per
            else:
                t = x * gx + y * gy
                if shape == 1:
                    t = abs(t)
            if repeats:
                t -= np.floor(t)
            row[i] = t


def along(
    grid: Grid, shape: str, start: tuple[float, float], end: tuple[float, float], *, repeats: bool = False
) -> NDArray[np.float32]:
    """Return the place along the gradient at every sample, (H, W): 0 at its start, 1 at its end, unclipped.

    linear: projected on start -> end; mirrored: the same to both sides of the start. radial: distance from start, 1
    at the end's distance. conic: the angle round start, from the bearing of end, clockwise, 0...1.
    """
    out = np.empty(grid.shape, np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_along, grid.height, SHAPES.index(shape), repeats, *where, *start, *end, out)
    return out
