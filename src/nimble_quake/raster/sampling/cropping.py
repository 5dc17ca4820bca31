"""Cropping a picture at its sides, sharply or softly; and the bars at its sides that are baked in."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Bytes8, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.threads.rows import run_rows

DARK = 0.035
"""What is nowhere brighter than this, all along a side, is a bar."""


@kernel(error_model="numpy")
def _kept(picture, across, down, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            fraction = across[i] * down[j]
            for k in range(4):
                out[j, i, k] = picture[j, i, k] * fraction


def _ramp(centres: NDArray[np.floating], low: float, high: float, soft: float, step: float) -> NDArray[np.float32]:
    """How much is kept at samples along an axis, `step` apart, between two ends; it fades inwards over `soft`.

    Without softness a sample that an end lies in keeps the share of it that is inside.
    """
    wide = max(soft, step)
    fraction = np.minimum(centres - low, high - centres) / wide + 0.5 * step / wide
    return np.asarray(np.clip(fraction, 0, 1), np.float32)


def cropped(
    picture: Picture,
    size: tuple[float, float],
    sides: tuple[float, float, float, float],
    soft: float,
    to_px: tuple[float, float, float, float, float, float],
) -> Picture:
    """Return a picture (H, W, 4) cropped.

    size: the plate's own width and height. sides: left, right, top, bottom, shares of it that are cut away. soft: own
    pixels over which it fades. to_px: own place -> picture sample, without turning.
    """
    a, _, c, _, e, f = to_px
    xs, ys = (np.arange(picture.shape[1]) + 0.5 - c) / a, (np.arange(picture.shape[0]) + 0.5 - f) / e
    left, right, top, bottom = sides
    far = 1e9  # a side that is not cut keeps what reaches over it, such as the ink of letters
    x0, x1 = (left * size[0] if left > 0 else -far), ((1 - right) * size[0] if right > 0 else far)
    y0, y1 = (top * size[1] if top > 0 else -far), ((1 - bottom) * size[1] if bottom > 0 else far)
    across, down = _ramp(xs, x0, x1, soft, 1 / a), _ramp(ys, y0, y1, soft, 1 / e)
    out = np.empty(picture.shape, np.float32)
    run_rows(_kept, picture.shape[0], picture, across, down, out)
    return out


def bars_of(picture: Picture) -> tuple[float, float, float, float]:
    """Return what share of a picture is bars: left, right, top, bottom. Nothing where all of it is dark."""
    bright = luminance(picture)
    columns, rows = bright.max(axis=0) > DARK, bright.max(axis=1) > DARK
    if not columns.any():
        return (0.0, 0.0, 0.0, 0.0)
    ends = [(float(np.argmax(line)), float(np.argmax(line[::-1])), len(line)) for line in (columns, rows)]
    (left, right, wide), (top, bottom, high) = ends
    return (left / wide, right / wide, top / high, bottom / high)


CLEAR_EDGE = 2
"""Clear pixels that are left round what is drawn, so that an edge that is held shows nothing."""
STEP = 16
"""Where a part begins: where pixels of it that are averaged in twos lie as they do in the whole, four times over."""


def drawn_box(coverage: Bytes8) -> tuple[int, int, int, int]:
    """Return the part of a coverage (H, W) in which anything is drawn: its first column and row, its last ones + 1."""
    x, y, wide, high = cv2.boundingRect(coverage)  # of what is not 0
    if not wide:
        return 0, 0, 1, 1
    left, top = (max(0, first - CLEAR_EDGE) // STEP * STEP for first in (x, y))
    height, width = coverage.shape
    right, low = min(width, x + wide + CLEAR_EDGE), min(height, y + high + CLEAR_EDGE)
    return left, top, right, low
