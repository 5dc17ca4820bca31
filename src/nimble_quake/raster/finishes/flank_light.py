"""Light on the flanks of a height, added to a picture."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Degrees, Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy", fastmath={"contract"})
def _light_of(flanks, toward_x, toward_y, sharp, rim, bright, lights):
    """The light on a row of flanks, across and down by turns; one that faces the light evenly needs no power."""
    zero, one, four, small = np.float32(0), np.float32(1), np.float32(4), np.float32(1e-6)
    for i in range(len(lights)):
        lights[i] = max(min(flanks[2 * i] * toward_x + flanks[2 * i + 1] * toward_y, one), -one)
    if sharp != one or rim > zero:
        for i in range(len(lights)):
            facing = lights[i]
            light = abs(facing)
            if light > zero:
                light = light if sharp == one else light**sharp
                if rim > zero:
                    x, y = flanks[2 * i], flanks[2 * i + 1]
                    steep = np.sqrt(x * x + y * y) + small
                    light *= min(abs(x * toward_x + y * toward_y) / steep, one) ** rim * min(steep * four, one)
                lights[i] = light if facing > zero else -light
    for i in range(len(lights)):
        lights[i] *= bright


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _lit(source, slope, top, left, toward_x, toward_y, sharp, rim, bright, picture, out, first, last):
    zero, one, width, channels = np.float32(0), np.float32(1), out.shape[1], out.shape[2]
    lights = np.empty(width, np.float32)
    for j in range(first, last):
        _light_of(slope[top + j].reshape(-1)[2 * left :], toward_x, toward_y, sharp, rim, bright, lights)
        before, made = source[j], out[j]
        if channels == 4:
            for i in range(width):
                alpha = before[i, 3]
                light = lights[i] * alpha if picture else lights[i]
                red, green, blue = before[i, 0] + light, before[i, 1] + light, before[i, 2] + light
                if picture:
                    red, green, blue = max(red, zero), max(green, zero), max(blue, zero)
                    red, green, blue = min(red, alpha), min(green, alpha), min(blue, alpha)
                made[i, 0], made[i, 1], made[i, 2], made[i, 3] = red, green, blue, alpha
        else:
            for i in range(width):
                for k in range(channels):
                    value = before[i, k] + lights[i]
                    made[i, k] = min(max(value, zero), one) if picture else value


def lit_flanks(
    source: Field,
    slope: Field,
    inside: tuple[slice, slice],
    bearing: Degrees,
    sharp: float,
    rim: float,
    bright: float,
    picture: bool,
) -> Field:
    """Return a picture or map (H, W, C) with light added on flanks that face it, taken from those that do not.

    slope: (h, w, 2) rise over run, of which `inside` lies over the source. bearing: where the light comes from, 0 from
    the right, clockwise. sharp: the power of how much a flank faces it. rim: how fast it falls off round an outline,
    the power of the cosine. bright: what a flank of 45 degrees that faces it gains. A picture stays premultiplied.
    """
    turn, out = math.radians(bearing), np.empty_like(source)
    toward = (np.float32(-math.cos(turn)), np.float32(-math.sin(turn)))
    numbers = (np.float32(sharp), np.float32(rim), np.float32(bright))
    rows, columns = inside
    slope = np.ascontiguousarray(slope)
    run_rows(_lit, out.shape[0], source, slope, rows.start, columns.start, *toward, *numbers, picture, out)
    return out
