"""Averages and trails along lines, and round or away from a centre."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows
from nimble_quake.raster.warps.warped import plainly


@kernel(error_model="numpy")
def _sideways(field, colours, keep, above, strength, back, out, first, last):
    """A trail is the running maximum that fades, seen where it is lighter than what is there. Alpha stays."""
    width = field.shape[1]
    for j in range(first, last):
        for k in range(colours, field.shape[2]):
            for i in range(width):
                out[j, i, k] = field[j, i, k]
        for k in range(colours):
            carried = np.float32(0)
            for n in range(width):
                i = width - 1 - n if back else n
                value = field[j, i, k]
                carried = max(carried * keep, value if value > above else np.float32(0))
                out[j, i, k] = max(value, carried * strength)


@kernel(error_model="numpy")
def _upright(field, colours, keep, above, strength, back, out, first, last):
    """The same down columns `first`...`last`, row by row, so that memory is read along."""
    height, channels, zero = field.shape[0], field.shape[2], np.float32(0)
    carried = np.zeros((last - first) * channels, np.float32)
    for n in range(height):
        j = height - 1 - n if back else n
        line = field[j].reshape(-1)[first * channels : last * channels]
        made = out[j].reshape(-1)[first * channels : last * channels]
        for i in range(len(carried)):
            value = line[i]
            trail = max(carried[i] * keep, value if value > above else zero)
            carried[i] = trail
            made[i] = max(value, trail * strength)
        for k in range(colours, channels):
            for i in range(last - first):
                made[i * channels + k] = line[i * channels + k]


def streaked(field: Field, way: str, keep: float, above: float, strength: float) -> Field:
    """Return the field with trails to "up", "down", "left" or "right". keep: what is left of a trail a sample on."""
    field = np.ascontiguousarray(field)
    out = np.empty_like(field)
    colours = 3 if field.shape[2] == 4 else field.shape[2]
    args = (field, colours, np.float32(keep), np.float32(above), np.float32(strength))
    if way in ("left", "right"):
        run_rows(_sideways, field.shape[0], *args, way == "left", out)
    else:
        run_rows(_upright, field.shape[1], *args, way == "up", out)
    return out


def along_line(field: Field, angle: float, half: float) -> Field:
    """Return the mean along a line of a bearing, `half` samples to each side, the border held.

    The picture is slid row by row (or column by column) so that the line lies along it, averaged with a running sum,
    and slid back: the cost does not grow with the length.
    """
    if half <= 0:
        return field.copy()
    c, s = math.cos(angle), math.sin(angle)
    steep = abs(s) > abs(c)
    work = np.ascontiguousarray(field.transpose(1, 0, 2)) if steep else field
    run, rise = (s, c) if steep else (c, s)
    slope = rise / run
    reach = half * abs(run)
    work = np.ascontiguousarray(work)
    height, width, channels = work.shape
    low = math.floor(min(0.0, -slope * (width - 1)))
    slid = np.empty((height + math.ceil(abs(slope) * (width - 1)) + 2, width, channels), np.float32)
    run_rows(_slid_mean, slid.shape[0], work, slope, reach, low, slid)
    out = np.empty_like(work)
    run_rows(_slid_back, height, slid, slope, low, out)
    return np.ascontiguousarray(out.transpose(1, 0, 2)) if steep else out


@kernel(error_model="numpy")
def _slid_mean(field, slope, reach, low, out, first, last):
    """Each row of the slid picture lies along the line: it is gathered, and averaged with a running sum."""
    height, width, channels = field.shape
    line, values = np.zeros(width + 1), np.empty(width)
    for r in range(first, last):
        for k in range(channels):
            line[0] = 0.0
            for i in range(width):
                y = min(max(r + low + i * slope, 0.0), height - 1.0)
                b = min(int(y), max(height - 2, 0))
                t = y - b
                low_value = field[b, i, k]
                values[i] = low_value + (field[min(b + 1, height - 1), i, k] - low_value) * t
                line[i + 1] = line[i] + values[i]
            for i in range(width):
                total = _between(line, values[0], values[width - 1], i + 0.5 - reach, i + 0.5 + reach)
                out[r, i, k] = total / (2 * reach)


@kernel(error_model="numpy")
def _slid_back(slid, slope, low, out, first, last):
    """Read the slid picture where each sample's line lies in it."""
    width, channels = out.shape[1], out.shape[2]
    most = slid.shape[0] - 2
    for j in range(first, last):
        for i in range(width):
            y = min(max(j - i * slope - low, 0.0), most + 1.0)
            b = min(int(y), most)
            t = np.float32(y - b)
            for k in range(channels):
                out[j, i, k] = slid[b, i, k] + (slid[b + 1, i, k] - slid[b, i, k]) * t


@kernel(inline="always")
def _between(line, left, right, a, b):
    """The sum of a row from place a to b, from its running sum; held beyond its ends."""
    return _upto(line, left, right, b) - _upto(line, left, right, a)


@kernel(inline="always")
def _upto(line, left, right, x):
    most = len(line) - 1
    if x <= 0.0:
        return left * x
    if x >= most:
        return line[most] + right * (x - most)
    i = int(x)
    return line[i] + (line[i + 1] - line[i]) * (x - i)


def from_centre(field: Field, grid: Grid, centre: tuple[float, float], fraction: float, sweep: float) -> Field:
    """Return the mean towards and away from a centre (a share of the distance), or round it (sweep, radians).

    Doubled again and again: each pass averages the picture with itself moved by half the reach left, so that six
    passes are 64 samples along the way.
    """
    us, vs = grid.xs() - np.float32(centre[0]), (grid.ys() - np.float32(centre[1]))[:, None]
    passes, out = 6, field
    zero = np.float32(grid.x0), np.float32(grid.y0)
    for n in range(passes):
        reach = 0.5 ** (n + 1)
        total = np.zeros_like(field)
        for side in (-0.5, 0.5):
            grow, turn = 1 + fraction * reach * side * 2, sweep * reach * side
            c, s = np.float32(math.cos(turn) * grow), np.float32(math.sin(turn) * grow)
            x, y = us * c - vs * s + np.float32(centre[0]), us * s + vs * c + np.float32(centre[1])
            x, y = (
                (x - zero[0]) * np.float32(grid.scale) - np.float32(0.5),
                (y - zero[1]) * np.float32(grid.scale) - np.float32(0.5),
            )
            total += plainly(out, x, y) * np.float32(0.5)
        out = total
    return out
