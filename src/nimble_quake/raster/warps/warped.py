"""Looking at a field through a bend: every result place looks at another place, minified parts are averaged."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TypeAlias

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.powers import log2_row
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.sampling.pyramid import LEAST, look_up, pyramid, runs_of
from nimble_quake.raster.threads.rows import run_rows
from nimble_quake.raster.warps.operations import Bend, bent, indices_of, levels_of, seen_through, table_of

FAR = 1.0
"""How far beyond the frame, in frames, a bend may see; what lies farther shows the border."""
PAD = 4
"""Samples round a grid whose places are known too, so that a border is averaged as if it were none."""
ALIGNED = 16
MOST_BENEATH = 24_000_000
"""So many samples beneath a bend are computed at the result's own scale; where it looks at more, at a coarser one."""
SEAM = np.float32(4.0)
"""A jump by more than so many steps is a seam, not a slope."""

Plane: TypeAlias = NDArray[np.float32]


def places_of(grid: Grid) -> Warp:
    """Return the shot places of a grid's samples and of PAD more on every side, (2, H + 2 PAD, W + 2 PAD)."""
    wide = grid.grown(PAD)
    out = np.empty((2, *wide.shape), np.float32)
    out[0] = wide.xs()
    out[1] = wide.ys()[:, None]
    return out


@kernel(error_model="numpy")
def _gap(plane, j, i, dj, di):
    """The larger of the steps to the neighbours on either side; across a seam, where one jumps, the other counts."""
    height, width = plane.shape
    here = plane[j, i]
    on = abs(plane[j + dj, i + di] - here) if j + dj < height and i + di < width else np.float32(-1)
    back = abs(here - plane[j - dj, i - di]) if j - dj >= 0 and i - di >= 0 else np.float32(-1)
    if min(on, back) < 0:
        return max(on, back, np.float32(0))
    return min(on, back) if max(on, back) > 8 * min(on, back) + 8 * SEAM else max(on, back)


@kernel(error_model="numpy")
def _levels(us, vs, scale, out, first, last):
    """How much samples are minified, as a power of two (0: not at all); looked at once every 4 x 4 samples."""
    height, width = us.shape
    room = np.empty(out.shape[1], np.float32)
    for j in range(first, last):
        y = min(4 * j + 1, height - 1)
        for i in range(out.shape[1]):
            x = min(4 * i + 1, width - 1)
            across = max(_gap(us, y, x, 0, 1), _gap(vs, y, x, 0, 1))
            down = max(_gap(us, y, x, 1, 0), _gap(vs, y, x, 1, 0))
            out[j, i] = max(max(across, down) * scale, np.float32(1))
        log2_row(out[j], room)


@kernel(error_model="numpy")
def _looked_up(us, vs, levels, base, smaller, heights, widths, starts, out, first, last):
    columns, blocks = out.shape[1], levels.shape[1]
    room, at, mixes = np.empty((3, columns), np.float32), np.empty(columns, np.int32), np.empty(blocks, np.float32)
    fx, fy, fractions = room[0], room[1], room[2]
    ends, kinds, count = np.empty(blocks, np.int32), np.empty(blocks, np.int32), 0
    for j in range(first, last):
        if j == first or j & 3 == 0:
            count = runs_of(levels[j >> 2], len(heights) - 1, columns, ends, kinds, mixes, fractions)
        look_up(base, smaller, heights, widths, starts, us[j], vs[j], count, ends, kinds, fractions, at, fx, fy, out[j])


