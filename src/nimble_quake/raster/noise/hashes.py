"""Chance values by place and time: static, blocks, and the numbers that particles and drips are made of.

`mixed` is the finaliser of splitmix64 (Steele, Lea & Flood, 2014) over the sum of its odd-multiplied inputs, so any
cell at any time is found alone.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows


@kernel(inline="always")
def _bits(i, j, k, seed):
    """64 bits that depend on three whole numbers and a seed alone."""
    x = (
        np.uint64(i) * np.uint64(0x9E3779B97F4A7C15)
        + np.uint64(j) * np.uint64(0xC2B2AE3D27D4EB4F)
        + np.uint64(k) * np.uint64(0x165667B19E3779F9)
        + np.uint64(seed) * np.uint64(0xD6E8FEB86659FD93)
    )
    x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
    x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return x ^ (x >> np.uint64(31))


@kernel(inline="always")
def mixed(i, j, k, seed):
    """A chance number 0...1 that depends on three whole numbers and a seed alone."""
    x = _bits(i, j, k, seed)
    return float(x >> np.uint64(40)) / 16777216.0


@kernel(inline="always")
def two_mixed(i, j, k, seed):
    """Two chance numbers 0...1, float32, of one mixing."""
    x = _bits(i, j, k, seed)
    per = np.float32(1 / 16777216)
    first, second = np.int32(x >> np.uint64(40)), np.int32((x >> np.uint64(16)) & np.uint64(0xFFFFFF))
    return np.float32(first) * per, np.float32(second) * per


@kernel(error_model="numpy")
def _static(x0, y0, step, wide, high, tick, seed, density, low, span, out, first, last):
    """One value a cell; where a sample holds several cells (at most 4 x 4 are asked), their mean."""
    across, down = max(1, min(4, round(step / wide))), max(1, min(4, round(step / high)))
    for j in range(first, last):
        for i in range(out.shape[1]):
            for k in range(out.shape[2]):
                total = 0.0
                for b in range(down):
                    row = int(math.floor((y0 + (j + (b + 0.5) / down) * step) / high + 1e-6))
                    for a in range(across):
                        col = int(math.floor((x0 + (i + (a + 0.5) / across) * step) / wide + 1e-6))
                        if density >= 1.0 or mixed(col, row, tick, seed + 7) < density:
                            total += low + span * mixed(col, row, tick * 4 + k, seed)
                        else:
                            total += 0.5
                out[j, i, k] = total / (across * down)


def static(
    grid: Grid,
    cell: tuple[float, float],
    tick: int,
    seed: int,
    density: float,
    ends: tuple[float, float],
    channels: int,
) -> Field:
    """Return chance cells, (H, W, channels); cells that are left out hold rest."""
    out = np.empty((*grid.shape, channels), np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_static, grid.height, *where, *cell, tick, seed, density, ends[0], ends[1] - ends[0], out)
    return out


@kernel(error_model="numpy")
def _block(u, v, tick, seed, density, merge):
    """A block's value, or -1 where there is none. Some neighbours join into a block twice as large."""
    i, j = int(math.floor(u)), int(math.floor(v))
    p, q = i >> 1, j >> 1
    if merge > 0.0 and mixed(p, q, tick, seed + 31) < merge:
        i, j = p - 40_000, q - 40_000
    if mixed(i, j, tick, seed + 7) >= density:
        return -1.0
    return mixed(i, j, tick, seed)


@kernel(error_model="numpy")
def _blocks(x0, y0, step, wide, high, tick, seed, density, merge, jumps, reach, low, span, out, first, last):
    w, h = step / wide, step / high
    rows, weights = np.zeros(2, np.int64), np.zeros(2, np.float64)
    for j in range(first, last):
        v = (y0 + (j + 0.5) * step) / high
        upper = min(max((math.floor(v + 0.5 * h) - (v - 0.5 * h)) / h, 0.0), 1.0)
        before, weight, alike = rows[0], weights[0], rows[1]
        for b in range(2):  # the two rows of blocks a sample may touch, by how much of each it covers
            rows[b] = int(math.floor(v + (b - 0.5) * h + (1e-9 if b == 0 else -1e-9)))
            weights[b] = (upper if b == 0 else 1.0 - upper) if h < 1.0 else 0.5
        if j > first and weights[0] == weight and rows[1] == alike and (rows[0] == before or weight <= 0.0):
            out[j] = out[j - 1]  # as the row above, as nearly all are
            continue
        for i in range(out.shape[1]):
            u = (x0 + (i + 0.5) * step) / wide
            total = 0.0
            for b in range(2):
                row, weight_y = rows[b], weights[b]
                if weight_y <= 0.0:
                    continue
                gone = 0.0
                if jumps > 0.0 and mixed(row, 5, tick, seed + 13) < jumps:
                    gone = (mixed(row, 6, tick, seed + 13) * 2.0 - 1.0) * reach / wide
                at = u + gone
                edge = math.floor(at + 0.5 * w)
                left = min(max((edge - (at - 0.5 * w)) / w, 0.0), 1.0)
                for a in range(2):
                    weight_x = (left if a == 0 else 1.0 - left) if w < 1.0 else 0.5
                    if weight_x <= 0.0:
                        continue
                    x = at + (a - 0.5) * w + (1e-9 if a == 0 else -1e-9)
                    value = _block(x, row + 0.5, tick, seed, density, merge)
                    total += weight_x * weight_y * (0.5 if value < 0.0 else low + span * value)
            out[j, i, 0] = total


def blocks(
    grid: Grid,
    cell: tuple[float, float],
    tick: int,
    seed: int,
    *,
    density: float,
    merge: float,
    jumps: float,
    reach: float,
    ends: tuple[float, float],
) -> Field:
    """Return chance blocks over rest, (H, W, 1). jumps: share of rows moved aside by up to `reach` shot pixels."""
    out = np.empty((*grid.shape, 1), np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(
        _blocks, grid.height, *where, *cell, tick, seed, density, merge, jumps, reach, ends[0], ends[1] - ends[0], out
    )
    return out
