"""Polar coordinates round a centre, and ring space: a picture laid round a centre, and unrolled again."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from nimble_quake.conventions import Warp
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.rows import run_rows

_A1, _A3, _A5, _A7, _A9 = (np.float32(v) for v in (0.9998660, -0.3302995, 0.1801410, -0.0851330, 0.0208351))
_TURN, _HALF, _QUARTER = np.float32(1 / (2 * math.pi)), np.float32(0.5), np.float32(0.25)


@njit(cache=True, nogil=True, inline="always")
def turn_of(y, x):  # type: ignore[no-untyped-def]
    """The angle of (x, y), float32, in turns of -0.5...0.5; error under 2e-6 turns.

    Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.49, folded out from the first octant.
    """
    ax, ay = abs(x), abs(y)
    high, low = max(ax, ay), min(ax, ay)
    a = low / max(high, np.float32(1e-30))
    s = a * a
    turn = a * (_A1 + s * (_A3 + s * (_A5 + s * (_A7 + s * _A9)))) * _TURN
    if ay > ax:
        turn = _QUARTER - turn
    if x < np.float32(0):
        turn = _HALF - turn
    return -turn if y < np.float32(0) else turn


@njit(cache=True, nogil=True, error_model="numpy")
def _polar(xs, ys, radius, angle, first, last):  # type: ignore[no-untyped-def]
    for j in range(first, last):
        y = ys[j]
        row_r, row_a = radius[j], angle[j]
        for i in range(len(xs)):
            x = xs[i]
            row_r[i] = np.sqrt(x * x + y * y)
            row_a[i] = turn_of(y, x)


def polar_of(grid: Grid, centre: tuple[float, float]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return (H, W) distances in shot pixels and angles in turns (-0.5...0.5, clockwise from the right)."""
    radius, angle = np.empty(grid.shape, np.float32), np.empty(grid.shape, np.float32)
    xs, ys = grid.xs() - np.float32(centre[0]), grid.ys() - np.float32(centre[1])
    run_rows(_polar, grid.height, xs, ys, radius, angle)
    return radius, angle


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _to_rings(places, cx, cy, width, per_radius, turn, mirror, first, last):  # type: ignore[no-untyped-def]
    cx, cy, width, per = np.float32(cx), np.float32(cy), np.float32(width), np.float32(per_radius)
    seam, one, two = np.float32(0.75 - turn), np.float32(1), np.float32(2)
    for j in range(first, last):
        xs, ys = places[0, j], places[1, j]
        for i in range(len(xs)):
            x, y = xs[i] - cx, ys[i] - cy
            share = turn_of(y, x) + seam
            share -= np.floor(share)
            if mirror:
                share = one - abs(two * share - one)
            xs[i] = share * width
            ys[i] = np.sqrt(x * x + y * y) * per


def to_rings(
    places: Warp, centre: tuple[float, float], radius: float, turn: float, size: tuple[float, float], *,
    mirror: bool = False,
) -> Warp:  # fmt: skip
    """Return where places (2, H, W) of a ring picture lie in the flat one, in place.

    The angle from straight up, clockwise, in turns, times the width is across; the distance over `radius` times the
    height is down. turn: how far the seam is turned, in turns. mirror: half round and back, so that no seam is seen.
    """
    args = (places, *centre, size[0], size[1] / max(radius, 1e-6), turn - 0.5, mirror)
    run_rows(_to_rings, places.shape[1], *args)
    return places


@njit(cache=True, nogil=True, error_model="numpy")
def _from_rings(places, cx, cy, width, per_radius, turn, first, last):  # type: ignore[no-untyped-def]
    for j in range(first, last):
        for i in range(places.shape[2]):
            angle = (places[0, j, i] / width - 0.75 + turn) * 2.0 * math.pi
            away = places[1, j, i] * per_radius
            places[0, j, i] = math.cos(angle) * away + cx
            places[1, j, i] = math.sin(angle) * away + cy


def from_rings(
    places: Warp, centre: tuple[float, float], radius: float, turn: float, size: tuple[float, float]
) -> Warp:
    """Return where places of the flat picture lie in the ring picture, in place: the inverse of `to_rings`."""
    run_rows(_from_rings, places.shape[1], places, *centre, size[0], radius / size[1], turn - 0.5)
    return places
