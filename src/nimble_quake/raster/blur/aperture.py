"""Defocus: each point becomes the shape of the aperture, a disc or a polygon, with a rim as sharp as the shape's.

A row of the shape is a few steps up and a few down, and each is one look at the running sums of a row of the picture:
the cost grows with the radius, not with its square. A wide shape is laid over the whole picture at once by a Fourier
transform of each channel, whose cost hardly grows at all. Both have the same weights.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.part import Part
from nimble_quake.raster.threads.rows import run_rows

FINE = 16
"""Places along the side of a kernel's cell, to measure how much of it the aperture covers."""
WIDE = 28.0
"""From this radius (samples) on a Fourier transform is quicker."""


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
    shape = aperture(round(radius, 3), blades, turn)
    reach = shape.shape[0] // 2
    rows = _within(top - reach, low + reach, picture.shape[0])
    columns = _within(left - reach, right + reach, picture.shape[1])
    out = np.empty((low - top, right - left, picture.shape[2]), np.float32)
    if radius >= WIDE:
        _transformed(picture, rows, columns, shape, out)
        return out
    sums = np.empty((4, len(rows), len(columns) + 1), np.float32)
    alpha = np.empty((2, len(rows)), np.float32)
    run_rows(_summed, len(rows), picture, rows, columns, sums, alpha)
    channels = 3 if alpha.min() == alpha.max() else 4  # as the alpha of a clip
    places, heights = _steps(shape[::-1, ::-1])  # what each sample sees of a point that becomes the shape
    run_rows(_spread, len(out), sums, places, heights, channels, alpha[0], out)
    return out


def _steps(shape: NDArray[np.float32]) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """Return where a kernel's rows step (row, column), and by how much it falls there; a multiple of four, by rows."""
    falls = -np.diff(shape, axis=1, prepend=0, append=0)
    places = np.argwhere(falls)
    heights, more = falls[places[:, 0], places[:, 1]], -len(places) % 4
    places = np.ascontiguousarray(np.pad(places, ((0, more), (0, 0))), np.int64)
    return places, np.pad(heights, (0, more)).astype(np.float32)


@kernel(error_model="numpy")
def _summed(picture, rows, columns, sums, alpha, first, last):
    """Sum up the four channels along each row; find its least and its largest alpha."""
    for j in range(first, last):
        source = picture[rows[j]]
        r = g = b = a = np.float32(0)
        least = most = source[columns[0], 3]
        for i in range(len(columns)):
            at = source[columns[i]]
            sums[0, j, i], sums[1, j, i], sums[2, j, i], sums[3, j, i] = r, g, b, a
            r, g, b, a = r + at[0], g + at[1], b + at[2], a + at[3]
            least, most = min(least, at[3]), max(most, at[3])
        alpha[0, j], alpha[1, j] = least, most
        i = len(columns)
        sums[0, j, i], sums[1, j, i], sums[2, j, i], sums[3, j, i] = r, g, b, a


@kernel(error_model="numpy", fastmath={"contract"})
def _spread(sums, places, heights, channels, alpha, out, first, last):
    """Add up, for each sample of a row, what the shape covers; four steps at a time, so that sums stay in registers."""
    wide = out.shape[1]
    total = np.empty(wide, np.float32)
    for j in range(first, last):
        if channels == 3:
            out[j, :, 3] = alpha[j]
        for k in range(channels):
            total[:] = np.float32(0)
            for n in range(0, len(places), 4):
                a = sums[k, j + places[n, 0], places[n, 1] :]
                b = sums[k, j + places[n + 1, 0], places[n + 1, 1] :]
                c = sums[k, j + places[n + 2, 0], places[n + 2, 1] :]
                d = sums[k, j + places[n + 3, 0], places[n + 3, 1] :]
                of_a, of_b, of_c, of_d = heights[n], heights[n + 1], heights[n + 2], heights[n + 3]
                for i in range(wide):
                    total[i] += (a[i] * of_a + b[i] * of_b) + (c[i] * of_c + d[i] * of_d)
            for i in range(wide):
                out[j, i, k] = total[i]


def _transformed(
    picture: Picture, rows: NDArray[np.intp], columns: NDArray[np.intp], shape: NDArray[np.float32], out: Picture
) -> None:
    """Lay a shape over the rows and columns of a picture, in `out`, by a Fourier transform."""
    from scipy import fft  # SciPy takes 0.4 s to load

    reach = shape.shape[0] // 2
    size = [fft.next_fast_len(len(places), real=True) for places in (rows, columns)]
    spectrum = fft.rfft2(shape, size)

    def channels(first: int, last: int) -> None:
        for k in range(first, last):
            seen = picture[..., k][rows[:, None], columns]
            if seen.min() == seen.max():  # as the alpha of a clip
                out[..., k] = seen[0, 0]
                continue
            made = fft.irfft2(fft.rfft2(seen, size) * spectrum, size)
            out[..., k] = made[2 * reach : 2 * reach + len(out), 2 * reach : 2 * reach + out.shape[1]]

    run_rows(channels, picture.shape[2], least=1)


def _within(first: int, last: int, size: int) -> NDArray[np.intp]:
    """Indices from `first` to before `last`, held to those there are."""
    return np.clip(np.arange(first, last), 0, size - 1)
