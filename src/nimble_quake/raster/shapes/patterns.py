"""Repeating patterns, computed at every sample with edges averaged over the sample's width.

A pattern lives in cells: a place has coordinates (u, v), one unit a cell. `w` and `h` are a sample's width and height
in cells, or more where edges are to be soft: everything is the mean over that width, exactly where a formula exists.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Affine, Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.distances import length
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.polar import turn_of
from nimble_quake.raster.noise.gradient_noise import lattice
from nimble_quake.raster.threads.rows import run_rows

PATTERNS = (
    "stripes",
    "checker",
    "grid",
    "dots",
    "scales",
    "arcs",
    "leaves",
    "loops",
    "hexagons",
    "bricks",
    "rays",
    "waves",
    "nested",
    "circles",
)
NESTED = 4
"""How many outlines lie within each other in a cell."""
PROFILES = ("ramp", "round", "both")


@kernel(inline="always")
def duty(p, fraction, w):
    """The mean over p - w/2...p + w/2 of a train that is 1 where its fraction is under `share`."""
    a, b = p - 0.5 * w, p + 0.5 * w
    fa, fb = math.floor(a), math.floor(b)
    return ((fb - fa) * fraction + min(b - fb, fraction) - min(a - fa, fraction)) / w


@kernel(inline="always")
def under(d, w):
    """How much of a sample lies on the negative side of an edge at distance d."""
    return min(max(0.5 - d / w, 0.0), 1.0)


@kernel(inline="always")
def _arc(u, v, i, j, fraction, w, kind, perm):
    """Quarter-arc tiles (Smith, 1987): two arcs that join the middles of neighbouring sides, turned by chance."""
    x, y = u - i, v - j
    if perm[perm[i & 255] + (j & 255)] & 1:
        x = 1.0 - x
    near = min(length(x, y), length(1.0 - x, 1.0 - y))
    if kind == 0:
        return under(abs(near - 0.5) - 0.5 * fraction, w)
    if kind == 1:  # what lies inside the arcs, swapped from tile to tile so that regions join
        inside = under(near - 0.5, w)
        swap = (i + j + (perm[perm[i & 255] + (j & 255)] & 1)) & 1
        return 1.0 - inside if swap else inside
    rings = 0.0
    for n in range(1, 4):
        rings = max(rings, under(abs(near - n / 4.0) - 0.125 * fraction, w))
    return rings


@kernel(inline="always")
def _scale(u, v, w):
    """Round scales in rows, each over the one below, darker towards its rim."""
    row = math.floor(2.0 * v)
    value = 0.0
    for n in range(2):
        r = row + n
        off = 0.5 * (int(r) & 1)
        x = u - off - math.floor(u - off) - 0.5
        y = v - 0.5 * r
        d = length(x, y)
        part = under(d - 0.5, w)
        if n == 0:
            value = part
            shade = 1.0 - 1.6 * d
        else:
            shade = value * shade + (1.0 - value) * (1.0 - 1.6 * d)
    return min(max(shade, 0.0), 1.0)


@kernel(inline="always")
def _hexagon(u, v, fraction, w):
    s = 1.7320508
    ax, ay = u - math.floor(u + 0.5), v - s * math.floor(v / s + 0.5)
    bx, by = u - 0.5 - math.floor(u), v - 0.5 * s - s * math.floor(v / s)
    if ax * ax + ay * ay > bx * bx + by * by:
        ax, ay = bx, by
    ax, ay = abs(ax), abs(ay)
    return under(max(0.5 * ax + 0.8660254 * ay, ax) - 0.5 * fraction, w)


@kernel(inline="always")
def _nested(x, y, fraction, w, is_round):
    """Outlines within outlines, `NESTED` of them, from a cell's rim inwards: squares, or circles."""
    far = length(x, y) if is_round else max(abs(x), abs(y))
    return duty(2.0 * NESTED * (0.5 - far), fraction, 2.0 * NESTED * w) * under(far - 0.5, w)


