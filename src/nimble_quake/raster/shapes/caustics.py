"""Caustics: light that falls through a wavy surface and is gathered on the floor beneath it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel


@kernel(error_model="numpy")
def _gathered(places_x, places_y, out):
    """Each sample's light is shared among the four samples round where it lands; one thread, so always the same sum."""
    rows, columns = out.shape
    one = np.float32(1)
    for j in range(places_x.shape[0]):
        for i in range(places_x.shape[1]):
            x, y = places_x[j, i], places_y[j, i]
            if not (-1 < x < columns and -1 < y < rows):
                continue
            left, top = int(np.floor(x)), int(np.floor(y))
            fx, fy = x - np.float32(left), y - np.float32(top)
            if left >= 0 and top >= 0:
                out[top, left] += (one - fx) * (one - fy)
            if left + 1 < columns and top >= 0:
                out[top, left + 1] += fx * (one - fy)
            if left >= 0 and top + 1 < rows:
                out[top + 1, left] += (one - fx) * fy
            if left + 1 < columns and top + 1 < rows:
                out[top + 1, left + 1] += fx * fy


def gathered(slope: Field, depth: float, part: tuple[slice, slice]) -> NDArray[np.float32]:
    """Return how much light lands on each sample of a part, (h, w): 1 where the surface is flat.

    slope: (H, W, 2) rise over run of the surface, across and down. depth: samples to the floor. A ray is turned
    downhill by a share of the slope (small angles of Snell's law), so crests gather light; no light is lost but over
    the border.
    """
    rows, columns = slope.shape[:2]
    down, across = np.mgrid[0:rows, 0:columns].astype(np.float32)
    out = np.zeros((rows, columns), np.float32)
    _gathered(across + slope[..., 0] * np.float32(depth), down + slope[..., 1] * np.float32(depth), out)
    return np.ascontiguousarray(out[part])
