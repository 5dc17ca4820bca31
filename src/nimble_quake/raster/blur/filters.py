"""Filters over fields and pictures: blur and exact cell averages."""

from __future__ import annotations

import math
from functools import cache

import cv2
import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.blur.convolve import convolve, half_gaussian
from nimble_quake.raster.geometry.part import Part
from nimble_quake.raster.threads.rows import run_rows

CUT = 4.0
"""A Gaussian is cut at this many sigmas, so at most 1e-4 of its weight is lost (then normalised)."""
WIDEST = 4.0
"""From this sigma on (in samples) the blur works on an averaged, smaller copy; its cost then stops growing.

What that is off is less than a tenth of an 8-bit level, in white noise too.
"""
WIDEST_SLOPE = 6.0
"""The same where slopes are asked for, of which as little would be a hundredth."""


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


WHOLE: Part = (slice(None), slice(None))


def gaussian_inside(
    array: Field | Picture, sigma_x: float, sigma_y: float, part: Part = WHOLE, *, widest: float = WIDEST
) -> Field | Picture:
    """Return a Gaussian blur that is right farther than `blur_margin` from the border, which is cheaper.

    part: the rows and columns that are wanted; the rest is only read. widest: from which sigma on (samples, at least 2)
    it is made at half the size.
    """
    fx, fy = _reduction(sigma_x, widest), _reduction(sigma_y, widest)
    (top, low), (left, right) = (span.indices(size)[:2] for span, size in zip(part, array.shape[:2], strict=True))
    if fx == fy == 1:
        return _direct(array, sigma_x, sigma_y, (top, low, left, right))
    # Halving blurs by itself, and so does the spline back: both variances are taken off.
    own_x, own_y = (_own_sigma(sigma, f) for sigma, f in ((sigma_x, fx), (sigma_y, fy)))
    return enlarged(_direct(halved(array, fx, fy), own_x, own_y), fx, fy, (top, low, left, right))


def _own_sigma(sigma: float, f: int) -> float:
    """What is left for the small copy to blur, in its samples, so that all of it together is a Gaussian of sigma."""
    if f == 1:
        return sigma
    return math.sqrt(sigma * sigma / (f * f) - (1 - 1 / (f * f)) / 4 - 1 / 3)


