"""Light on the flanks of a height, added to a picture."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Degrees, Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy")
def _lit(source, slope, top, left, toward_x, toward_y, sharp, rim, bright, picture, out, first, last):
    zero, one, four, small = np.float32(0), np.float32(1), np.float32(4), np.float32(1e-6)
    channels = out.shape[2]
    colours = 3 if channels == 4 else channels
    for j in range(first, last):
        for i in range(out.shape[1]):
            x, y = slope[top + j, left + i, 0], slope[top + j, left + i, 1]
            facing = x * toward_x + y * toward_y
            light = min(abs(facing), one)
            if light > zero:
                light = light if sharp == one else light**sharp
                if rim > zero:
                    steep = np.sqrt(x * x + y * y) + small
                    light *= min(abs(facing) / steep, one) ** rim * min(steep * four, one)
            light = bright * (light if facing > zero else -light)
            most = source[j, i, 3] if channels == 4 else one
            if picture:
                light *= most
            for k in range(colours):
                value = source[j, i, k] + light
                out[j, i, k] = min(max(value, zero), most) if picture else value
            if channels == 4:
                out[j, i, 3] = source[j, i, 3]


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
    run_rows(_lit, out.shape[0], source, slope, rows.start, columns.start, *toward, *numbers, picture, out)
    return out
