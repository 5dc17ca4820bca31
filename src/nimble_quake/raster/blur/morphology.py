"""Growing and shrinking: grey dilation and erosion by a disc, a square or a line."""

from __future__ import annotations

import math
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

ROUND_FROM = 1.5
"""From this radius (samples) on, rows and columns alone make a disc."""
RING = 24
"""Places that are looked at round a smaller one."""


def morphed(field: Field, way: str, form: str, radius: float) -> Field:
    """Return the field grown, shrunk, opened or closed; radius in samples, the border held."""
    steps = {"grow": (True,), "shrink": (False,), "open": (False, True), "close": (True, False)}[way]
    out = field
    for grows in steps:
        if form == "round":
            out = _disc(out, radius, grows) if radius > 1e-3 else out
            continue
        low = math.floor(radius)
        fraction = radius - low
        near = _by(out, form, low, grows)
        out = near if fraction < 1e-3 else near + (_by(out, form, low + 1, grows) - near) * np.float32(fraction)
    return out if out is not field else field.copy()


def _by(field: Field, form: str, radius: int, grows: bool) -> Field:
    if radius <= 0:
        return field
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


def _disc(field: Field, radius: float, grows: bool) -> Field:
    """Grow (or shrink) by a disc of any radius.

    A disc is a stack of runs, one a row, and as well one a column: where one stack has its steps the other has its long
    runs. The largest value of any run is that of two overlapping runs whose length is a power of two, and those are
    doubled up once for every row, so the cost grows with the radius, not with its square; its ends lie between samples.
    """
    height, width, channels = field.shape
    sign = np.float32(1 if grows else -1)
    out = np.empty((height, width, channels), np.float32)
    for k in range(channels):
        plane = np.ascontiguousarray(field[..., k]) * sign
        found = _stack_of_runs(plane, radius)
        found = np.maximum(found, _stack_of_runs(np.ascontiguousarray(plane.T), radius).T)
        if radius < ROUND_FROM:
            run_rows(_ringed, height, np.pad(plane, 1 + math.ceil(radius), mode="edge"), _ring(radius), found)
        out[..., k] = found * sign
    return out


@cache
def _ring(radius: float) -> NDArray[np.float64]:
    """Places round a small disc, (n, 2): they fill the slants between its few rows and columns."""
    turns = 2 * math.pi * (np.arange(RING) + 0.5) / RING
    return radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)


@kernel(error_model="numpy", fastmath={"contract"})
def _ringed(plane, ring, out, first, last):
    """Raise each sample to the largest value, linear between samples, at places round it. `plane` has a border."""
    border = (plane.shape[1] - out.shape[1]) // 2
    for n in range(len(ring)):
        left, top = int(math.floor(ring[n, 0])), int(math.floor(ring[n, 1]))
        fx, fy = np.float32(ring[n, 0] - left), np.float32(ring[n, 1] - top)
        for j in range(first, last):
            above, below, row = (
                plane[border + j + top, border + left :],
                plane[border + j + top + 1, border + left :],
                out[j],
            )
            for i in range(out.shape[1]):
                a = above[i] + (above[i + 1] - above[i]) * fx
                b = below[i] + (below[i + 1] - below[i]) * fx
                row[i] = max(row[i], a + (b - a) * fy)


def _stack_of_runs(plane: NDArray[np.float32], radius: float) -> NDArray[np.float32]:
    """The largest value within a disc's runs along rows, of each sample of (H, W)."""
    reach = math.ceil(radius)
    rise = np.arange(math.floor(radius) + 1)
    halves = np.sqrt(radius * radius - rise * rise)
    levels = np.log2(2 * np.floor(halves) + 1).astype(np.int64)
    height, width = plane.shape
    runs = np.empty((int(levels[0]) + 1, height + 2 * reach, width + 2 * reach + 2), np.float32)
    out = np.empty((height, width), np.float32)
    run_rows(_double, runs.shape[1], plane, reach, runs)
    run_rows(_stacked, height, runs, halves.astype(np.float32), levels, reach, out)
    return out


@kernel(error_model="numpy")
def _double(plane, reach, runs, first, last):
    """runs[n, j, i]: the largest of 2^n samples of row j from i on, in a plane grown by the reach, its border held."""
    wide, low, right = runs.shape[2], plane.shape[0] - 1, plane.shape[1] - 1
    for j in range(first, last):
        source, row = plane[min(max(j - reach, 0), low)], runs[0, j]
        for i in range(wide):
            row[i] = source[min(max(i - reach - 1, 0), right)]
    for n in range(1, runs.shape[0]):
        step = 1 << (n - 1)
        for j in range(first, last):
            before, row = runs[n - 1, j], runs[n, j]
            for i in range(wide - step):
                row[i] = max(before[i], before[i + step])
            for i in range(wide - step, wide):
                row[i] = before[i]


@kernel(error_model="numpy")
def _stacked(runs, halves, levels, reach, out, first, last):
    wide, most = out.shape[1], len(halves) - 1
    for j in range(first, last):
        row = out[j]
        row[:] = -np.inf
        for d in range(-most, most + 1):
            half, level = int(halves[abs(d)]), levels[abs(d)]
            part = halves[abs(d)] - np.float32(half)
            start = reach + 1 - half
            back = reach + 1 + half + 1 - (1 << level)
            line, single = runs[level, j + reach + d], runs[0, j + reach + d]
            ahead, behind = line[start : start + wide], line[back : back + wide]
            near_left, far_left = single[start : start + wide], single[start - 1 : start - 1 + wide]
            near_right, far_right = single[reach + 1 + half :], single[reach + 2 + half :]
            for i in range(wide):
                ends = max(
                    near_left[i] + (far_left[i] - near_left[i]) * part,
                    near_right[i] + (far_right[i] - near_right[i]) * part,
                )
                row[i] = max(max(row[i], ends), max(ahead[i], behind[i]))