@kernel(inline="always")
def _tile(kind, u, v, w, h, part_x, part_y, perm):
    if kind == 0:
        return duty(u, part_x, w)
    if kind == 1:
        return 0.5 - 0.5 * (2.0 * duty(0.5 * u, 0.5, 0.5 * w) - 1.0) * (2.0 * duty(0.5 * v, 0.5, 0.5 * h) - 1.0)
    if kind == 2:
        return 1.0 - (1.0 - duty(u + 0.5 * part_x, part_x, w)) * (1.0 - duty(v + 0.5 * part_y, part_y, h))
    if kind == 3:
        x, y = u - math.floor(u) - 0.5, v - math.floor(v) - 0.5
        return under(length(x, y) - 0.5 * part_x, w)
    if kind == 4:
        return _scale(u, v, w)
    if kind <= 7:
        return _arc(u, v, int(math.floor(u)), int(math.floor(v)), part_x, w, kind - 5, perm)
    if kind == 8:
        return _hexagon(u, v, part_x, w)
    if kind == 9:
        row = math.floor(v + 0.5 * part_y)
        seam = duty(u + 0.5 * (int(row) & 1) + 0.5 * part_x, part_x, w)
        return (1.0 - seam) * (1.0 - duty(v + 0.5 * part_y, part_y, h))
    if kind >= 12:
        return _nested(u - math.floor(u) - 0.5, v - math.floor(v) - 0.5, part_x, w, kind == 13)
    # waves: the mean of a sine over the sample's width
    x = u + 0.25 * math.sin(2.0 * math.pi * v)
    fade = math.sin(math.pi * w) / (math.pi * w) if w < 1.0 else 0.0
    return 0.5 + 0.5 * math.sin(2.0 * math.pi * x) * fade


@kernel(error_model="numpy")
def _pattern(kind, m, x0, y0, step, w, h, part_x, part_y, perm, out, first, last):
    a, b, c, d, e, f = m
    for j in range(first, last):
        y = y0 + (j + 0.5) * step
        u, v = a * (x0 + 0.5 * step) + b * y + c, d * (x0 + 0.5 * step) + e * y + f
        du, dv = a * step, d * step
        for i in range(out.shape[1]):
            out[j, i, 0] = _tile(kind, u + i * du, v + i * dv, w, h, part_x, part_y, perm)


@kernel(error_model="numpy", fastmath={"contract"}, inline="always")
def _train(p, fraction, w, per):
    """`duty`, in float32; per: 1 / w."""
    half = np.float32(0.5) * w
    a, b = p - half, p + half
    fa, fb = np.floor(a), np.floor(b)
    return ((fb - fa) * fraction + min(b - fb, fraction) - min(a - fa, fraction)) * per


@kernel(error_model="numpy", fastmath={"contract"})
def _rays(cx, cy, x0, y0, step, count, turn, soft, fraction, out, first, last):
    one, count32, soft32, share32 = np.float32(1), np.float32(count), np.float32(soft), np.float32(fraction)
    begin, step32, least = np.float32(turn + 1.0), np.float32(step), np.float32(0.3 * step)
    left, wide = np.float32(x0 + 0.5 * step - cx), np.float32(step * count / (2.0 * math.pi))
    for j in range(first, last):
        y = np.float32(y0 + (j + 0.5) * step - cy)
        row = out[j]
        for i in range(len(row)):
            x = left + np.float32(i) * step32
            r = max(np.sqrt(x * x + y * y), least)
            w = max(wide / r, soft32)
            row[i] = _train((turn_of(y, x) + begin) * count32, share32, w, one / w)


@kernel(error_model="numpy", fastmath={"contract"})
def _hexagons(m, x0, y0, step, w, fraction, out, first, last):
    a, b, c, d, e, f = m
    s, half, zero, one = np.float32(1.7320508), np.float32(0.5), np.float32(0), np.float32(1)
    du, dv, per, size = np.float32(a * step), np.float32(d * step), np.float32(1.0 / w), np.float32(0.5 * fraction)
    back, slant = np.float32(1.0 / 1.7320508), np.float32(0.8660254)
    for j in range(first, last):
        y = y0 + (j + 0.5) * step
        u0, v0 = np.float32(a * (x0 + 0.5 * step) + b * y + c), np.float32(d * (x0 + 0.5 * step) + e * y + f)
        row = out[j]
        for i in range(len(row)):
            u, v = u0 + np.float32(i) * du, v0 + np.float32(i) * dv
            ax, ay = u - np.floor(u + half), v - s * np.floor(v * back + half)
            bx, by = u - half - np.floor(u), v - half * s - s * np.floor(v * back)
            near = ax * ax + ay * ay <= bx * bx + by * by
            x, z = abs(ax if near else bx), abs(ay if near else by)
            away = max(half * x + slant * z, x) - size
            row[i] = min(max(half - away * per, zero), one)


@kernel(error_model="numpy")
def _ringed(kind, cx, cy, x0, y0, step, count, turn, per, grown, soft, part_x, part_y, perm, out, first, last):
    """The same round a centre: u goes round, `count` cells a turn, v outwards, `per` shot pixels a cell."""
    for j in range(first, last):
        y = y0 + (j + 0.5) * step - cy
        for i in range(out.shape[1]):
            x = x0 + (i + 0.5) * step - cx
            r = math.sqrt(x * x + y * y)
            u = (turn_of(np.float32(y), np.float32(x)) + turn + 1.0) * count
            w = max(step * count / (2.0 * math.pi * max(r, 0.3 * step)), soft)
            out[j, i, 0] = _tile(kind, u, r / per - grown, w, max(step / per, soft), part_x, part_y, perm)


