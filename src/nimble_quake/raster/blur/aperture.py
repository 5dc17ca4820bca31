"""Defocus: each point becomes the shape of the aperture, a disc or a polygon."""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.raster.blur.filters import Part, enlarged, halved
from nimble_quake.raster.threads.rows import run_rows

WIDEST = 7.0
"""Above this radius (samples) the aperture is laid over an averaged, smaller copy."""
FINE = 8
"""Samples along the side of a kernel's cell, to measure how much of it the aperture covers."""


@lru_cache(maxsize=64)
def aperture(radius: float, blades: int, turn: float) -> NDArray[np.float32]:
    """Return the kernel of an aperture, (n, n), which sums to one. radius: samples; blades: below 3 it is round."""
    reach = math.ceil(radius + 0.5)
    side = 2 * reach + 1
    at = (np.arange(side * FINE) + 0.5) / FINE - side / 2
    x, y = at[None], at[:, None]
    if blades < 3:
        inside = x * x + y * y <= radius * radius
    else:
        sector = 2 * math.pi / blades
        angle = np.arctan2(y, x) - math.radians(turn)
        away = np.abs((angle + sector / 2) % sector - sector / 2)
        inside = np.hypot(x, y) * np.cos(away) <= radius * math.cos(sector / 2)
    kernel = inside.reshape(side, FINE, side, FINE).mean(axis=(1, 3))
    if radius < 0.5:  # it lies within one sample
        kernel[...] = 0.0
        kernel[reach, reach] = 1.0
    return np.asarray(kernel / kernel.sum(), np.float32)


def defocused(picture: Picture, radius: float, blades: int, turn: float, part: Part) -> Picture:
    """Return a part of a picture, out of focus. radius: samples, of the disc that a point becomes."""
    box = tuple(span.indices(size)[:2] for span, size in zip(part, picture.shape[:2], strict=True))
    (top, low), (left, right) = box
    smaller = 1
    while radius / smaller > WIDEST:
        smaller *= 2
    small = halved(picture, smaller, smaller)
    # Making it smaller and larger again blurs by itself: that variance (see `filters`) is taken off the disc's r^2 / 4.
    own = 1 - 1 / smaller**2 + 4 / 3 if smaller > 1 else 0.0
    kernel = aperture(round(math.sqrt(max((radius / smaller) ** 2 - own, 0.0)), 3), blades, turn)
    reach, out = kernel.shape[0] // 2, np.empty_like(small)

    def band(first: int, last: int) -> None:
        begin, end = max(0, first - reach), min(small.shape[0], last + reach)
        got = cv2.filter2D(small[begin:end], -1, kernel, borderType=cv2.BORDER_REPLICATE)
        out[first:last] = got[first - begin : last - begin]

    run_rows(band, small.shape[0])
    if smaller == 1:
        return np.ascontiguousarray(out[top:low, left:right])
    return enlarged(out, smaller, smaller, (top, low, left, right))
