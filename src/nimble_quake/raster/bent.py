"""Looking at a field through a bend: every result place looks at another place, minified parts are averaged."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np
from numba import njit

from nimble_quake.conventions import Field, Warp
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.rows import run_rows

FAR = 1.0
"""How far beyond the frame, in frames, a bend may see; what lies farther shows the border."""
MOST_LEVELS = 8


def places_of(grid: Grid) -> Warp:
    """Return the shot places of a grid's samples, (2, H, W)."""
    out = np.empty((2, *grid.shape), np.float32)
    out[0] = grid.xs()
    out[1] = grid.ys()[:, None]
    return out


@njit(cache=True, nogil=True, error_model="numpy")
def _gap(plane, j, i, dj, di):  # type: ignore[no-untyped-def]
    """The smaller of the steps to the neighbours on either side: across a seam the other side counts."""
    height, width = plane.shape
    here = plane[j, i]
    on = abs(plane[j + dj, i + di] - here) if j + dj < height and i + di < width else np.float32(1e9)
    back = abs(here - plane[j - dj, i - di]) if j - dj >= 0 and i - di >= 0 else np.float32(1e9)
    return min(on, back)


@njit(cache=True, nogil=True, error_model="numpy")
def _levels(us, vs, out, first, last):  # type: ignore[no-untyped-def]
    """How much every sample is minified, as a power of two (0: not at all)."""
    for j in range(first, last):
        for i in range(us.shape[1]):
            across = max(_gap(us, j, i, 0, 1), _gap(vs, j, i, 0, 1))
            down = max(_gap(us, j, i, 1, 0), _gap(vs, j, i, 1, 0))
            most = max(across if across < 1e8 else np.float32(0), down if down < 1e8 else np.float32(0))
            out[j, i] = np.float32(math.log2(most)) if most > 1.0 else np.float32(0)


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _pyramid(flat, heights, widths, starts, us, vs, levels, out, first, last):  # type: ignore[no-untyped-def]
    """Linear between places and between levels. `flat` holds all levels one after another, (N, C)."""
    top = len(heights) - 1
    channels = flat.shape[1]
    for j in range(first, last):
        for i in range(us.shape[1]):
            level = min(levels[j, i], np.float32(top))
            low = int(level)
            share = level - np.float32(low)
            for k in range(channels):
                out[j, i, k] = np.float32(0)
            for n in range(2):
                weight = (np.float32(1) - share) if n == 0 else share
                if weight == 0:
                    continue
                at = low + n
                height, width = heights[at], widths[at]
                small = np.float32(1 << at)
                u = min(
                    max((us[j, i] + np.float32(0.5)) / small - np.float32(0.5), np.float32(0)), np.float32(width - 1)
                )
                v = min(
                    max((vs[j, i] + np.float32(0.5)) / small - np.float32(0.5), np.float32(0)), np.float32(height - 1)
                )
                x, y = int(u), int(v)
                fx, fy = u - np.float32(x), v - np.float32(y)
                x1, y1 = min(x + 1, width - 1), min(y + 1, height - 1)
                row0, row1 = starts[at] + y * width, starts[at] + y1 * width
                for k in range(channels):
                    a = flat[row0 + x, k] + (flat[row0 + x1, k] - flat[row0 + x, k]) * fx
                    b = flat[row1 + x, k] + (flat[row1 + x1, k] - flat[row1 + x, k]) * fx
                    out[j, i, k] += weight * (a + (b - a) * fy)


def at_index(field: Field, us: np.ndarray, vs: np.ndarray) -> Field:
    """Return a field (h, w, C) at index places (centres at whole numbers), the border held, minified parts averaged."""
    levels = np.empty(us.shape, np.float32)
    run_rows(_levels, us.shape[0], us, vs, levels)
    if float(levels.max(initial=0)) < 0.35:
        return _plain(field, us, vs)
    out = np.empty((*us.shape, field.shape[2]), np.float32)
    stack: list[Field] = [field]
    while len(stack) <= min(MOST_LEVELS, math.ceil(float(levels.max()))) and min(stack[-1].shape[:2]) > 1:
        h, w = stack[-1].shape[:2]
        even = cv2.copyMakeBorder(stack[-1], 0, h % 2, 0, w % 2, cv2.BORDER_REPLICATE)
        size = ((w + 1) // 2, (h + 1) // 2)
        smaller: Field = cv2.resize(even, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], -1)  # type: ignore[assignment]
        stack.append(smaller)
    flat = np.concatenate([part.reshape(-1, field.shape[2]) for part in stack])
    heights, widths = (np.array([part.shape[n] for part in stack], np.int64) for n in (0, 1))
    starts = np.cumsum([0, *(heights * widths)[:-1]]).astype(np.int64)
    run_rows(_pyramid, us.shape[0], flat, heights, widths, starts, us, vs, levels, out)
    return out


def _plain(field: Field, us: np.ndarray, vs: np.ndarray) -> Field:
    out = np.empty((*us.shape, field.shape[2]), np.float32)

    def band(first: int, last: int) -> None:
        got = cv2.remap(field, us[first:last], vs[first:last], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        out[first:last] = got.reshape(out[first:last].shape)

    run_rows(band, us.shape[0])
    return out


def sampled_at(below: Callable[[Grid], Field], grid: Grid, places: Warp, size: tuple[float, float]) -> Field:
    """Return what `below` makes, seen at places (2, H, W) of the shot; computed only where it is looked at."""
    np.nan_to_num(places, copy=False, nan=-1e6, posinf=1e6, neginf=-1e6)
    outer = needed_grid(grid, places, size)
    field = np.ascontiguousarray(below(outer))
    us = (places[0] - np.float32(outer.x0)) * np.float32(outer.scale) - np.float32(0.5)
    vs = (places[1] - np.float32(outer.y0)) * np.float32(outer.scale) - np.float32(0.5)
    return at_index(field, us, vs)


def needed_grid(grid: Grid, places: Warp, size: tuple[float, float]) -> Grid:
    """Return the part of the plane that places look at, in step with `grid`, held to FAR frames round the frame."""
    step = grid.step
    ends = []
    for plane, start, side in ((places[0], grid.x0, size[0]), (places[1], grid.y0, size[1])):
        room = side * FAR
        low = min(max(float(plane.min()), -room), side + room)
        high = min(max(float(plane.max()), -room), side + room)
        first = math.floor((low - start) / step - 1.5)
        ends.append((start + first * step, max(2, math.ceil((high - start) / step + 1.5) - first)))
    return Grid(ends[0][0], ends[1][0], ends[0][1], ends[1][1], grid.scale)
