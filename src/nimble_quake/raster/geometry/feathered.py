"""How much a figure covers, with a feather measured from its edge."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Pixels
from nimble_quake.raster.geometry.grid import Grid

FRACTION = 4
"""Bits after the point of a corner's place."""
FINEST = 2
"""Figures without a feather are drawn so many times finer, and averaged."""
COARSE = 12.0
"""A feather of more samples than this is measured on a coarser grid."""


def feathered(grid: Grid, corners: NDArray[np.float64], feather: Pixels, grow: Pixels) -> NDArray[np.float32]:
    """Return how much a polygon covers the samples of a grid, (H, W) within 0...1.

    corners: (N, 2) shot pixels. feather: the width over which the edge fades, half inwards, half outwards, by a
    smooth step. grow: how far the edge is moved outwards.
    """
    wide = feather * grid.scale
    times = 1.0 if wide <= COARSE else max(COARSE / wide, 1 / 16)
    reach = (feather / 2 + abs(grow)) * grid.scale
    room = int(min(np.ceil(reach) + 2, max(grid.shape)))
    outer = grid.grown(room)
    columns, rows = (max(2, int(np.ceil(n * times))) for n in (outer.width, outer.height))
    scale = grid.scale * times
    far = _distance(corners, outer, columns, rows, scale) * np.float32(1 / scale)
    if times < 1:
        far = _between(far, (np.arange(grid.height) + room + 0.5) * times - 0.5, axis=0)
        far = _between(far, (np.arange(grid.width) + room + 0.5) * times - 0.5, axis=1)
    else:
        far = far[room : room + grid.height, room : room + grid.width]
    width = max(feather, grid.step)
    t = np.clip(np.float32(0.5) + (far + np.float32(grow)) * np.float32(1 / width), 0, 1)
    return np.asarray(t * t * (3 - 2 * t) if feather > 2 * grid.step else t, np.float32)


def _exact(figure: NDArray[np.uint8]) -> NDArray[np.float32]:
    """Distances to what is 0, in samples. OpenCV's roots differ in the last bit from call to call; ours do not."""
    found = cv2.distanceTransform(figure, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(np.sqrt(np.rint(np.square(found, dtype=np.float64))), np.float32)


def _between(values: NDArray[np.float32], places: NDArray[np.floating[Any]], axis: int) -> NDArray[np.float32]:
    """Return rows or columns of values at index places, linear between; NumPy's, since the same bits are wanted."""
    places = np.clip(places, 0, values.shape[axis] - 1)
    low = np.minimum(places.astype(np.int64), values.shape[axis] - 2)
    fraction = (places - low).astype(np.float32)
    fraction = fraction[:, None] if axis == 0 else fraction[None]
    below, above = np.take(values, low, axis), np.take(values, low + 1, axis)
    return np.asarray(below + (above - below) * fraction, np.float32)


def _distance(corners: NDArray[np.float64], outer: Grid, columns: int, rows: int, scale: float) -> NDArray[np.float32]:
    """How far samples lie inside the outline, in samples; below 0 outside. Right to a fraction of a sample."""
    fine = np.zeros((rows * FINEST, columns * FINEST), np.uint8)
    places = ((corners - (outer.x0, outer.y0)) * scale * FINEST - 0.5) * 2**FRACTION
    cv2.fillPoly(fine, [np.clip(places, -1e8, 1e8).astype(np.int32)], 255, cv2.LINE_AA, FRACTION)
    cover = cv2.resize(fine, (columns, rows), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    inside = (cover >= 0.5).astype(np.uint8)
    if not inside.any() or inside.all():
        return np.full((rows, columns), 1e6 if inside.any() else -1e6, np.float32)
    within, without = _exact(inside), _exact(1 - inside)
    far = np.where(inside > 0, within - 0.5, 0.5 - without)
    edge = (cover > 0.001) & (cover < 0.999)
    return np.asarray(np.where(edge, cover - 0.5, far), np.float32)
