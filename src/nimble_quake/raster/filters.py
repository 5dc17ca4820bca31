"""Filters over fields and pictures: blur and exact cell averages."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.raster.rows import run_rows

CUT = 4.0
"""A Gaussian is cut at this many sigmas, so at most 1e-4 of its weight is lost (then normalised)."""
WIDEST = 6.0
"""Above this sigma (in samples) the blur works on an averaged, smaller copy; its cost then stops growing."""


def blur_margin(sigma: float) -> float:
    """Return how far a Gaussian reaches, in the unit of `sigma`."""
    return CUT * sigma


def gaussian(array: Field | Picture, sigma_x: float, sigma_y: float) -> Field | Picture:
    """Return a Gaussian blur; sigmas in samples; beyond the border the edge value is held."""
    across, down = (math.ceil(blur_margin(s)) if _reduction(s) > 1 else 0 for s in (sigma_x, sigma_y))
    if not across and not down:
        return gaussian_inside(array, sigma_x, sigma_y)
    height, width = array.shape[:2]
    grown = _deep(cv2.copyMakeBorder(array, down, down, across, across, cv2.BORDER_REPLICATE))
    return gaussian_inside(grown, sigma_x, sigma_y)[down : down + height, across : across + width]


def gaussian_inside(array: Field | Picture, sigma_x: float, sigma_y: float) -> Field | Picture:
    """Return a Gaussian blur that is right farther than `blur_margin` from the border, which is cheaper."""
    fx, fy = _reduction(sigma_x), _reduction(sigma_y)
    if fx == fy == 1:
        return _direct(array, sigma_x, sigma_y)
    height, width = array.shape[:2]
    grown = cv2.copyMakeBorder(array, 0, -height % fy, 0, -width % fx, cv2.BORDER_REPLICATE)
    size = (grown.shape[1] // fx, grown.shape[0] // fy)
    small = cv2.resize(grown, size, interpolation=cv2.INTER_AREA)
    # Averaging f samples blurs by itself: its variance is taken off. A cubic back adds next to none.
    own_x, own_y = (math.sqrt(max(s * s - (f * f - 1) / 12, 0.01)) / f for s, f in ((sigma_x, fx), (sigma_y, fy)))
    small = _direct(_deep(small), own_x, own_y)
    back = _deep(cv2.resize(small, (grown.shape[1], grown.shape[0]), interpolation=cv2.INTER_CUBIC))
    return np.ascontiguousarray(back[:height, :width])


def _reduction(sigma: float) -> int:
    return 1 if sigma <= WIDEST else 2 ** int(math.log2(sigma / (WIDEST / 2)))


def _deep(array: np.ndarray) -> Field:
    """Give back the channel axis OpenCV drops from one-channel pictures."""
    return array[..., None] if array.ndim == 2 else array


def _direct(array: Field, sigma_x: float, sigma_y: float) -> Field:
    kx, ky = (2 * max(0, math.ceil(CUT * s)) + 1 for s in (sigma_x, sigma_y))
    if kx == ky == 1:
        return array
    row, col = (cv2.getGaussianKernel(k, max(s, 1e-3), cv2.CV_32F) for k, s in ((kx, sigma_x), (ky, sigma_y)))
    out = np.empty_like(array)
    reach, height = ky // 2, array.shape[0]

    def band(first: int, last: int) -> None:
        low, high = max(0, first - reach), min(height, last + reach)
        got = _deep(cv2.sepFilter2D(array[low:high], -1, row, col, borderType=cv2.BORDER_REPLICATE))
        out[first:last] = got[first - low : last - low]

    run_rows(band, height)
    return out


def cell_means(array: Field, edges_x: np.ndarray, edges_y: np.ndarray) -> Field:
    """Return the mean of every cell between the given sample edges: (len(edges_y)-1, len(edges_x)-1, C)."""
    sums = np.add.reduceat(np.add.reduceat(array, edges_y[:-1], axis=0, dtype=np.float64), edges_x[:-1], axis=1)
    counts = np.outer(np.diff(edges_y), np.diff(edges_x))[..., None]
    return (sums / counts).astype(np.float32)


def boxed(array: Field, half_x: float, half_y: float) -> Field:
    """Return the mean over a box of `half` samples to each side (and a fraction), the border held."""
    out = array
    for half, axis in ((half_x, 1), (half_y, 0)):
        if half <= 0:
            continue
        whole = math.floor(half)
        near = _box(out, whole, axis)
        share = half - whole
        far = _box(out, whole + 1, axis)
        wide, wider = 2 * whole + 1, 2 * whole + 3
        # between two whole widths the two outer samples count by the fraction
        total = wide * (1 - share) + wider * share
        out = near * np.float32(wide * (1 - share) / total) + far * np.float32(wider * share / total)
    return out if out is not array else array.copy()


def _box(array: Field, half: int, axis: int) -> Field:
    size = (2 * half + 1, 1) if axis == 1 else (1, 2 * half + 1)
    return _deep(cv2.blur(array, size, borderType=cv2.BORDER_REPLICATE))
