"""Bends: where a place looks, as simple operations run one after another on a row of places.

An operation is (code, numbers). A row of places goes through all of them while it is in the fastest memory; several
bends of a recipe are then one pass, and the picture is sampled once.

AFFINE       a b c d e f                      x, y -> a x + b y + c, d x + e y + f
TO_RINGS     cx cy width per turn mirror      a ring picture's place -> its place in the flat one (geometry.polar)
FROM_RINGS   cx cy width per turn             the flat picture's place -> its place in the ring picture
TILE         width height wide high dx dy mirror    small copies side by side
PERSPECTIVE  a b c d e f g h k width height rule    a homography; rule 0 held, 1 repeated, 2 mirrored; far: behind
SWIRL        cx cy radius turn pinch rule     turned round a centre, most there; rule 1: falling off for ever
FOLDS        cx cy each sector spin           a sector mirrored round a centre
BRICKS       wide high power round stagger    every brick shows more than itself
BULGE        cx cy radius amount soft         seen through a lens inside a radius (below 0: pinched)
POLYNOMIAL   cx cy radius k1 k2 k3            Brown's radial polynomial of the distance, in radii
WAVE         nx ny per phase dx dy form       a wave along n shifts by d; form 0 sine, 1 triangle, 2 square
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.powers import log2_row
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.polar import turn_of
from nimble_quake.raster.sampling.pyramid import look_up, pyramid, runs_of
from nimble_quake.raster.threads.rows import run_rows
from nimble_quake.raster.warps.lenses import bulge, polynomial, swirl_fast, wave

AFFINE, TO_RINGS, FROM_RINGS, TILE, PERSPECTIVE, SWIRL, FOLDS, BRICKS, BULGE, POLYNOMIAL, WAVE = range(11)
NO_WARP = np.zeros((2, 0, 0), np.float32)
FAR = np.float32(1e6)
"""Where places behind the horizon look."""

Bend: TypeAlias = tuple[int, tuple[float, ...]]
Table: TypeAlias = tuple[NDArray[np.int64], NDArray[np.float32]]


def table_of(bends: tuple[Bend, ...]) -> Table:
    """Return operations as arrays: codes (N,) and their numbers (N, 12)."""
    numbers = np.zeros((len(bends), 12), np.float32)
    for n, (_, values) in enumerate(bends):
        numbers[n, : len(values)] = values
    return np.array([code for code, _ in bends], np.int64), numbers


@kernel(error_model="numpy", fastmath={"contract"})
def _affine(xs, ys, k):
    a, b, c, d, e, f = k[0], k[1], k[2], k[3], k[4], k[5]
    for i in range(len(xs)):
        x, y = xs[i], ys[i]
        xs[i] = a * x + b * y + c
        ys[i] = d * x + e * y + f


@kernel(error_model="numpy", fastmath={"contract"})
def _to_rings(xs, ys, k):
    cx, cy, width, per, one, two = k[0], k[1], k[2], k[3], np.float32(1), np.float32(2)
    seam = np.float32(0.75) - k[4]
    mirror = k[5] > 0
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        fraction = turn_of(y, x) + seam
        fraction -= np.floor(fraction)
        if mirror:
            fraction = one - abs(two * fraction - one)
        xs[i] = fraction * width
        ys[i] = np.sqrt(x * x + y * y) * per


@kernel(error_model="numpy")
def _from_rings(xs, ys, k):
    cx, cy, width, per, turn = k[0], k[1], k[2], k[3], k[4]
    for i in range(len(xs)):
        angle = (xs[i] / width - np.float32(0.75) + turn) * np.float32(2.0 * math.pi)
        away = ys[i] * per
        xs[i] = np.float32(math.cos(angle)) * away + cx
        ys[i] = np.float32(math.sin(angle)) * away + cy


@kernel(error_model="numpy", fastmath={"contract"})
def _tiled(xs, side, each, away, mirror):
    per, one, two = np.float32(1) / each, np.float32(1), np.float32(2)
    for i in range(len(xs)):
        t = (xs[i] - away) * per
        if mirror:  # there and back over two copies
            t = t - two * np.floor(t * np.float32(0.5))
            t = one - abs(t - one)
        else:
            t -= np.floor(t)
        xs[i] = t * side


@kernel(error_model="numpy", fastmath={"contract"})
def _perspective(xs, ys, k):
    a, b, c, d, e, f, g, h, m = k[0], k[1], k[2], k[3], k[4], k[5], k[6], k[7], k[8]
    least = np.float32(1e-9)
    for i in range(len(xs)):
        x, y = xs[i], ys[i]
        depth = g * x + h * y + m
        per = np.float32(1) / max(depth, least)
        ahead = depth > least
        xs[i] = (a * x + b * y + c) * per if ahead else -FAR
        ys[i] = (d * x + e * y + f) * per if ahead else -FAR
    if k[11] > 0:
        _again(xs, k[9], k[11] > 1)
        _again(ys, k[10], k[11] > 1)


@kernel(error_model="numpy", fastmath={"contract"})
def _again(row, side, mirror):
    """Repeat or mirror what lies outside 0...side; what is behind the horizon stays there."""
    for i in range(len(row)):
        p = min(max(row[i], -FAR), FAR)
        if mirror:
            q = p - np.float32(2) * side * np.floor(p / (np.float32(2) * side))
            q = side - abs(q - side)
        else:
            q = p - side * np.floor(p / side)
        row[i] = q if p > -FAR else p


@kernel(error_model="numpy")
def _swirl(xs, ys, k):
    cx, cy, per, turn, pinch = k[0], k[1], np.float32(1) / k[2], k[3], k[4]
    endless, fall = k[5] == 1, np.float32(-5.0 / math.log(2.0))
    if k[5] > 1:
        swirl_fast(xs, ys, k)
        return
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        away = np.sqrt(x * x + y * y) * per
        if endless:
            fraction = np.float32(math.exp(away * fall))
            angle, grow = -turn * fraction, np.float32(1) + pinch * fraction
            c, s = np.float32(math.cos(angle)) * grow, np.float32(math.sin(angle)) * grow
            xs[i] = x * c - y * s + cx
            ys[i] = x * s + y * c + cy
            continue
        fraction = np.float32(1) - away
        if fraction <= 0:
            continue
        fraction *= fraction * (np.float32(3) - np.float32(2) * fraction)
        angle, grow = -turn * fraction, np.float32(1) + pinch * fraction
        c, s = np.float32(math.cos(angle)) * grow, np.float32(math.sin(angle)) * grow
        xs[i] = x * c - y * s + cx
        ys[i] = x * s + y * c + cy


@kernel(error_model="numpy")
def _folds(xs, ys, k):
    cx, cy, each, sector, spin = k[0], k[1], k[2], k[3], k[4]
    full = np.float32(2.0 * math.pi)
    for i in range(len(xs)):
        x, y = xs[i] - cx, ys[i] - cy
        radius = np.sqrt(x * x + y * y)
        angle = turn_of(y, x) * full - spin
        two = np.float32(2) * each
        folded = abs(angle - two * np.floor(angle / two) - each) + sector
        xs[i] = radius * np.float32(math.cos(folded)) + cx
        ys[i] = radius * np.float32(math.sin(folded)) + cy


@kernel(error_model="numpy", fastmath={"contract"})
def _bricks(xs, ys, k):
    wide, high, power, bulge, stagger = k[0], k[1], k[2], k[3], k[4] > 0
    one, two, half = np.float32(1), np.float32(2), np.float32(0.5)
    for i in range(len(xs)):
        row = np.floor(ys[i] / high)
        shift = (row - two * np.floor(row * half)) * half * wide if stagger else np.float32(0)
        u, v = (xs[i] - shift) / wide, ys[i] / high
        p, q = two * (u - np.floor(u)) - one, two * (v - np.floor(v)) - one
        xs[i] += (p * (one - bulge) + p * p * p * bulge) * half * wide * power
        ys[i] += (q * (one - bulge) + q * q * q * bulge) * half * high * power


@kernel(error_model="numpy")
def _all(xs, ys, codes, numbers):
    for n in range(len(codes)):
        code, k = codes[n], numbers[n]
        if code == 0:
            _affine(xs, ys, k)
        elif code == 1:
            _to_rings(xs, ys, k)
        elif code == 2:
            _from_rings(xs, ys, k)
        elif code == 3:
            _tiled(xs, k[0], k[2], k[4], k[6] > 0)
            _tiled(ys, k[1], k[3], k[5], k[6] > 0)
        elif code == 4:
            _perspective(xs, ys, k)
        elif code == 5:
            _swirl(xs, ys, k)
        elif code == 6:
            _folds(xs, ys, k)
        elif code == 7:
            _bricks(xs, ys, k)
        elif code == 8:
            bulge(xs, ys, k)
        elif code == 9:
            polynomial(xs, ys, k)
        else:
            wave(xs, ys, k)


def placed(about: tuple[float, float], move: tuple[float, float], degrees: float, across: float, down: float) -> Bend:
    """Return the bend of a picture scaled (below 0: flipped), turned clockwise about a place, and moved."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = about
    dx, dy = x + move[0], y + move[1]
    a, b, d, e = c / across, s / across, -s / down, c / down
    return AFFINE, (a, b, x - a * dx - b * dy, d, e, y - d * dx - e * dy)


