"""Defocus: each point becomes the shape of the aperture, a disc or a polygon.

The shape is laid over the whole picture at once by a Fourier transform of each channel: its rim is as sharp as the
shape's, and the cost hardly grows with the radius.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from nimble_quake.conventions import Picture
from nimble_quake.raster.blur.filters import Part
from nimble_quake.raster.threads.rows import run_rows

FINE = 16
"""Places along the side of a kernel's cell, to measure how much of it the aperture covers."""


@lru_cache(maxsize=64)
def aperture(radius: float, blades: int, turn: float) -> NDArray[np.float32]:
    """Return the kernel of an aperture, (n, n), which sums to one. radius: samples; blades: below 3 it is round."""
    reach = math.ceil(radius + 0.5)
    side = 2 * reach + 1
    fine = FINE if side < 120 else 4
    at = (np.arange(side * fine, dtype=np.float32) + np.float32(0.5)) / fine - side / 2
    x, y = at[None], at[:, None]
    if blades < 3:
        inside = x * x + y * y <= radius * radius
    else:  # where the half planes of all sides meet
        angles = [math.radians(turn) + 2 * math.pi * n / blades for n in range(blades)]
        inner = radius * math.cos(math.pi / blades)
        inside = np.logical_and.reduce([x * math.cos(a) + y * math.sin(a) <= inner for a in angles])
    kernel = inside.reshape(side, fine, side, fine).mean(axis=(1, 3))
    if radius < 0.5:  # it lies within one sample
        kernel[...] = 0.0
        kernel[reach, reach] = 1.0
    return np.asarray(kernel / kernel.sum(), np.float32)


def defocused(picture: Picture, radius: float, blades: int, turn: float, part: Part) -> Picture:
    """Return a part of a picture, out of focus; beyond its border its values go on.

    radius: samples, of the disc that a point becomes.
    """
    (top, low), (left, right) = (span.indices(size)[:2] for span, size in zip(part, picture.shape[:2], strict=True))
    kernel = aperture(round(radius, 3), blades, turn)
    reach = kernel.shape[0] // 2
    rows = _within(top - reach, low + reach, picture.shape[0])
    columns = _within(left - reach, right + reach, picture.shape[1])
    size = [fft.next_fast_len(len(places), real=True) for places in (rows, columns)]
    shape = fft.rfft2(kernel, size)
    out = np.empty((low - top, right - left, picture.shape[2]), np.float32)

    def channels(first: int, last: int) -> None:
        for k in range(first, last):
            seen = picture[..., k][rows[:, None], columns]
            if seen.min() == seen.max():  # as the alpha of a clip
                out[..., k] = seen[0, 0]
                continue
            made = fft.irfft2(fft.rfft2(seen, size) * shape, size)
            out[..., k] = made[2 * reach : 2 * reach + len(out), 2 * reach : 2 * reach + out.shape[1]]

    run_rows(channels, picture.shape[2], least=1)
    return out


def _within(first: int, last: int, size: int) -> NDArray[np.intp]:
    """Indices from `first` to before `last`, held to those there are."""
    return np.clip(np.arange(first, last), 0, size - 1)
