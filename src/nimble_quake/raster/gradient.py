"""Gradients: stops with midpoints, and the place along linear, radial and conic ones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.grid import Grid

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
    place = np.clip(t, 0, 1) * np.float32(TABLE)
    index = np.minimum(place.astype(np.int32), TABLE - 1)
    share = (place - index)[..., None]
    low = table[index]
    return low + (table[index + 1] - low) * share


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