def rolled(
    centre: tuple[float, float], radius: float, turn: float, size: tuple[float, float], *, mirror: bool = False
) -> Bend:
    """Return the bend into rings: across is the angle from straight up, clockwise, down the distance.

    radius: where the lower border comes to lie; turn: how far the seam is turned, in turns; mirror: half round and
    back, so that no seam is seen.
    """
    return TO_RINGS, (*centre, size[0], size[1] / max(radius, 1e-6), turn - 0.5, float(mirror))


def unrolled(centre: tuple[float, float], radius: float, turn: float, size: tuple[float, float]) -> Bend:
    """Return the bend out of rings: the inverse of `rolled`."""
    return FROM_RINGS, (*centre, size[0], radius / size[1], turn - 0.5)


@kernel(error_model="numpy")
def _bend(places, codes, numbers, first, last):
    for j in range(first, last):
        _all(places[0, j], places[1, j], codes, numbers)


def bent(places: Warp, bends: tuple[Bend, ...]) -> Warp:
    """Return where places (2, H, W), shot pixels, look after the operations; in place."""
    run_rows(_bend, places.shape[1], places, *table_of(bends))
    return places


@kernel(error_model="numpy")
def _bent_offsets(warp, warped, x0, y0, step, codes, numbers, out, first, last):
    columns = out.shape[2]
    begin, step32 = np.float32(x0 + 0.5 * step), np.float32(step)
    for j in range(first, last):
        xs, ys, y = out[0, j], out[1, j], np.float32(y0 + (j + 0.5) * step)
        for i in range(columns):
            xs[i] = begin + np.float32(i) * step32
            ys[i] = y
        if warped:
            for i in range(columns):
                xs[i] += warp[0, j, i]
                ys[i] += warp[1, j, i]
        _all(xs, ys, codes, numbers)
        for i in range(columns):
            xs[i] -= begin + np.float32(i) * step32
            ys[i] -= y


