"""A circle's stroke in layers, each narrower than the one before and painted over it."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

TABLE = 4096
"""So many places from the middle of a stroke to where nothing is left of it; between them it is nearly straight."""


def paint_layers(
    out: Picture, corner: tuple[float, float], step: float, radius: float, thick: float, colours: NDArray[np.float64]
) -> None:
    """Paint a circle about the origin over a premultiplied picture (H, W, 4), in place.

    corner: where its first sample begins, and `step` how wide it is, in the units of radius and thickness. colours:
    (N, 4) straight, from the widest layer to the narrowest; the nth is 1 - n / N of the whole thickness. A sample is
    the mean of what is seen along a line across the stroke, as wide as the sample.
    """
    far = thick / 2 + step / 2
    places = np.linspace(0, far, TABLE)
    table = (_summed(colours, thick, places + step / 2) - _summed(colours, thick, places - step / 2)) / step
    run_rows(_paint_layers, out.shape[0], (*corner, step), (radius, far), table.astype(np.float32), out)


def _summed(colours: NDArray[np.float64], thick: float, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return what is seen in all from the middle of a stroke to places across it, (n, 4); as much the other way."""
    seen = np.zeros((len(colours) + 1, 4))
    for n, colour in enumerate(colours):
        painted = np.append(colour[:3] * colour[3], colour[3])
        seen[n + 1] = painted + seen[n] * (1 - painted[3])
    edges = np.linspace(0, thick / 2, len(seen))
    sums = np.concatenate([np.zeros((1, 4)), np.cumsum(seen[:0:-1], axis=0) * edges[1]])
    found = np.stack([np.interp(np.abs(places), edges, channel) for channel in sums.T], axis=-1)
    return np.asarray(found * np.sign(places)[:, None])


@kernel(error_model="numpy")
def _paint_layers(where, ring, table, out, first, last):
    left, top, step = where
    radius, far = ring
    per_place, per_step = (len(table) - 1) / far, 1.0 / step
    outer, inner = radius + far, max(radius - far, 0.0)
    for j in range(first, last):
        y, row = top + (j + 0.5) * step, out[j]
        if y * y >= outer * outer:
            continue
        wide = math.sqrt(outer * outer - y * y)
        hole = math.sqrt(inner * inner - y * y) if inner > abs(y) else 0.0
        begin = min(max(int((-wide - left) * per_step), 0), len(row))
        end = min(max(int((wide - left) * per_step) + 1, begin), len(row))
        for i in range(begin, end):
            x = left + (i + 0.5) * step
            away = abs(math.sqrt(x * x + y * y) - radius) * per_place
            if abs(x) < hole or away >= len(table) - 1:
                continue
            n = int(away)
            fraction, lower, upper = np.float32(away - n), table[n], table[n + 1]
            alpha = lower[3] + (upper[3] - lower[3]) * fraction
            through = np.float32(1.0) - alpha
            for c in range(3):
                row[i, c] = lower[c] + (upper[c] - lower[c]) * fraction + row[i, c] * through
            row[i, 3] = alpha + row[i, 3] * through
