"""Growing and shrinking: grey dilation and erosion by a disc, a square or a line."""

from __future__ import annotations

import math
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.part import Part, box_of
from nimble_quake.raster.threads.rows import run_rows

ROUND_FROM = 1.5
"""From this radius (samples) on, rows and columns alone make a disc."""
RING = 24
"""Places that are looked at round a smaller one."""
BLOCK = 32
"""Samples along the side of the blocks that are left out where nothing changes."""


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
    out = field.copy()
    for k in range(field.shape[2]):
        plane = np.ascontiguousarray(field[..., k] if grows else -field[..., k])
        reach = math.ceil(radius) + 1
        blocks = _changing(plane, reach)
        box = box_of(blocks)
        if box is None:
            continue
        part, within = _enlarged(box, -(-reach // BLOCK), blocks.shape)
        near, blocks = np.ascontiguousarray(plane[part]), blocks[within]
        found = _stack_of_runs(near, radius, blocks)
        found = np.maximum(
            found, cv2.transpose(_stack_of_runs(np.asarray(cv2.transpose(near), np.float32), radius, blocks.T))
        )
        if radius < ROUND_FROM:
            run_rows(_ringed, len(near), np.pad(near, reach, mode="edge"), _ring(radius), found)
        out[(*part, k)] = found if grows else -found
    return out


def _enlarged(box: Part, more: int, shape: tuple[int, ...]) -> tuple[Part, Part]:
    """Return a box of blocks that is so many blocks larger, as far as there are any: in samples and in blocks."""
    rows, columns = (
        slice(max(0, span.start - more), min(count, span.stop + more)) for span, count in zip(box, shape, strict=True)
    )
    samples = [slice(span.start * BLOCK, span.stop * BLOCK) for span in (rows, columns)]
    return (samples[0], samples[1]), (rows, columns)


def _changing(plane: NDArray[np.float32], reach: int) -> NDArray[np.bool_]:
    """Return in which blocks of a plane anything can grow: not where all is as large as what is within reach."""
    least, most = (np.empty([-(-size // BLOCK) for size in plane.shape], np.float32) for _ in range(2))
    run_rows(_bounds, len(least), plane, least, most, least=1)
    side = 2 * -(-reach // BLOCK) + 1
    return np.asarray(least < cv2.dilate(most, np.ones((side, side), np.uint8)), np.bool_)


@kernel(error_model="numpy")
def _bounds(plane, least, most, first, last):
    """The least and the largest value of each block."""
    tall, wide = plane.shape
    low, high = np.empty(BLOCK, np.float32), np.empty(BLOCK, np.float32)
    for j in range(first, last):
        for n in range(least.shape[1]):
            begin, end = n * BLOCK, min((n + 1) * BLOCK, wide)
            for i in range(end - begin):
                low[i] = high[i] = plane[j * BLOCK, begin + i]
            for y in range(j * BLOCK + 1, min((j + 1) * BLOCK, tall)):
                row = plane[y, begin:end]
                for i in range(len(row)):
                    low[i], high[i] = min(low[i], row[i]), max(high[i], row[i])
            least[j, n], most[j, n] = low[: end - begin].min(), high[: end - begin].max()


def _read_by(blocks: NDArray[np.bool_], reach: int, shape: tuple[int, int]) -> NDArray[np.bool_]:
    """Return which blocks of a plane that is `reach` larger all round are read for those that are made."""
    made = np.zeros([-(-size // BLOCK) for size in shape], np.uint8)
    made[: blocks.shape[0], : blocks.shape[1]] = blocks
    on = 2 + (2 * reach + 2) // BLOCK  # how many blocks from its own corner on
    return cv2.dilate(made, np.ones((on, on), np.uint8), anchor=(on - 1, on - 1)).astype(np.bool_)


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


def _stack_of_runs(plane: NDArray[np.float32], radius: float, blocks: NDArray[np.bool_]) -> NDArray[np.float32]:
    """The largest value within a disc's runs along rows, of each sample of (H, W) in the blocks that change."""
    reach = math.ceil(radius)
    rise = np.arange(math.floor(radius) + 1)
    halves = np.sqrt(radius * radius - rise * rise)
    levels = np.log2(2 * np.floor(halves) + 1).astype(np.int64)
    height, width = plane.shape
    out, read = plane.copy(), _read_by(blocks, reach, (height + 2 * reach, width + 2 * reach + 2))
    args = (plane, halves.astype(np.float32), levels, reach, read, np.ascontiguousarray(blocks), out)
    run_rows(_stacked, height, *args, least=8 * reach)
    return out


@kernel(inline="always")
def _next_blocks(blocks, begin, wide):
    """The next blocks of a row that are side by side, from a column on: first and last sample, the last not counted."""
    first, count = -(-begin // BLOCK), len(blocks)
    while first < count and not blocks[first]:
        first += 1
    last = first
    while last < count and blocks[last]:
        last += 1
    return min(first * BLOCK, wide), min(last * BLOCK, wide)


@kernel(inline="always")
def _double(source, reach, blocks, runs):
    """runs[n, i]: the largest of 2^n samples of a row from i on, the row grown by the reach, its border held."""
    wide, border, after = runs.shape[1], reach + 1, len(source) + reach + 1
    begin, end = _next_blocks(blocks, 0, wide)
    while begin < end:
        left, right = min(max(begin, border), end), max(min(end, after), begin)
        row = runs[0, begin:end]
        inner, there = row[left - begin : right - begin], source[left - border :]
        row[: left - begin] = source[0]
        for i in range(len(inner)):
            inner[i] = there[i]
        row[right - begin :] = source[len(source) - 1]
        for n in range(1, runs.shape[0]):
            before, row = row, runs[n, begin:end]
            step = min(1 << (n - 1), len(row))
            further = before[step:]
            for i in range(len(further)):
                row[i] = max(before[i], further[i])
            row[len(further) :] = before[len(further) :]
        begin, end = _next_blocks(blocks, end, wide)


@kernel(error_model="numpy")
def _stacked(plane, halves, levels, reach, read, blocks, out, first, last):
    """The rows that a disc sees are doubled once each, and stay at hand while it moves down."""
    most, count, low = len(halves) - 1, 2 * reach + 1, plane.shape[0] - 1
    near = np.empty((count, levels[0] + 1, plane.shape[1] + 2 * reach + 2), np.float32)
    ready = first
    for j in range(first, last):
        begin, end = _next_blocks(blocks[j // BLOCK], 0, out.shape[1])
        if begin == end:
            continue
        for y in range(max(ready, j), j + count):
            _double(plane[min(max(y - reach, 0), low)], reach, read[y // BLOCK], near[y % count])
        ready = j + count
        while begin < end:
            row = out[j, begin:end]
            for d in range(-most, most + 1):
                half, level, runs = int(halves[abs(d)]), levels[abs(d)], near[(j + reach + d) % count]
                part = halves[abs(d)] - np.float32(half)
                start = begin + reach + 1 - half
                back = begin + reach + 1 + half + 1 - (1 << level)
                line, single = runs[level], runs[0]
                ahead, behind = line[start:], line[back:]
                near_left, far_left = single[start:], single[start - 1 :]
                near_right, far_right = single[begin + reach + 1 + half :], single[begin + reach + 2 + half :]
                for i in range(len(row)):
                    ends = max(
                        near_left[i] + (far_left[i] - near_left[i]) * part,
                        near_right[i] + (far_right[i] - near_right[i]) * part,
                    )
                    row[i] = max(max(row[i], ends), max(ahead[i], behind[i]))
            begin, end = _next_blocks(blocks[j // BLOCK], end, out.shape[1])