def bent_offsets(grid: Grid, warp: Warp | None, bends: tuple[Bend, ...]) -> Warp:
    """Return how far the samples of a grid look, (2, H, W) shot pixels, after a warp and then some operations."""
    out = np.empty((2, *grid.shape), np.float32)
    moves = NO_WARP if warp is None else warp
    run_rows(
        _bent_offsets,
        grid.height,
        moves,
        warp is not None,
        float(grid.x0),
        float(grid.y0),
        grid.step,
        *table_of(bends),
        out,
    )
    return out


@kernel(forceinline=True, error_model="numpy")
def _index_row(x0, y, step, codes, numbers, ends, into, xs, ys):
    """Index places in another grid of a row's bent samples, held inside `ends` (x low, high, y low, high)."""
    begin, step32, half = np.float32(x0 + 0.5 * step), np.float32(step), np.float32(0.5)
    left, top, scale = np.float32(into[0]), np.float32(into[1]), np.float32(into[2])
    low_x, high_x, low_y, high_y = np.float32(ends[0]), np.float32(ends[1]), np.float32(ends[2]), np.float32(ends[3])
    for i in range(len(xs)):
        xs[i] = begin + np.float32(i) * step32
        ys[i] = y
    _all(xs, ys, codes, numbers)
    for i in range(len(xs)):
        x = xs[i] if xs[i] >= low_x else low_x  # also where it is no number
        z = ys[i] if ys[i] >= low_y else low_y
        xs[i] = (min(x, high_x) - left) * scale - half
        ys[i] = (min(z, high_y) - top) * scale - half


@kernel(error_model="numpy")
def _indices(x0, y0, step, codes, numbers, ends, into, us, vs, first, last):
    for j in range(first, last):
        _index_row(x0, np.float32(y0 + (j + 0.5) * step), step, codes, numbers, ends, into, us[j], vs[j])


