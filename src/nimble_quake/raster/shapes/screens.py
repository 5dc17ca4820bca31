"""Halftone screens: the area a dot or line covers is the tone.

A dot of radius r in a unit cell covers pi r^2 until it touches its neighbours; beyond, the four gaps are what is left.
The radius for a tone is read from a table of that area.
"""

from __future__ import annotations

import math
from functools import cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.distances import length
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import clamped, run_rows

FORMS = ("dots", "lines", "hatch")


@cache
def _radii() -> NDArray[np.float32]:
    """The radius, in cells, of the dot that covers 0...1 of its cell, at 257 tones."""
    r = np.linspace(0, math.sqrt(0.5), 4001)
    area = np.pi * r * r
    wide = r > 0.5
    cut = np.arccos(np.clip(0.5 / np.maximum(r, 1e-9), -1, 1))
    area[wide] -= 4 * (r[wide] ** 2 * cut[wide] - 0.5 * np.sqrt(np.maximum(r[wide] ** 2 - 0.25, 0)))
    return np.interp(np.linspace(0, 1, 257), np.maximum.accumulate(area), r).astype(np.float32)


@kernel(error_model="numpy")
def _screen(tone, form, x0, y0, step, per, c, s, soft, radii, out, first, last):
    w = math.hypot(step * per, soft)
    for j in range(first, last):
        y = y0 + (j + 0.5) * step
        for i in range(out.shape[1]):
            x = x0 + (i + 0.5) * step
            u, v = (x * c + y * s) * per, (y * c - x * s) * per
            t = clamped(float(tone[j, i, 0]), 0.0, 1.0)
            if form == 0:
                a, b = u - math.floor(u) - 0.5, v - math.floor(v) - 0.5
                place = t * 256.0
                at = min(int(place), 255)
                r = radii[at] + (radii[at + 1] - radii[at]) * (place - at)
                if t > 0.95:  # what is left of the gaps: counted from the corners, where the distance is exact
                    a, b = 0.5 - abs(a), 0.5 - abs(b)
                    d = r - length(0.5 - a, 0.5 - b)
                else:
                    d = r - length(a, b)
                value = min(max(d / w + 0.5, 0.0), 1.0)
            elif form == 1:
                a = abs(v - math.floor(v) - 0.5)
                value = min(max((0.5 * t - a) / w + 0.5, 0.0), 1.0)
            else:  # two sets of lines: the dark is what neither covers, so each covers 1 - sqrt(1 - t)
                each = 1.0 - math.sqrt(1.0 - t)
                a, b = abs(v - math.floor(v) - 0.5), abs(u - math.floor(u) - 0.5)
                one = min(max((0.5 * each - a) / w + 0.5, 0.0), 1.0)
                two = min(max((0.5 * each - b) / w + 0.5, 0.0), 1.0)
                value = 1.0 - (1.0 - one) * (1.0 - two)
            if t <= 0.0:
                value = 0.0
            elif t >= 1.0:
                value = 1.0
            out[j, i, 0] = value


def screened(tone: Field, grid: Grid, form: str, size: float, turn: float, soft: float) -> Field:
    """Return a tone (H, W, 1) as dots, lines or hatching, (H, W, 1). size: a cell in shot pixels; turn in degrees."""
    out = np.empty((*grid.shape, 1), np.float32)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_screen, grid.height, tone, FORMS.index(form), *where, 1 / size, c, s, float(soft), _radii(), out)
    return out
