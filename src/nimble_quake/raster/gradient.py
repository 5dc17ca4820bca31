"""Gradients: stops with midpoints, and the place along linear, radial and conic ones."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.colour import luminance
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.rows import run_rows

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
    share = np.where(span > 0, (t - places[left]) / np.where(span > 0, span, 1), t >= places[right])
    mids = np.array([s.mid for s in stops])[left]
    share = np.power(np.clip(share, 0, 1), np.log(0.5) / np.log(mids))
    mixed = colours[left] + (colours[right] - colours[left]) * share[..., None]
    alpha = mixed[..., 3:]
    mixed[..., :3] = np.divide(mixed[..., :3], alpha, out=np.zeros_like(mixed[..., :3]), where=alpha > 0)
    return mixed


def colour_at(stops: tuple[Stop, ...], t: NDArray[np.float32]) -> Field:
    """Return the straight RGBA at places `t` (H, W) -> (H, W, 4) float32, from a fine table where stops are soft."""
    gaps = np.diff([s.at for s in stops])
    if len(gaps) and gaps.min() < 8 / TABLE:
        return stop_colours(stops, t.astype(np.float64)).astype(np.float32)
    table = stop_colours(stops, np.linspace(0, 1, TABLE + 1)).astype(np.float32)
    return looked_up(table, t)


@njit(cache=True, nogil=True, error_model="numpy")
def _look_up(table, t, out, first, last):  # type: ignore[no-untyped-def]
    most = len(table) - 1
    top = np.float32(most)
    for j in range(first, last):
        for i in range(t.shape[1]):
            place = min(max(t[j, i] * top, np.float32(0)), top)
            index = min(int(place), most - 1)
            share = place - np.float32(index)
            for k in range(table.shape[1]):
                low = table[index, k]
                out[j, i, k] = low + (table[index + 1, k] - low) * share


def looked_up(table: NDArray[np.float32], t: NDArray[np.float32]) -> Field:
    """Return a table's values (N + 1, C) at places t (H, W) of 0...1, linear between entries: (H, W, C)."""
    out = np.empty((*t.shape, table.shape[1]), np.float32)
    run_rows(_look_up, t.shape[0], table, t, out)
    return out


def grey_at(stops: tuple[Stop, ...], t: NDArray[np.float32]) -> tuple[Field, Field]:
    """Return the luminance and the alpha of a gradient at places t (H, W), each (H, W, 1)."""
    gaps = np.diff([s.at for s in stops])
    if len(gaps) and gaps.min() < 8 / TABLE:
        colours = stop_colours(stops, t.astype(np.float64)).astype(np.float32)
        return luminance(colours)[..., None], np.ascontiguousarray(colours[..., 3:])
    table = stop_colours(stops, np.linspace(0, 1, TABLE + 1)).astype(np.float32)
    grey = np.ascontiguousarray(luminance(table[None])[0][:, None])
    if all(stop.colour[3] == 1 for stop in stops):
        return looked_up(grey, t), np.ones((1, 1, 1), np.float32)
    return looked_up(grey, t), looked_up(np.ascontiguousarray(table[:, 3:]), t)


def along(grid: Grid, shape: str, start: tuple[float, float], end: tuple[float, float]) -> NDArray[np.float32]:
    """Return the place along the gradient at every sample, (H, W): 0 at its start, 1 at its end, unclipped.

    linear: projected on start -> end. radial: distance from start, 1 at the end's distance. conic: the angle round
    start, from the bearing of end, clockwise, 0...1.
    """
    dx, dy = end[0] - start[0], end[1] - start[1]
    xs, ys = grid.xs() - np.float32(start[0]), (grid.ys() - np.float32(start[1]))[:, None]
    length = float(np.hypot(dx, dy))
    if shape == "conic":
        turn = (np.arctan2(ys, xs) - np.float32(np.arctan2(dy, dx))) / np.float32(2 * np.pi)
        return (turn - np.floor(turn)).astype(np.float32)
    if length < 1e-6:
        return np.ones(grid.shape, np.float32)
    if shape == "radial":
        return (np.hypot(xs, ys) / np.float32(length)).astype(np.float32)
    return (xs * np.float32(dx / length**2) + ys * np.float32(dy / length**2)).astype(np.float32)
