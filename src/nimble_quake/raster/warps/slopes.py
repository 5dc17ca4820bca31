"""Slopes of a height, and the light on them.

Slopes are Sobel's (3 x 3) or its five-tap kin, normalised so that a ramp of one value a sample has slope 1. Light is
that of the W3C Filter Effects module: diffuse N . L and specular (N . H)^e of the surface normal.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.blur.filters import gaussian_inside
from nimble_quake.raster.threads.rows import run_rows


def slopes(height: NDArray[np.float32], kernel: int) -> Field:
    """Return the slope across and down, values a sample, of a height (H, W): (H, W, 2). kernel: 3 or 5."""
    out = np.empty((*height.shape, 2), np.float32)
    reach = kernel // 2
    scale = 1 / 8 if kernel == 3 else 1 / 128

    def band(first: int, last: int) -> None:
        low, high = max(0, first - reach), min(height.shape[0], last + reach)
        part = height[low:high]
        for axis in (0, 1):
            got = cv2.Sobel(
                part, cv2.CV_32F, 1 - axis, axis, ksize=kernel, scale=scale, borderType=cv2.BORDER_REPLICATE
            )
            out[first:last, :, axis] = got[first - low : last - low]

    run_rows(band, height.shape[0])
    return out


@kernel(error_model="numpy")
def _lit(slope, depth, light, half, shine, gloss, out, first, last):
    for j in range(first, last):
        for i in range(slope.shape[1]):
            x, y = -slope[j, i, 0] * depth, -slope[j, i, 1] * depth
            per = 1.0 / math.sqrt(x * x + y * y + 1.0)
            value = max(0.0, (x * light[0] + y * light[1] + light[2]) * per)
            if shine > 0.0:
                value += shine * max(0.0, (x * half[0] + y * half[1] + half[2]) * per) ** gloss
            out[j, i, 0] = value


def lit(slope: Field, depth: float, light: tuple[float, float, float], shine: float, gloss: float) -> Field:
    """Return how bright a surface is, (H, W, 1). depth: samples that white stands above black; light: its bearing."""
    length = math.sqrt(light[0] ** 2 + light[1] ** 2 + (light[2] + 1) ** 2)
    half = (light[0] / length, light[1] / length, (light[2] + 1) / length)
    out = np.empty((*slope.shape[:2], 1), np.float32)
    run_rows(
        _lit, slope.shape[0], np.ascontiguousarray(slope), float(depth), light, half, float(shine), float(gloss), out
    )
    return out


def _means(height: NDArray[np.float32], size: tuple[int, int], smaller: int) -> NDArray[np.float32]:
    """The means of square blocks of samples; size: (columns, rows) of blocks."""
    out = np.empty((size[1], size[0]), np.float32)

    def band(first: int, last: int) -> None:
        part = height[first * smaller : last * smaller]
        out[first:last] = cv2.resize(part, (size[0], last - first), interpolation=cv2.INTER_AREA)

    run_rows(band, size[1])
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _drawn_between(small, times, top_at, left_at, out, first, last):
    """Linear between the middles of blocks of `times` x `times` samples (even); held beyond the outermost.

    `out` is the part that begins `top_at` rows and `left_at` columns into the samples.
    """
    rows, columns, half, zero = small.shape[0], small.shape[1], np.float32(0.5), np.float32(0)
    per, line, width = np.float32(1) / np.float32(times), np.empty((columns + 2) * 2, np.float32), out.shape[1]
    for j in range(first, last):
        v = min(max((np.float32(j + top_at) + half) * per - half, zero), np.float32(rows - 1))
        top = int(v)
        above, below = small[top].reshape(-1), small[min(top + 1, rows - 1)].reshape(-1)
        fraction, row = v - np.float32(top), out[j].reshape(-1)
        for i in range(columns * 2):
            line[i + 2] = above[i] + (below[i] - above[i]) * fraction
        line[0], line[1] = line[2], line[3]
        line[columns * 2 + 2], line[columns * 2 + 3] = line[columns * 2], line[columns * 2 + 1]
        for c in range(columns + 1):  # from the middle of a block to the middle of the next
            x, y = line[c * 2], line[c * 2 + 1]
            more_x, more_y = (line[c * 2 + 2] - x) * per, (line[c * 2 + 3] - y) * per
            begin = c * times - times // 2 - left_at
            for i in range(max(begin, 0), min(begin + times, width)):
                t = np.float32(i - begin) + half
                row[i * 2], row[i * 2 + 1] = x + more_x * t, y + more_y * t


MOST_SMALLER = 8
"""A soft height is measured on a grid at most so many times coarser."""


def soft_slopes(
    height: NDArray[np.float32], sigma: float, times: float, inside: tuple[slice, slice] = (slice(None), slice(None))
) -> Field:
    """Return `times` the slope, values a sample, of a height (H, W) softened by a Gaussian: (h, w, 2), across and down.

    inside: the rows and columns of it that are wanted.

    What is soft by some samples is measured on a coarser grid, where that costs little, and drawn between.
    """
    smaller = 1
    while smaller < MOST_SMALLER and sigma >= 3 * smaller:
        smaller *= 2
    (top, rows), (left, columns) = (
        (part.start or 0, len(range(size)[part])) for part, size in zip(inside, height.shape, strict=True)
    )
    if smaller > 1:
        odd = (-height.shape[0] % smaller, -height.shape[1] % smaller)
        if any(odd):
            height = np.pad(height, ((0, odd[0]), (0, odd[1])), mode="edge")
        size = (height.shape[1] // smaller, height.shape[0] // smaller)
        height = _means(height, size, smaller)
        sigma = math.sqrt(max(sigma**2 - (smaller**2 - 1) / 12, 0.0)) / smaller  # a mean is a blur too
    if sigma > 0.05:
        height = gaussian_inside(np.ascontiguousarray(height)[..., None], sigma, sigma)[..., 0]
    found = slopes(np.ascontiguousarray(height), 3)
    found *= np.float32(times / smaller)
    if smaller == 1:
        return np.ascontiguousarray(found[inside])
    out = np.empty((rows, columns, 2), np.float32)
    run_rows(_drawn_between, rows, found, smaller, top, left, out)
    return out