def pattern(grid: Grid, kind: str, to_cells: Affine, soft: float, fractions: tuple[float, float], seed: int) -> Field:
    """Return a pattern, (H, W, 1) of 0...1. to_cells: shot place -> cell place; soft: width of edges, in cells."""
    out = np.empty((*grid.shape, 1), np.float32)
    w = max(math.hypot(to_cells[0], to_cells[1]) * grid.step, soft, 1e-9)
    h = max(math.hypot(to_cells[3], to_cells[4]) * grid.step, soft, 1e-9)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    if kind == "hexagons":
        run_rows(_hexagons, grid.height, to_cells, *where, w, fractions[0], out.reshape(grid.shape))
        return out
    run_rows(_pattern, grid.height, PATTERNS.index(kind), to_cells, *where, w, h, *fractions, lattice(seed), out)
    return out


def ringed_pattern(
    grid: Grid,
    kind: str,
    centre: tuple[float, float],
    count: int,
    turn: float,
    per: float,
    grown: float,
    soft: float,
    fractions: tuple[float, float],
    seed: int,
) -> Field:
    """Return a pattern laid in rings: `count` cells round, `per` shot pixels outwards, grown by so many cells."""
    out = np.empty((*grid.shape, 1), np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    if kind == "rays":
        rest = (float(count), turn, soft, fractions[0], out.reshape(grid.shape))
        run_rows(_rays, grid.height, *centre, *where, *rest)
        return out
    args = (
        PATTERNS.index(kind),
        *centre,
        *where,
        float(count),
        turn,
        per,
        grown,
        max(soft, 1e-9),
        *fractions,
        lattice(seed),
    )
    run_rows(_ringed, grid.height, *args, out)
    return out


@kernel(error_model="numpy")
def _ribs(kind, m, x0, y0, step, w, out, first, last):
    a, b, c = m
    for j in range(first, last):
        u = a * (x0 + 0.5 * step) + b * (y0 + (j + 0.5) * step) + c
        for i in range(out.shape[1]):
            p = u + i * a * step
            lo, hi = p - 0.5 * w, p + 0.5 * w
            fl, fh = math.floor(lo), math.floor(hi)
            if kind == 0:  # the mean of the fraction
                out[j, i, 0] = (0.5 * (fh - fl) + 0.5 * ((hi - fh) ** 2 - (lo - fl) ** 2)) / w
            elif kind == 1:  # half a wave of a sine, as the height of a glass rod
                a0 = (1.0 - math.cos(math.pi * (lo - fl))) / math.pi
                a1 = (1.0 - math.cos(math.pi * (hi - fh))) / math.pi
                out[j, i, 0] = ((fh - fl) * (2.0 / math.pi) + a1 - a0) / w
            else:
                t0, t1 = lo - fl, hi - fh
                s0 = t0 * t0 if t0 < 0.5 else 0.5 - (1.0 - t0) ** 2
                s1 = t1 * t1 if t1 < 0.5 else 0.5 - (1.0 - t1) ** 2
                out[j, i, 0] = (0.5 * (fh - fl) + s1 - s0) / w


def ribs(grid: Grid, profile: str, line: tuple[float, float, float]) -> Field:
    """Return repeated slopes, (H, W, 1) of 0...1. line: (a, b, c), a x + b y + c counts ribs."""
    out = np.empty((*grid.shape, 1), np.float32)
    w = max((abs(line[0]) + abs(line[1])) * grid.step, 1e-9)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_ribs, grid.height, PROFILES.index(profile), line, *where, w, out)
    return out


@kernel(error_model="numpy")
def _bands(m, x0, y0, step, w, values, out, first, last):
    a, b, c = m
    count = len(values)
    for j in range(first, last):
        u = a * (x0 + 0.5 * step) + b * (y0 + (j + 0.5) * step) + c
        for i in range(out.shape[1]):
            p = u + i * a * step
            lo, hi = p - 0.5 * w, p + 0.5 * w
            at, end = int(math.floor(lo)), int(math.floor(hi))
            if end - at > 64:
                out[j, i, 0] = values[min(max(int(p), 0), count - 1)]
                continue
            total = 0.0
            for n in range(at, end + 1):
                fraction = min(hi, n + 1.0) - max(lo, float(n))
                total += fraction * values[min(max(n, 0), count - 1)]
            out[j, i, 0] = total / w


def bands(grid: Grid, line: tuple[float, float, float], values: np.ndarray) -> Field:
    """Return flat bands, (H, W, 1): a x + b y + c counts bands, each with its value of `values` (float32)."""
    out = np.empty((*grid.shape, 1), np.float32)
    w = max((abs(line[0]) + abs(line[1])) * grid.step, 1e-9)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_bands, grid.height, line, *where, w, values.astype(np.float32), out)
    return out
