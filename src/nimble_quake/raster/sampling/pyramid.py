"""A field of one channel with its smaller copies, each half as large, and rows of samples looked up in them.

Where a place stands for much of the field, it is looked up between two copies. Neighbours of the same copies are done
in one run, in three passes over a row that stays in the fastest memory: where the samples lie, then their values.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import clamped, run_rows

MOST_LEVELS = 8
LEAST = 0.35
"""A field made smaller by less than this power of two anywhere is looked up as it is."""

EDGE = np.float32(0.125)

Plane = NDArray[np.float32]
Sizes = NDArray[np.int32]


class Pyramid(NamedTuple):
    """Copies of a plane: the plane itself, flattened, then all smaller ones in one array, from `starts` on."""

    base: Plane
    smaller: Plane
    heights: Sizes
    widths: Sizes
    starts: Sizes


def pyramid(plane: Plane, most: float) -> Pyramid:
    """Return a plane (H, W) with the copies that levels up to `most` need."""
    if min(plane.shape) < 2:  # a neighbour on either side is looked at
        plane = cv2.copyMakeBorder(plane, 0, 1, 0, 1, cv2.BORDER_REPLICATE)  # type: ignore[assignment]  # OpenCV's stubs forget the type
    shapes = [plane.shape]
    wanted = 0 if most < LEAST else min(MOST_LEVELS, math.ceil(most))
    while len(shapes) <= wanted and min(shapes[-1]) > 3:
        h, w = shapes[-1]
        shapes.append(((h + 1) // 2, (w + 1) // 2))
    sizes = [h * w for h, w in shapes[1:]]
    starts = [0, *(sum(sizes[:n]) for n in range(len(sizes)))]
    flat, above = np.empty(max(1, sum(sizes)), np.float32), plane
    for (h, w), start in zip(shapes[1:], starts[1:], strict=True):
        odd = (above.shape[0] % 2, above.shape[1] % 2)
        if any(odd):
            above = cv2.copyMakeBorder(above, 0, odd[0], 0, odd[1], cv2.BORDER_REPLICATE)  # type: ignore[assignment]  # OpenCV's stubs forget the type
        copy = flat[start : start + h * w].reshape(h, w)
        if h > 256:
            run_rows(_halve, h, above, copy)
        else:  # not worth handing to another thread
            _halve(above, copy, 0, h)
        above = copy
    heights, widths = (np.array([shape[n] for shape in shapes], np.int32) for n in (0, 1))
    return Pyramid(np.ascontiguousarray(plane).reshape(-1), flat, heights, widths, np.array(starts, np.int32))


def _halve(above: Plane, copy: Plane, first: int, last: int) -> None:
    """Average squares of four samples."""
    cv2.resize(
        above[2 * first : 2 * last], (copy.shape[1], last - first), copy[first:last], interpolation=cv2.INTER_AREA
    )


@kernel(error_model="numpy")
def runs_of(line, most, columns, ends, kinds, mixes, fractions):
    """Cut a row of levels (one for 4 samples) into runs that need the same copies; return how many.

    A run's kind is twice its copy, and one more where the next smaller one is mixed in, by `shares`. Within EDGE of
    a whole level that copy alone is used; the shares between are spread so that no step is seen. `mixes`: room.
    """
    zero, one, most32, least = np.float32(0), np.float32(1), np.float32(most), np.float32(LEAST)
    for n in range(len(line)):
        level = min(line[n] if line[n] > zero else zero, most32)  # 0 also where it is no number
        low = np.floor(level + EDGE)
        starts = least if low == zero else EDGE  # below LEAST a field is looked up as it is: from there on, no sooner
        mix = max((level - low - starts) * (one / (one - EDGE - starts)), zero)
        mixes[n] = mix
        kinds[n] = np.int32(low + low) + (np.int32(1) if mix > zero else np.int32(0))
    count, n = 0, 0
    while n < len(line):
        kind, begin = kinds[n], n
        while n < len(line) and kinds[n] == kind:
            n += 1
        if kind & 1:
            for k in range(begin, n):
                for i in range(4 * k, min(4 * k + 4, columns)):
                    fractions[i] = mixes[k]
        ends[count], kinds[count] = min(4 * n, columns), kind
        count += 1
    return count


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _along(us, per, most, start, at, fractions):
    """Which column a sample lies in and how far on."""
    half, zero = np.float32(0.5), np.float32(0)
    for i in range(len(us)):
        x = clamped((us[i] + half) * per - half, zero, most)
        whole = np.int32(x)
        fractions[i] = x - np.float32(whole)
        at[i] = whole + start


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _down(vs, per, most, width, at, fractions):
    """Which row a sample lies in and how far on; completes its index."""
    half, zero = np.float32(0.5), np.float32(0)
    for i in range(len(vs)):
        y = clamped((vs[i] + half) * per - half, zero, most)
        whole = np.int32(y)
        fractions[i] = y - np.float32(whole)
        at[i] += whole * width


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _linear(flat, width, at, fx, fy, out):
    one, down = np.uint32(1), np.uint32(width)
    for i in range(len(out)):
        k = np.uint32(at[i])  # unsigned: no look whether it counts from the end
        low = k + down
        p, r = flat[k], flat[low]
        p += (flat[k + one] - p) * fx[i]
        r += (flat[low + one] - r) * fx[i]
        out[i] = p + (r - p) * fy[i]


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _linear_in(flat, width, at, fx, fy, fractions, out):
    """As `_linear`, mixed by shares into what is there."""
    one, down = np.uint32(1), np.uint32(width)
    for i in range(len(out)):
        k = np.uint32(at[i])
        low = k + down
        p, r = flat[k], flat[low]
        p += (flat[k + one] - p) * fx[i]
        r += (flat[low + one] - r) * fx[i]
        out[i] += (p + (r - p) * fy[i] - out[i]) * fractions[i]


@kernel(forceinline=True, error_model="numpy")
def _locate(level, heights, widths, starts, us, vs, at, fx, fy):
    per = np.float32(1.0 / (1 << level))
    _along(us, per, np.float32(widths[level] - 1.001), np.int32(starts[level]), at, fx)
    _down(vs, per, np.float32(heights[level] - 1.001), np.int32(widths[level]), at, fy)


@kernel(forceinline=True, error_model="numpy")
def look_up(base, smaller, heights, widths, starts, us, vs, count, ends, kinds, fractions, at, fx, fy, out):
    """Values of one row of samples at index places of the base, linear between samples and copies, the border held.

    count, ends, kinds, shares: from `runs_of`; at, fx, fy: room for a row.
    """
    a = 0
    for n in range(count):
        b, low = ends[n], kinds[n] >> 1
        _locate(low, heights, widths, starts, us[a:b], vs[a:b], at[a:b], fx[a:b], fy[a:b])
        flat = base if low == 0 else smaller
        _linear(flat, widths[low], at[a:b], fx[a:b], fy[a:b], out[a:b])
        if kinds[n] & 1:
            _locate(low + 1, heights, widths, starts, us[a:b], vs[a:b], at[a:b], fx[a:b], fy[a:b])
            _linear_in(smaller, widths[low + 1], at[a:b], fx[a:b], fy[a:b], fractions[a:b], out[a:b])
        a = b