def halved(array: Field, fx: int, fy: int) -> Field:
    """Return a copy made smaller by powers of two, halving after halving with the weights 1 3 3 1.

    Their third-order zero where copies of the spectrum would fall upon it keeps fine texture from turning into coarse.
    """
    while fx > 1 or fy > 1:
        height, width, channels = array.shape
        if fx > 1 and fy > 1:
            out = np.empty((-(-height // 2), -(-width // 2), channels), np.float32)
            run_rows(_half_both, out.shape[0], np.ascontiguousarray(array), out)
            array, fx, fy = out, fx // 2, fy // 2
            continue
        if fy > 1:
            out = np.empty((-(-height // 2), width * channels), np.float32)
            run_rows(_half_rows, out.shape[0], np.ascontiguousarray(array).reshape(height, -1), out)
            array, fy = out.reshape(-1, width, channels), fy // 2
        if fx > 1:
            out = np.empty((array.shape[0], -(-width // 2), channels), np.float32)
            run_rows(_half_columns, out.shape[0], np.ascontiguousarray(array), out)
            array, fx = out, fx // 2
    return array


@kernel(error_model="numpy", fastmath={"contract"})
def _half_fours(row, outer, inner, made):
    """The columns of a row of four channels: all four in one instruction."""
    i1, i2, i3 = np.uint64(1), np.uint64(2), np.uint64(3)
    for i in range(len(made) // 4):
        o = np.uint64(4 * i)
        a = o + o
        b, c, d = a + np.uint64(4), a + np.uint64(8), a + np.uint64(12)
        near0, near1 = row[b] + row[c], row[b + i1] + row[c + i1]
        near2, near3 = row[b + i2] + row[c + i2], row[b + i3] + row[c + i3]
        made[o] = outer * (row[a] + row[d]) + inner * near0
        made[o + i1] = outer * (row[a + i1] + row[d + i1]) + inner * near1
        made[o + i2] = outer * (row[a + i2] + row[d + i2]) + inner * near2
        made[o + i3] = outer * (row[a + i3] + row[d + i3]) + inner * near3


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _half_both(array, out, first, last):
    """Rows, then columns, while a row is at hand."""
    tall, wide, channels = array.shape
    outer, inner, most = np.float32(0.125), np.float32(0.375), tall - 1
    flat, row = array.reshape(tall, wide * channels), np.empty((wide + 3) * channels, np.float32)
    for j in range(first, last):
        a, b = flat[max(2 * j - 1, 0)], flat[2 * j]
        c, d = flat[min(2 * j + 1, most)], flat[min(2 * j + 2, most)]
        for n in range(wide * channels):
            row[n + channels] = outer * (a[n] + d[n]) + inner * (b[n] + c[n])
        for k in range(channels):  # the border goes on
            row[k] = row[channels + k]
            row[(wide + 1) * channels + k] = row[(wide + 2) * channels + k] = row[wide * channels + k]
        made = out[j]
        if channels == 4:
            _half_fours(row, outer, inner, made.reshape(-1))
        else:
            for i in range(out.shape[1]):
                for k in range(channels):
                    n = 2 * i * channels + k
                    near = row[n + channels] + row[n + 2 * channels]
                    made[i, k] = outer * (row[n] + row[n + 3 * channels]) + inner * near


@kernel(error_model="numpy", fastmath={"contract"})
def _half_rows(array, out, first, last):
    most, outer, inner = array.shape[0] - 1, np.float32(0.125), np.float32(0.375)
    for j in range(first, last):
        a, b = array[max(2 * j - 1, 0)], array[2 * j]
        c, d = array[min(2 * j + 1, most)], array[min(2 * j + 2, most)]
        row = out[j]
        for i in range(len(row)):
            row[i] = outer * (a[i] + d[i]) + inner * (b[i] + c[i])


@kernel(error_model="numpy", fastmath={"contract"})
def _half_columns(array, out, first, last):
    wide, channels, outer, inner = out.shape[1], out.shape[2], np.float32(0.125), np.float32(0.375)
    most = array.shape[1] - 1
    even, odd = np.empty(wide + 1, np.float32), np.empty(wide + 1, np.float32)
    for j in range(first, last):
        for k in range(channels):
            line = array[j, :, k]
            for i in range(wide):  # the two halves of each pair apart, so that the sums run along memory
                even[i] = line[2 * i]
                odd[i + 1] = line[min(2 * i + 1, most)]
            odd[0] = line[0]
            even[wide] = line[most]
            row = out[j, :, k]
            for i in range(wide):
                row[i] = outer * (odd[i] + even[i + 1]) + inner * (even[i] + odd[i + 1])


def enlarged(small: Field, fx: int, fy: int, box: tuple[int, int, int, int]) -> Field:
    """Return a small copy at full size by the uniform cubic B-spline, which is smooth and nearly a Gaussian itself.

    box: first row, last row, first column and last column that are wanted, the last ones not included.
    """
    top, low, left, right = box
    wide = _widened(small, fx, left, right)
    if fy == 1:
        return np.ascontiguousarray(wide[top:low])
    out = np.empty((low - top, right - left, small.shape[2]), np.float32)
    run_rows(_spline_rows, len(out), wide.reshape(len(wide), -1), fy, phases(fy), top, out.reshape(len(out), -1))
    return out


def _widened(small: Field, fx: int, left: int, right: int) -> Field:
    """A small copy with all its columns from `left` to `right`, its rows still few."""
    if fx == 1:
        return np.ascontiguousarray(small[:, left:right])
    wide = np.empty((small.shape[0], right, small.shape[2]), np.float32)
    run_rows(_spline_columns, small.shape[0], np.ascontiguousarray(small), fx, phases(fx), wide)
    return np.ascontiguousarray(wide[:, left:right])


def few_rows(array: Picture, sigma: float, part: Part) -> tuple[Field, int, int] | None:
    """Return a wide blur with only one in so many of its rows: those, how many, and the first row that is wanted.

    `spline_row` makes each of the others when it is needed. None where the blur is too narrow to be made so.
    """
    f = _reduction(sigma)
    if f == 1:
        return None
    top, (left, right) = part[0].indices(array.shape[0])[0], part[1].indices(array.shape[1])[:2]
    own = _own_sigma(sigma, f)
    return _widened(_direct(halved(array, f, f), own, own), f, left, right), f, top


def _borders(array: Field) -> tuple[tuple[int, Field, Field], tuple[int, Field, Field]]:
    """Each axis with the first and the last row along it."""
    return (0, array[:1], array[-1:]), (1, array[:, :1], array[:, -1:])


def gaussian_slopes(array: Field, sigma: float, part: Part = WHOLE) -> Field | None:
    """Return the slope across and down, values a sample, of (H, W, 1) blurred by a Gaussian wide enough: (h, w, 2).

    It is that of the B-spline through which a wide blur is made large again, in closed form. None for a narrow blur,
    which is made at full size.
    """
    f = _reduction(sigma, WIDEST_SLOPE)
    if f == 1:
        return None
    (top, low), (left, right) = (span.indices(size)[:2] for span, size in zip(part, array.shape[:2], strict=True))
    own = _own_sigma(sigma, f)
    small = np.ascontiguousarray(_direct(halved(array, f, f), own, own))
    out = np.empty((low - top, right - left, 2), np.float32)
    steps = [np.diff(small, axis=axis, prepend=first, append=last) for axis, first, last in _borders(small)]
    for axis, (values, across, down) in enumerate(
        ((steps[1], slope_phases(f), phases(f)), (steps[0], phases(f), slope_phases(f)))
    ):
        wide = np.empty((values.shape[0], right, 1), np.float32)
        run_rows(_spline_columns, values.shape[0], np.ascontiguousarray(values), f, across, wide)
        made = np.empty((low - top, right - left), np.float32)
        run_rows(_spline_rows, len(out), np.ascontiguousarray(wide[:, left:right, 0]), f, down, top, made)
        out[..., axis] = made
    return out


@kernel(error_model="numpy", fastmath={"contract"}, inline="always")
def spline_row(small, f, phases, j, row):
    """Make row j of a picture out of few rows (each flat), into `row`."""
    most, p = small.shape[0] - 1, j % f
    w0, w1, w2, w3 = phases[p, 0], phases[p, 1], phases[p, 2], phases[p, 3]
    r = j // f + int(phases[p, 4])
    a, b = small[min(max(r, 0), most)], small[min(max(r + 1, 0), most)]
    c, d = small[min(max(r + 2, 0), most)], small[min(max(r + 3, 0), most)]
    for i in range(len(row)):
        row[i] = w0 * a[i] + w1 * b[i] + w2 * c[i] + w3 * d[i]


def _phase(f: int) -> tuple[np.ndarray, np.ndarray]:
    """Where each of f samples in a small one lies: how far past the small sample before it, and which that is."""
    t = (np.arange(f) + 0.5) / f - 0.5
    return t - np.floor(t), np.floor(t)


@cache
def slope_phases(f: int) -> np.ndarray:
    """As `phases`, of the B-spline's slope in values a sample: weights of the steps from each value to the next."""
    u, first = _phase(f)
    weights = [(1 - u) ** 2 / 2, (1 + 2 * u - 2 * u**2) / 2, u**2 / 2, np.zeros(f)]
    return np.stack([*(weight / f for weight in weights), first], axis=1).astype(np.float32)


@cache
def phases(f: int) -> np.ndarray:
    """The four weights of the B-spline for each of f samples in a small one, and where its first one lies."""
    u, first = _phase(f)
    weights = [(1 - u) ** 3 / 6, (3 * u**3 - 6 * u**2 + 4) / 6, (3 * (1 - u) ** 3 - 6 * (1 - u) ** 2 + 4) / 6, u**3 / 6]
    return np.stack([*weights, first - 1], axis=1).astype(np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _spline_rows(small, f, phases, top, out, first, last):
    for j in range(first, last):
        spline_row(small, f, phases, j + top, out[j])


@kernel(error_model="numpy", fastmath={"contract"})
def _spline_fours(line, weights, step, made):
    """Every `step`-th pixel of four channels, from the first of `made` on: all four in one instruction."""
    w0, w1, w2, w3 = weights[0], weights[1], weights[2], weights[3]
    i1, i2, i3, i4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    for q in range((len(made) // 4 + step - 1) // step):
        a, o = np.uint64(4 * q), np.uint64(4 * q * step)
        b, c, d = a + i4, a + i4 + i4, a + i4 + i4 + i4
        m0 = w0 * line[a] + w1 * line[b] + w2 * line[c] + w3 * line[d]
        m1 = w0 * line[a + i1] + w1 * line[b + i1] + w2 * line[c + i1] + w3 * line[d + i1]
        m2 = w0 * line[a + i2] + w1 * line[b + i2] + w2 * line[c + i2] + w3 * line[d + i2]
        m3 = w0 * line[a + i3] + w1 * line[b + i3] + w2 * line[c + i3] + w3 * line[d + i3]
        made[o], made[o + i1], made[o + i2], made[o + i3] = m0, m1, m2, m3


@kernel(error_model="numpy", fastmath={"contract"})
def _spline_run(line, weights, channels, made):
    """The same of any channels, one pixel beside the other."""
    w0, w1, w2, w3 = weights[0], weights[1], weights[2], weights[3]
    a, b, c, d = line, line[channels:], line[2 * channels :], line[3 * channels :]
    for n in range(len(made)):
        made[n] = w0 * a[n] + w1 * b[n] + w2 * c[n] + w3 * d[n]


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _spline_columns(small, f, phases, out, first, last):
    most, wide, channels = small.shape[1] - 1, out.shape[1], small.shape[2]
    padded, run = np.empty((most + 6) * channels, np.float32), np.empty((wide + f - 1) // f * channels, np.float32)
    for j in range(first, last):
        row, inner = out[j].reshape(-1), small[j].reshape(-1)
        padded[2 * channels : (most + 3) * channels] = inner
        for i in range(2):
            padded[i * channels : (i + 1) * channels] = inner[:channels]
        for i in range(most + 3, most + 6):
            padded[i * channels : (i + 1) * channels] = inner[most * channels :]
        for p in range(f):
            line = padded[(int(phases[p, 4]) + 2) * channels :]
            if channels == 4:
                _spline_fours(line, phases[p], f, row[4 * p :])
                continue
            made = run[: (wide - p + f - 1) // f * channels]
            _spline_run(line, phases[p], channels, made)
            for k in range(channels):
                for q in range(len(made) // channels):
                    row[(q * f + p) * channels + k] = made[q * channels + k]


def _reduction(sigma: float, widest: float = WIDEST) -> int:
    return 1 if sigma < widest else max(2, 2 ** int(math.log2(sigma / (max(widest, WIDEST) / 2))))


def _deep(array: np.ndarray) -> Field:
    """Give back the channel axis OpenCV drops from one-channel pictures."""
    return array[..., None] if array.ndim == 2 else array


def _direct(array: Field, sigma_x: float, sigma_y: float, box: tuple[int, int, int, int] | None = None) -> Field:
    height, width = array.shape[:2]
    top, bottom, left, right = box or (0, height, 0, width)
    reach_x, reach_y = (max(0, math.ceil(CUT * s)) for s in (sigma_x, sigma_y))
    if reach_x == reach_y == 0:
        return np.ascontiguousarray(array[top:bottom, left:right])
    out = np.empty((bottom - top, right - left, array.shape[2]), np.float32)
    convolve(array, half_gaussian(sigma_x, reach_x), half_gaussian(sigma_y, reach_y), out, top, left)
    return out


@kernel(error_model="numpy")
def _cell_sums(array, edges_x, edges_y, out, first, last):
    """Sums down the columns of a row of cells, then along it."""
    width, channels = array.shape[1], array.shape[2]
    columns = np.empty((width, channels), np.float64)
    for row in range(first, last):
        columns[:] = 0.0
        for j in range(edges_y[row], edges_y[row + 1]):
            for i in range(width):
                for k in range(channels):
                    columns[i, k] += array[j, i, k]
        for cell in range(len(edges_x) - 1):
            count = (edges_y[row + 1] - edges_y[row]) * (edges_x[cell + 1] - edges_x[cell])
            for k in range(channels):
                total = 0.0
                for i in range(edges_x[cell], edges_x[cell + 1]):
                    total += columns[i, k]
                out[row, cell, k] = total / count


def cell_means(array: Field, edges_x: np.ndarray, edges_y: np.ndarray) -> Field:
    """Return the mean of every cell between the given sample edges: (len(edges_y)-1, len(edges_x)-1, C)."""
    out = np.empty((len(edges_y) - 1, len(edges_x) - 1, array.shape[2]), np.float32)
    run_rows(_cell_sums, len(out), array, edges_x, edges_y, out, least=1)  # one row of cells is many of samples
    return out


@kernel(error_model="numpy")
def _filled_cells(means, rows, columns, out, first, last):
    for j in range(first, last):
        line = means[rows[j]]
        for i in range(out.shape[1]):
            for k in range(out.shape[2]):
                out[j, i, k] = line[columns[i], k]


def filled_cells(means: Field, rows: np.ndarray, columns: np.ndarray) -> Field:
    """Return (len(rows), len(columns), C): each sample takes the mean of the cell whose row and column it lies in."""
    out = np.empty((len(rows), len(columns), means.shape[2]), np.float32)
    run_rows(_filled_cells, len(rows), means, rows, columns, out)
    return out


def boxed(array: Field, half_x: float, half_y: float) -> Field:
    """Return the mean over a box of `half` samples to each side (and a fraction), the border held."""
    out = array
    for half, axis in ((half_x, 1), (half_y, 0)):
        if half <= 0:
            continue
        whole = math.floor(half)
        near = _box(out, whole, axis)
        fraction = half - whole
        far = _box(out, whole + 1, axis)
        wide, wider = 2 * whole + 1, 2 * whole + 3
        # between two whole widths the two outer samples count by the fraction
        total = wide * (1 - fraction) + wider * fraction
        out = near * np.float32(wide * (1 - fraction) / total) + far * np.float32(wider * fraction / total)
    return out if out is not array else array.copy()


def _box(array: Field, half: int, axis: int) -> Field:
    size = (2 * half + 1, 1) if axis == 1 else (1, 2 * half + 1)
    return _deep(cv2.blur(array, size, borderType=cv2.BORDER_REPLICATE))
