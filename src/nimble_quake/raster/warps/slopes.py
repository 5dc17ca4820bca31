"""Slopes of a height, and the light on them.

Slopes are Sobel's (3 x 3) or its five-tap kin, normalised so that a ramp of one value a sample has slope 1. Light is
that of the W3C Filter Effects module: diffuse N . L and specular (N . H)^e of the surface normal.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Pixels
from nimble_quake.kernels import kernel
from nimble_quake.raster.blur.filters import WIDEST_SLOPE, gaussian_inside, gaussian_slopes
from nimble_quake.raster.colour.powers import power_row
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


@kernel(error_model="numpy", fastmath={"contract"})
def _lit(slope, depth, light, half, shine, gloss, out, first, last):
    zero, one, wide = np.float32(0), np.float32(1), slope.shape[1]
    facing, room = np.empty(wide, np.float32), np.empty(wide, np.float32)
    for j in range(first, last):
        made, flank = out[j].reshape(-1), slope[j].reshape(-1)
        for i in range(wide):
            x, y = -flank[2 * i] * depth, -flank[2 * i + 1] * depth
            per = one / np.sqrt(x * x + y * y + one)
            made[i] = max(zero, (x * light[0] + y * light[1] + light[2]) * per)
            facing[i] = (x * half[0] + y * half[1] + half[2]) * per
        if shine > zero:
            power_row(facing, gloss, room)
            for i in range(wide):
                made[i] += shine * facing[i]


def lit(slope: Field, depth: float, light: tuple[float, float, float], shine: float, gloss: float) -> Field:
    """Return how bright a surface is, (H, W, 1). depth: samples that white stands above black; light: its bearing."""
    length = math.sqrt(light[0] ** 2 + light[1] ** 2 + (light[2] + 1) ** 2)
    half = (light[0] / length, light[1] / length, (light[2] + 1) / length)
    out = np.empty((*slope.shape[:2], 1), np.float32)
    ways = (np.array(way, np.float32) for way in (light, half))
    numbers = (np.float32(shine), np.float32(gloss))
    run_rows(_lit, slope.shape[0], np.ascontiguousarray(slope), np.float32(depth), *ways, *numbers, out)
    return out


SOBEL_BLUR = {3: 5 / 12, 5: 11 / 12}
"""The variance (samples squared) that Sobel's slope of a width adds to a blur: the mean of along it and across it."""


def blur_before_slope(smooth: Pixels, scale: float, kernel: int = 3) -> float:
    """Return by how many samples to blur before the slope is taken, so that a preview is the full frame made smaller.

    smooth: standard deviation in shot pixels. scale: samples a shot pixel. The slope blurs by itself, by samples: what
    that is more in a preview than at full size is taken off.
    """
    own = SOBEL_BLUR[kernel]
    return math.sqrt(max((smooth * smooth + own) * scale * scale - own, 0.0))


def soft_slopes(
    height: NDArray[np.float32], sigma: float, times: float, inside: tuple[slice, slice] = (slice(None), slice(None))
) -> Field:
    """Return `times` Sobel's slope, values a sample, of a height (H, W) softened by a Gaussian: (h, w, 2).

    inside: the rows and columns of it that are wanted.
    """
    values = np.ascontiguousarray(height)[..., None]
    wide = gaussian_slopes(values, math.sqrt(sigma * sigma + SOBEL_BLUR[3]), inside) if sigma > WIDEST_SLOPE else None
    if wide is not None:
        wide *= np.float32(times)
        return wide
    found = slopes(gaussian_inside(values, sigma, sigma)[..., 0] if sigma > 0.05 else values[..., 0], 3)
    found *= np.float32(times)
    return np.ascontiguousarray(found[inside])