@kernel(error_model="numpy")
def _seen(x0, y0, step, codes, numbers, ends, into, levels, base, smaller, heights, widths, starts, out, first, last):
    """Bend and look up, row by row: the places never reach slow memory."""
    columns, blocks = out.shape[1], levels.shape[1]
    room, at, mixes = np.empty((5, columns), np.float32), np.empty(columns, np.int32), np.empty(blocks, np.float32)
    xs, ys, fx, fy, fractions = room[0], room[1], room[2], room[3], room[4]
    runs, kinds, count = np.empty(blocks, np.int32), np.empty(blocks, np.int32), 0
    for j in range(first, last):
        if j == first or j & 3 == 0:
            count = runs_of(levels[j >> 2], len(heights) - 1, columns, runs, kinds, mixes, fractions)
        _index_row(x0, np.float32(y0 + (j + 0.5) * step), step, codes, numbers, ends, into, xs, ys)
        look_up(base, smaller, heights, widths, starts, xs, ys, count, runs, kinds, fractions, at, fx, fy, out[j])


@kernel(error_model="numpy", inline="always")
def _wider(here, on, back):
    """The larger of two steps, save across a seam, where the smaller counts."""
    a, b = abs(on - here), abs(here - back)
    small, large = min(a, b), max(a, b)
    return small if large > np.float32(8) * small + np.float32(32) else large


@kernel(error_model="numpy")
def _levels(x0, y0, step, codes, numbers, scale, levels, first, last):
    """How much every part of 4 x 4 samples is made smaller, as a power of two, seen at one sample of it."""
    width = levels.shape[1]
    xs, ys, room = np.zeros((5, width), np.float32), np.zeros((5, width), np.float32), np.empty(width, np.float32)
    for j in range(first, last):
        for n in range(5):
            dx, dy = (1 if n == 1 else -1 if n == 2 else 0), (1 if n == 3 else -1 if n == 4 else 0)
            y = np.float32(y0 + (4 * j + 1.5 + dy) * step)
            for i in range(width):
                xs[n, i] = np.float32(x0 + (4 * i + 1.5 + dx) * step)
                ys[n, i] = y
            _all(xs[n], ys[n], codes, numbers)
        for i in range(width):
            across = max(_wider(xs[0, i], xs[1, i], xs[2, i]), _wider(ys[0, i], ys[1, i], ys[2, i]))
            down = max(_wider(xs[0, i], xs[3, i], xs[4, i]), _wider(ys[0, i], ys[3, i], ys[4, i]))
            levels[j, i] = max(max(across, down) * np.float32(scale), np.float32(1))
        log2_row(levels[j], room)


def _where(grid: Grid) -> tuple[float, float, float]:
    return float(grid.x0), float(grid.y0), float(grid.step)


@lru_cache(maxsize=8)
def levels_of(grid: Grid, bends: tuple[Bend, ...]) -> NDArray[np.float32]:
    """Return by what power of two parts of 4 x 4 samples are made smaller, (H / 4, W / 4) rounded up.

    Do not write to it. Remembered: while a map moves behind bends that stand still, as is usual, they are found once.
    """
    levels = np.empty((-(-grid.height // 4), -(-grid.width // 4)), np.float32)
    run_rows(_levels, levels.shape[0], *_where(grid), *table_of(bends), float(grid.scale), levels)
    return levels


def seen_through(
    plane: NDArray[np.float32],
    grid: Grid,
    table: Table,
    levels: NDArray[np.float32],
    ends: tuple[float, float, float, float],
    into: Grid,
) -> NDArray[np.float32]:
    """Return a plane on `into` at the bent samples of a grid, (H, W), each looked at no farther out than `ends`."""
    out = np.empty(grid.shape, np.float32)
    where = (float(into.x0), float(into.y0), float(into.scale))
    copies = pyramid(plane, float(levels.max()))
    run_rows(_seen, grid.height, *_where(grid), *table, ends, where, levels, *copies, out)
    return out


def indices_of(
    grid: Grid, table: Table, ends: tuple[float, float, float, float], into: Grid
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return the index places in `into` of a grid's bent samples, each (H, W), held inside `ends`."""
    us, vs = np.empty(grid.shape, np.float32), np.empty(grid.shape, np.float32)
    where = (float(into.x0), float(into.y0), float(into.scale))
    run_rows(_indices, grid.height, *_where(grid), *table, ends, where, us, vs)
    return us, vs
