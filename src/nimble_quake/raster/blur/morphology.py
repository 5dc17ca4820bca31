"""Growing and shrinking: grey dilation and erosion by a disc, a square or a line."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


def morphed(field: Field, way: str, form: str, radius: float) -> Field:
    """Return the field grown, shrunk, opened or closed; radius in samples, the border held."""
    steps = {"grow": (True,), "shrink": (False,), "open": (False, True), "close": (True, False)}[way]
    out = field
    for grows in steps:
        low = math.floor(radius)
        fraction = radius - low
        near = _by(out, form, low, grows)
        out = near if fraction < 1e-3 else near + (_by(out, form, low + 1, grows) - near) * np.float32(fraction)
    return out if out is not field else field.copy()


def _by(field: Field, form: str, radius: int, grows: bool) -> Field:
    if radius <= 0:
        return field
    if form == "round":
        return _disc(field, radius, grows)
    kernels = []
    if form != "down":
        kernels.append(np.ones((1, 2 * radius + 1), np.uint8))
    if form != "across":
        kernels.append(np.ones((2 * radius + 1, 1), np.uint8))
    for element in kernels:
        field = _once(field, element, grows)
    return field


def _once(field: Field, kernel: np.ndarray, grows: bool) -> Field:
    run = cv2.dilate if grows else cv2.erode
    reach = kernel.shape[0] // 2
    out = np.empty_like(field)

    def band(first: int, last: int) -> None:
        low, high = max(0, first - reach), min(field.shape[0], last + reach)
        got = run(np.ascontiguousarray(field[low:high]), kernel, borderType=cv2.BORDER_REPLICATE)
        out[first:last] = got.reshape(high - low, *field.shape[1:])[first - low : last - low]

    run_rows(band, field.shape[0])
    return out


def _disc(field: Field, radius: int, grows: bool) -> Field:
    """Grow (or shrink) by the disc of all samples no farther than `radius`.

    A disc is a stack of runs, one a row. The largest value of any run is that of two overlapping runs whose length is
    a power of two, and those are doubled up once for every row: the cost grows with the radius, not with its square.
    """
    halves = np.array([math.isqrt(radius * radius - d * d) for d in range(radius + 1)])
    levels = np.log2(2 * halves + 1).astype(np.int64)
    height, width, channels = field.shape
    out = np.empty((channels, height, width), np.float32)
    runs = np.empty((int(levels[0]) + 1, height + 2 * radius, width + 2 * radius), np.float32)
    for k in range(channels):
        run_rows(_double, runs.shape[1], field, k, np.float32(1 if grows else -1), radius, runs)
        run_rows(_stacked, height, runs, halves, levels, radius, out[k])
    found = out[0][..., None] if channels == 1 else np.ascontiguousarray(np.moveaxis(out, 0, 2))
    return found if grows else np.negative(found, out=found)


@kernel(error_model="numpy")
def _double(field, k, sign, radius, runs, first, last):
    """runs[n, j, i]: the largest of 2^n samples of row j from i on, in a field grown by the radius, its border held."""
    wide, low, right = runs.shape[2], field.shape[0] - 1, field.shape[1] - 1
    for j in range(first, last):
        source, row = field[min(max(j - radius, 0), low)], runs[0, j]
        for i in range(radius):
            row[i], row[wide - 1 - i] = sign * source[0, k], sign * source[right, k]
        for i in range(right + 1):
            row[i + radius] = sign * source[i, k]
    for n in range(1, runs.shape[0]):
        step = 1 << (n - 1)
        for j in range(first, last):
            before, row = runs[n - 1, j], runs[n, j]
            for i in range(wide - step):
                row[i] = max(before[i], before[i + step])
            for i in range(wide - step, wide):
                row[i] = before[i]


@kernel(error_model="numpy")
def _stacked(runs, halves, levels, radius, out, first, last):
    wide = out.shape[1]
    for j in range(first, last):
        row = out[j]
        row[:] = -np.inf
        for d in range(-radius, radius + 1):
            half, level = halves[abs(d)], levels[abs(d)]
            start = radius - half
            back = radius + half + 1 - (1 << level)
            line = runs[level, j + radius + d]
            ahead, behind = line[start : start + wide], line[back : back + wide]
            for i in range(wide):
                row[i] = max(row[i], max(ahead[i], behind[i]))
