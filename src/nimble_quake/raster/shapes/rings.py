"""Growing rings: radial profiles summed round their centres."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import clamped, run_rows


@dataclass(frozen=True)
class Ring:
    """A profile round a centre: `values` over distances `start`, `start + per`, ... in shot pixels; 0 outside."""

    x: float
    y: float
    start: float
    per: float
    values: NDArray[np.float32]


@kernel(error_model="numpy", fastmath={"contract"})
def _add_rings(numbers, tables, begins, x0, y0, step, out, first, last):
    width = out.shape[1]
    zero, one = np.float32(0), np.uint32(1)
    places = np.empty(width, np.float32)  # in the ring's table, a row at a time: square roots side by side
    for n in range(len(numbers)):
        cx, cy, start, per = numbers[n, 0], numbers[n, 1], numbers[n, 2], numbers[n, 3]
        begin, count = begins[n], begins[n + 1] - begins[n]
        end = start + per * (count - 1)
        s32, p32 = np.float32(start), np.float32(1.0 / per)
        table, most = tables[begin : begin + count], np.float32(count - 1)
        for j in range(first, last):
            dy = np.float32(y0 + (j + 0.5) * step - cy)
            room = end * end - dy * dy
            if room <= 0.0:
                continue
            half = math.sqrt(room)
            left = max(0, int(math.floor((cx - half - x0) / step - 0.5)))
            right = min(width, int(math.ceil((cx + half - x0) / step + 0.5)))
            from_centre, step32 = np.float32(x0 + (left + 0.5) * step - cx), np.float32(step)
            for i in range(right - left):
                dx = from_centre + np.float32(i) * step32
                place = (np.sqrt(dx * dx + dy * dy) - s32) * p32
                places[i] = place if place >= zero else most
            row = out[j, left:right]
            for i in range(right - left):
                place = places[i]
                if place < most:
                    at = np.uint32(place)
                    low = table[at]
                    row[i, 0] += low + (table[at + one] - low) * (place - np.float32(at))


def add_rings(grid: Grid, rings: list[Ring], out: Field) -> None:
    """Add every ring's profile to out (H, W, 1)."""
    if not rings:
        return
    numbers = np.array([(ring.x, ring.y, ring.start, ring.per) for ring in rings], np.float64)
    begins = np.cumsum([0, *(len(ring.values) for ring in rings)]).astype(np.int64)
    tables = np.concatenate([ring.values for ring in rings]).astype(np.float32)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_add_rings, grid.height, numbers, tables, begins, *where, out)


def plain_ring(x: float, y: float, radius: float, width: float, soft: float, bright: float, dark: float) -> Ring:
    """Return a ring whose outer half is bright and whose inner half is dark, edges as soft as a share of the width."""
    reach = width * (0.5 + soft)
    start = max(0.0, radius - reach)
    at = np.linspace(start, radius + reach, 160)
    side = (at - radius) / max(width, 1e-6)
    hump = 0.5 - 0.5 * np.cos(2 * np.pi * np.clip(side / (1 + 2 * soft) + 0.5, 0, 1))
    edge = np.clip(hump / max(soft, 1e-3) * 0.5, 0, 1) if soft < 0.5 else hump
    flank = np.clip(side / max(0.5 * soft, 1e-3) * 0.5 + 0.5, 0, 1)
    return Ring(x, y, start, float(at[1] - at[0]), ((flank * bright - (1 - flank) * dark) * edge).astype(np.float32))


def blast_radius(age: float, reach: float) -> float:
    """Return the radius of a blast front, shot pixels: proportional to t^(2/5) (Sedov 1946, Taylor 1950)."""
    return reach * max(age, 0.0) ** 0.4


def blast_ring(x: float, y: float, radius: float, width: float, soft: float, bright: float, dark: float) -> Ring:
    """Return a front: a sharp bright edge, a longer dark tail behind it (the Friedlander pulse's sign and decay)."""
    edge = width * max(0.04, 0.3 * soft)
    start, end = max(0.0, radius - 3 * width), radius + edge
    at = np.linspace(start, end, 240)
    behind = np.clip((radius - at) / max(width, 1e-6), 0, None)
    rise = np.clip((end - at) / max(edge, 1e-6), 0, 1)
    pulse = np.exp(-2.2 * behind) * (1 - 1.6 * behind)
    fade = np.clip((at - start) / max(width, 1e-6), 0, 1)
    shape = np.where(pulse > 0, pulse * bright, pulse * dark * 4.0)
    return Ring(x, y, start, float(at[1] - at[0]), (shape * rise * np.minimum(fade, 1)).astype(np.float32))


@cache
def _table() -> NDArray[np.float64]:
    from scipy.special import j0  # slow to load: only when there are ripples

    return np.asarray(j0(np.arange(0, 3000, 0.04)), np.float64)


@kernel(error_model="numpy")
def _sum_of_waves(weights, numbers, at, table, out, first, last):
    """Sum up waves round a centre at distances: J0 from a fine table, linear between its entries (error under 1e-4)."""
    most = len(table) - 2
    for i in range(first, last):
        total = 0.0
        for n in range(len(numbers)):
            place = clamped(at[i] * numbers[n] * 25.0, 0.0, float(most))
            low = int(place)
            total += weights[n] * (table[low] + (table[low + 1] - table[low]) * (place - low))
        out[i] = total


def ripple_ring(x: float, y: float, age: float, width: float, speed: float, reach: float) -> Ring:
    """Return the surface round a drop's impact at an age: deep water, omega^2 = g k (Lamb, Hydrodynamics, ch. IX).

    A soft bump of about half a wavelength `width` is let go; waves of that length move at `speed` (their phase
    speed), longer ones faster. Height at r: the sum over k of J0(k r) cos(omega t), weighted k exp(-(k s)^2 / 2).
    """
    k0 = 2 * np.pi / width
    g = speed * speed * k0
    spread = width / 4.5
    ks = np.linspace(0.03, 4.0, 100) * k0
    weight = ks * np.exp(-0.5 * (ks * spread) ** 2)
    weight *= np.exp(-age * (ks / k0) ** 2 * 0.12)  # short waves die first
    front = min(reach, max(3 * width, 3.2 * speed * age + 2 * width))
    count = int(min(640, max(60, front / width * 18)))
    at = np.linspace(0, front, count)
    # the closest sum of a finite set of waves repeats in space: faded before it can
    height = np.empty(count)
    run_rows(_sum_of_waves, count, weight * np.cos(np.sqrt(g * ks) * age), ks, at, _table(), height)
    height /= weight.sum() if age <= 0 else max(weight.sum() * 0.16, 1e-12)
    fade = np.clip((front - at) / (0.25 * front), 0, 1)
    return Ring(x, y, 0.0, float(at[1] - at[0]), (height * fade).astype(np.float32))
