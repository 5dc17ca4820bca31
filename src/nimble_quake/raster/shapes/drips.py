"""Drops that fall for ever in lanes, each with a streak above it.

A lane repeats after a distance of its own, so what a place shows depends on where the drops are modulo that: there is
no first drop, no last one and no memory, and a streak is seen wherever its head has gone.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed
from nimble_quake.raster.threads.rows import run_rows

FINEST = 0.125
"""Lanes are no narrower than so much of a sample: more of them are not seen, and there may be any number."""


@kernel(error_model="numpy")
def _drips(x0, y0, step, layers, numbers, seed, out, first, last):
    """numbers: lane width, spacing, radius, streak length, way gone, spreads, wander, bend, density, strength; and how
    large, fast and bright a layer is beside the one before, 1 for the usual."""
    lane, spacing, radius, streak, gone, sizes, speeds, wander, bend, density, strength, size, speed, light = numbers
    for layer in range(layers):
        small = 1.0 if layer == 0 else (0.85 if layer == 1 else 0.75 * 0.85 ** (layer - 2))
        small, fast, bright = small * size**layer, speed**layer, light**layer
        wide = max(lane * small, FINEST * step)
        begin = int(math.floor(x0 / wide)) - 1
        end = int(math.floor((x0 + step * out.shape[1]) / wide)) + 1
        for number in range(begin, end + 1):
            if mixed(number, layer, 1, seed) >= density:
                continue
            grown = 1.0 + (mixed(number, layer, 2, seed) - 0.5) * sizes
            head = max(radius * small * grown, 0.25 * step)
            room = max(0.0, 0.5 * wide - head)
            base = (number + 0.5) * wide + (mixed(number, layer, 3, seed) * 2.0 - 1.0) * room * 0.6
            side = min(wander * small, room * 0.4)
            turns = mixed(number, layer, 4, seed) * 6.2831853
            per = spacing * small * (0.7 + 0.6 * mixed(number, layer, 5, seed))
            way = gone * small * fast * (1.0 + (mixed(number, layer, 6, seed) - 0.5) * speeds)
            at = way + mixed(number, layer, 7, seed) * per
            long = min(streak * small * grown, per - 2.2 * head)
            for j in range(first, last):
                y = y0 + (j + 0.5) * step
                back = at - y - per * math.floor((at - y) / per)  # how far below this place the next head is
                behind = back if back < per - 1.5 * head else back - per
                middle = base + side * math.sin(6.2831853 * y / max(bend * small, 6.3) + turns)
                tall = abs(behind) / head
                half = head * math.sqrt(max(0.0, 1.0 - tall * tall)) if tall < 1.0 else 0.0
                tail = 0.0
                if 0.0 < behind < long:
                    tail = 1.0 - behind / long
                reach = max(half, head * (0.35 + 0.4 * tail) if tail > 0.0 else 0.0)
                if reach <= 0.0:
                    continue
                left = max(0, int(math.floor((middle - reach - x0) / step - 1.0)))
                right = min(out.shape[1], int(math.ceil((middle + reach - x0) / step + 1.0)))
                for i in range(left, right):
                    dx = abs(x0 + (i + 0.5) * step - middle)
                    value = 0.0
                    if half > 0.0:
                        cover = min(max((half - dx) / step + 0.5, 0.0), 1.0)
                        d2 = (dx * dx) / (head * head) + tall * tall
                        value = cover * (0.55 + 0.45 * max(0.0, 1.0 - d2))
                    if tail > 0.0:
                        thin = head * (0.35 + 0.4 * tail)
                        cover = min(max((thin - dx) / max(step, 0.5 * thin) + 0.5, 0.0), 1.0)
                        value = max(value, cover * tail * strength)
                    out[j, i] = max(out[j, i], np.float32(value * bright))


def drips(
    grid: Grid,
    *,
    layers: int,
    lane: float,
    spacing: float,
    radius: float,
    streak: float,
    gone: float,
    sizes: float,
    speeds: float,
    wander: float,
    bend: float,
    density: float,
    strength: float,
    ratios: tuple[float, float, float] = (1.0, 1.0, 1.0),
    seed: int,
) -> Field:
    """Return drops and streaks, (H, W, 1) of 0...1 over 0. Lengths in shot pixels; gone: the way fallen so far.

    ratios: how large, fast and bright a layer is beside the one before, 1 for the usual: sizes of 1, 0.85, 0.75 ...,
    and as much slower.
    """
    out = np.zeros(grid.shape, np.float32)
    numbers = (lane, spacing, radius, streak, gone, sizes, speeds, wander, bend, density, strength, *ratios)
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_drips, grid.height, *where, layers, tuple(float(n) for n in numbers), seed, out)
    return out[..., None]
