"""Wear of film: scratches and dust, anew for every frame of the film, found alone at any moment."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed
from nimble_quake.raster.threads.rows import run_rows

KEPT = 9
"""A scratch stays for up to so many frames of the film."""
CELL = 64.0
"""Shot pixels between possible specks of dust."""


@kernel(error_model="numpy")
def _scratches(x0, y0, step, places, strengths, widths, sways, height, out, first, last):
    """Each wanders a little from top to bottom; narrower than a sample, it is fainter instead."""
    columns = out.shape[1]
    for j in range(first, last):
        y = (y0 + (j + 0.5) * step) / height
        for n in range(len(places)):
            x = places[n] + sways[n] * math.sin(y * 5.0 + n) + 0.4 * sways[n] * math.sin(y * 17.0 + 2.3 * n)
            wide = max(widths[n], step)
            strength = strengths[n] * widths[n] / wide
            low = int(math.floor((x - wide - x0) / step))
            for i in range(max(low, 0), min(low + int(2 * wide / step) + 3, columns)):
                away = abs(x0 + (i + 0.5) * step - x) / wide
                if away < 1.0:
                    out[j, i] = max(out[j, i], np.float32(strength * (1.0 - away)))


def scratches(grid: Grid, size: tuple[float, float], tick: int, count: int, seed: int) -> NDArray[np.float32]:
    """Return how strongly each sample is scratched, (H, W). tick: the film's own frame; count: about how many."""
    found = []
    for n in range(count):
        born = tick // KEPT + n  # each of them has a beat of its own
        age = (tick + n * 4) % KEPT
        if mixed(n, born, 1, seed) * KEPT < age:
            continue
        place = mixed(n, (tick + n * 4) // KEPT, 2, seed) * size[0] + (mixed(n, tick, 3, seed) - 0.5) * 3.0
        found.append(
            (
                place,
                0.35 + 0.65 * mixed(n, born, 4, seed),
                0.6 + 1.2 * mixed(n, born, 5, seed),
                6.0 * mixed(n, born, 6, seed),
            )
        )
    out = np.zeros(grid.shape, np.float32)
    if found:
        places, strengths, widths, sways = (np.array(column, np.float64) for column in zip(*found, strict=True))
        run_rows(
            _scratches,
            grid.height,
            float(grid.x0),
            float(grid.y0),
            float(grid.step),
            places,
            strengths,
            widths,
            sways,
            float(size[1]),
            out,
        )
    return out


@kernel(error_model="numpy")
def _dust(x0, y0, step, specks, out, first, last):
    """specks: (N, 4) place, size, and the turn of its uneven outline; smaller than a sample, one is fainter instead."""
    for n in range(len(specks)):
        cx, cy, size, turn = specks[n]
        wide = max(size, step)
        reach = 1.6 * wide + step
        top, low = int(math.floor((cy - reach - y0) / step)), int(math.ceil((cy + reach - y0) / step))
        left, right = int(math.floor((cx - reach - x0) / step)), int(math.ceil((cx + reach - x0) / step))
        for j in range(max(top, first), min(low, last)):
            dy = y0 + (j + 0.5) * step - cy
            for i in range(max(left, 0), min(right, out.shape[1])):
                dx = x0 + (i + 0.5) * step - cx
                uneven = 1.0 + 0.35 * math.sin(3.0 * math.atan2(dy, dx) + turn)
                cover = min(max((wide * uneven - math.hypot(dx, dy)) / step + 0.5, 0.0), 1.0) * (size / wide) ** 2
                out[j, i] = max(out[j, i], np.float32(cover))


@kernel()
def _specks(left, top, right, low, fraction, largest, tick, seed, out):
    """One may lie in every cell of the plane. Returns how many there are."""
    count = 0
    for row in range(top, low):
        for column in range(left, right):
            if mixed(column, row, tick, seed) < fraction:
                x = (column + mixed(column, row, tick, seed + 1)) * CELL
                y = (row + mixed(column, row, tick, seed + 2)) * CELL
                size = largest * (0.15 + 0.85 * mixed(column, row, tick, seed + 3) ** 3)
                out[count, 0], out[count, 1], out[count, 2] = x, y, size
                out[count, 3] = 6.28 * mixed(column, row, tick, seed + 4)
                count += 1
    return count


LARGEST = 200.0
"""A speck is no larger than this, px: thousands of larger ones would cover each other, and take minutes."""


def dust(grid: Grid, tick: int, fraction: float, largest: float, seed: int) -> NDArray[np.float32]:
    """Return how much each sample is covered by dust, (H, W). share: of cells that hold a speck; largest: px."""
    out = np.zeros(grid.shape, np.float32)
    if fraction <= 0 or largest <= 0:
        return out
    largest = min(largest, LARGEST)
    reach = 2 * largest
    right, low = grid.x0 + grid.width * grid.step, grid.y0 + grid.height * grid.step
    cells = (
        math.floor((grid.x0 - reach) / CELL),
        math.floor((grid.y0 - reach) / CELL),
        math.ceil((right + reach) / CELL),
        math.ceil((low + reach) / CELL),
    )
    specks = np.empty((max(0, (cells[2] - cells[0]) * (cells[3] - cells[1])), 4), np.float64)
    count = _specks(*cells, float(fraction), float(largest), int(tick), int(seed), specks)
    if count:
        run_rows(_dust, grid.height, float(grid.x0), float(grid.y0), float(grid.step), specks[:count], out)
    return out