def minified(us: Plane, vs: Plane, scale: float) -> Plane:
    """Return by what power of two parts of 4 x 4 samples are minified, where places times `scale` are in samples."""
    levels = np.empty((-(-us.shape[0] // 4), -(-us.shape[1] // 4)), np.float32)
    run_rows(_levels, levels.shape[0], us, vs, np.float32(scale), levels)
    return levels


def at_index(field: Field, us: Plane, vs: Plane, levels: Plane | None = None) -> Field:
    """Return a field (h, w, C) at index places (centres at whole numbers), the border held, minified parts averaged."""
    if levels is None:
        levels = minified(us, vs, 1.0)
    if field.shape[2] > 1 and float(levels.max(initial=0)) < LEAST:
        return plainly(field, us, vs)
    planes = [_plane_at(np.ascontiguousarray(field[..., k]), us, vs, levels) for k in range(field.shape[2])]
    return planes[0][..., None] if len(planes) == 1 else np.stack(planes, axis=2)


def _plane_at(plane: Plane, us: Plane, vs: Plane, levels: Plane) -> Plane:
    out = np.empty(us.shape, np.float32)
    run_rows(_looked_up, us.shape[0], us, vs, levels, *pyramid(plane, float(levels.max(initial=0))), out)
    return out


def plainly(field: Field, us: Plane, vs: Plane) -> Field:
    """Return a field at index places, linear between samples, the border held; nothing is averaged."""
    if field.shape[2] == 1:
        nowhere = np.zeros((-(-us.shape[0] // 4), -(-us.shape[1] // 4)), np.float32)
        return _plane_at(field[..., 0], us, vs, nowhere)[..., None]
    out = np.empty((*us.shape, field.shape[2]), np.float32)

    def band(first: int, last: int) -> None:
        cv2.remap(field, us[first:last], vs[first:last], cv2.INTER_LINEAR, out[first:last], cv2.BORDER_REPLICATE)

    run_rows(band, us.shape[0])
    return out


@kernel(error_model="numpy")
def _ends(places, size, rooms, out, first, last):
    """Hold places to some room round the frame, take away what is no number, and note each row's ends."""
    for axis in range(2):
        room = np.float32(rooms[axis])
        low, high = -room, np.float32(size[axis]) + room
        for j in range(first, last):
            least, most = high, low
            row = places[axis, j]
            for i in range(len(row)):
                v = row[i]
                v = v if v >= low else low  # also where it is no number
                v = high if v > high else v
                row[i] = v
                least, most = min(least, v), max(most, v)
            out[axis, 0, j], out[axis, 1, j] = least, most


@kernel()
def _to_index(places, x0, y0, scale, us, vs, first, last):
    x32, y32, s32, half = np.float32(x0), np.float32(y0), np.float32(scale), np.float32(0.5)
    for j in range(first, last):
        row_u, row_v, xs, ys = us[j], vs[j], places[0, j], places[1, j]
        for i in range(len(row_u)):
            row_u[i] = (xs[i] - x32) * s32 - half
            row_v[i] = (ys[i] - y32) * s32 - half


def sampled_at(
    below: Callable[[Grid], Field], grid: Grid, places: Warp, size: tuple[float, float], far: float = FAR
) -> Field:
    """Return what `below` makes, seen at places of the shot, padded as `places_of` makes them; they are used up.

    Computed only where it is looked at, no more than `far` frames beyond the frame; there the border goes on.
    """
    levels = minified(places[0], places[1], grid.scale)[1:, 1:]
    ends = np.empty((2, 2, grid.height + 2 * PAD), np.float32)
    room = [side * far if far > 0 else -0.5 * grid.step for side in size]  # the border is its last sample
    run_rows(_ends, ends.shape[2], places, (float(size[0]), float(size[1])), (room[0], room[1]), ends)
    ends, places = ends[..., PAD:-PAD], places[:, PAD:-PAD, PAD:-PAD]
    levels = np.ascontiguousarray(levels[: -(-grid.height // 4), : -(-grid.width // 4)])
    coarsest = float(levels.max())
    around = 2.0 ** math.ceil(coarsest) if coarsest > LEAST else 1.0  # samples that its coarsest copy averages
    outer = needed_grid(grid, ends, size, around) if far > 0 else frame_grid(*size, grid.scale)
    least = math.floor(float(levels.min()))
    if least > 0 and outer.width * outer.height > MOST_BENEATH:
        # A coarser grid holds less fine detail, so the result steps where one comes in: only where memory asks for it.
        levels -= np.float32(least)
        coarser = Grid(0.0, 0.0, grid.width, grid.height, grid.scale / 2**least)
        outer = needed_grid(coarser, ends, size, around / 2**least)
    field = np.ascontiguousarray(below(outer))
    us, vs = np.empty(grid.shape, np.float32), np.empty(grid.shape, np.float32)
    run_rows(_to_index, grid.height, places, outer.x0, outer.y0, outer.scale, us, vs)
    return at_index(field, us, vs, levels)


def needed_grid(grid: Grid, ends: NDArray[np.float32], size: tuple[float, float], around: float = 1.0) -> Grid:
    """Return the part of the plane that is looked at, in step with `grid`, and `around` samples more on every side.

    ends: (2, 2, H) least and most x and y of every row. Where most of the frame is needed and nothing beyond it, the
    frame itself, whose values are likely to be there already.
    """
    step, found = grid.step, []
    for axis, start in ((0, grid.x0), (1, grid.y0)):
        low, high = float(ends[axis, 0].min()), float(ends[axis, 1].max())
        room = 0.5 + (around if around > 1 else 1.0)
        first = math.floor((low - start) / step - room)
        first -= (round(start / step) + first) % ALIGNED  # so that coarser levels average the same samples everywhere
        found.append((start + first * step, max(2, math.ceil((high - start) / step + room) - first)))
    outer = Grid(found[0][0], found[1][0], found[0][1], found[1][1], grid.scale)
    whole = frame_grid(*size, grid.scale)
    half = (0.4999 if around <= 1 else around) * step
    inside = all(ends[axis, 0].min() >= half and ends[axis, 1].max() <= size[axis] - half for axis in (0, 1))
    if inside and outer.width * outer.height > 0.3 * whole.width * whole.height:
        return whole
    return outer


def sampled_through(
    below: Callable[[Grid], Field], grid: Grid, bends: tuple[Bend, ...], size: tuple[float, float], far: float = FAR
) -> Field:
    """Return what `below` makes, seen through bends. Beyond `far` frames round the frame the border goes on.

    Where nothing beyond the frame is seen, places are made and held in one pass, and the whole frame lies beneath.
    """
    if far > 0:
        return sampled_at(below, grid, bent(places_of(grid), bends), size, far)
    table, levels = table_of(bends), levels_of(grid, bends)
    outer = frame_grid(*size, grid.scale)
    half = 0.5 * grid.step
    field, ends = np.ascontiguousarray(below(outer)), (half, size[0] - half, half, size[1] - half)
    if field.shape[2] == 1:
        return seen_through(field[..., 0], grid, table, levels, ends, outer)[..., None]
    us, vs = indices_of(grid, table, ends, outer)
    return at_index(field, us, vs, levels)
