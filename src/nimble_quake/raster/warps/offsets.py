"""From map values to a warp, in one pass."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.noise.hashes import two_mixed
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy")
def _offsets(across, down, rest, times_x, times_y, out, first, last):
    level, x, y = np.float32(rest), np.float32(times_x), np.float32(times_y)
    for j in range(first, last):
        for i in range(across.shape[1]):
            out[0, j, i] = (across[j, i] - level) * x
            out[1, j, i] = (down[j, i] - level) * y


def scaled_offsets(
    across: NDArray[np.float32], down: NDArray[np.float32], rest: float, times_x: float, times_y: float
) -> Warp:
    """Return (value - rest) x times per axis: values (H, W) -> (2, H, W)."""
    out = np.empty((2, *across.shape), np.float32)
    run_rows(_offsets, across.shape[0], across, down, float(rest), float(times_x), float(times_y), out)
    return out


@kernel(error_model="numpy")
def _round(values, places, cx, cy, rest, times, turns, out, first, last):
    x32, y32, level, length = np.float32(cx), np.float32(cy), np.float32(rest), np.float32(times)
    for j in range(first, last):
        row, xs, ys, across, down = values[j], places[0, j], places[1, j], out[0, j], out[1, j]
        for i in range(len(xs)):
            x, y = xs[i] - x32, ys[i] - y32
            far = np.sqrt(x * x + y * y)
            fraction = (row[i] - level) * length
            fraction = fraction / far if far > np.float32(1e-6) else np.float32(0)  # at the centre there is no way out
            across[i] = -y * fraction if turns else x * fraction
            down[i] = x * fraction if turns else y * fraction


def round_offsets(
    values: NDArray[np.float32], places: Warp, centre: tuple[float, float], rest: float, times: float, turns: bool
) -> Warp:
    """Return (value - rest) x times, out of a centre, or clockwise round it: values (H, W) -> (2, H, W)."""
    out = np.empty_like(places)
    run_rows(_round, values.shape[0], values, places, *map(float, centre), float(rest), float(times), turns, out)
    return out


@kernel(error_model="numpy")
def _kept_near(places, first, last):
    most = np.float32(1e7)
    for axis in range(2):
        for j in range(first, last):
            for i in range(places.shape[2]):
                v = places[axis, j, i]
                places[axis, j, i] = v if -most < v < most else most


@kernel(error_model="numpy")
def _scattered(places, per, reach_x, reach_y, tick, seed, first, last):
    one, two, across, down = np.float32(1), np.float32(2), np.float32(reach_x), np.float32(reach_y)
    for j in range(first, last):
        for i in range(places.shape[2]):
            col, row = np.int64(np.floor(places[0, j, i] * per)), np.int64(np.floor(places[1, j, i] * per))
            x, y = two_mixed(col, row, tick, seed)
            places[0, j, i] = (x * two - one) * across
            places[1, j, i] = (y * two - one) * down


def scattered(places: Warp, grain: float, reach: tuple[float, float], tick: int, seed: int) -> Warp:
    """Return chance offsets within a reach (x, y), one for each grain of so many shot pixels; uses up `places`."""
    run_rows(_kept_near, places.shape[1], places)
    run_rows(_scattered, places.shape[1], places, np.float32(1 / grain), *map(float, reach), tick, seed)
    return places
