"""What the two viewers show of a frame: maps as grey, channels, false colour, slope; pictures compared."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Bytes8, Field, Picture, Pixels, Warp
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.colour.convert import to_grey8, to_screen
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.shot.model import Shot

MAP_VIEWS = ("value", "red", "green", "blue", "alpha", "contour", "needles", "distance", "slope")
BINS = 128
MOST_GAIN = 64.0
"""Differences are shown enlarged by no more than this."""

COLD = np.array([[0.13, 0.20, 0.55], [0.10, 0.55, 0.62], [0.50, 0.50, 0.50], [0.86, 0.62, 0.16], [0.98, 0.93, 0.76]])
"""False colour: far below rest, below, rest (neutral), above, far above."""


def screen_of_map(field: Field, view: str, rest: float) -> Bytes8:
    """Return a map as BGRX bytes in one of MAP_VIEWS."""
    if view == "contour":
        return _contour(field, rest)
    if view == "slope":
        return _slope(field)
    if field.shape[2] == 2 and view in ("value", "needles"):
        x, y = to_grey8(field[..., 0]), to_grey8(field[..., 1])
        return _bgrx(np.full_like(x, 64), y, x)
    if field.shape[2] == 4 and view == "value":
        return _bgrx(*(to_grey8(field[..., k]) for k in (2, 1, 0)))
    grey = to_grey8(channel(field, "value" if view == "needles" else view))
    return _bgrx(grey, grey, grey)


HATCH = 12
"""Samples from one line of the hatch over clear parts to the next."""


def hatched_clear(shown: Bytes8, alpha: Field) -> None:
    """Lay a light hatch over what is clear of a map that is shown; it is written into."""
    rows, columns = alpha.shape
    lines = (np.arange(columns)[None] + np.arange(rows)[:, None]) % HATCH == 0
    where = lines & (alpha < 0.5)
    shown[where, :3] = shown[where, :3] + (255 - shown[where, :3]) // 3


def _bgrx(b: Bytes8, g: Bytes8, r: Bytes8) -> Bytes8:
    out = np.empty((*b.shape, 4), np.uint8)
    out[..., 0], out[..., 1], out[..., 2], out[..., 3] = b, g, r, 255
    return out


def _contour(field: Field, rest: float) -> Bytes8:
    """False colour about rest, with the rest level itself as a dark line."""
    values = channel(field, "value")
    table = np.stack([np.interp(np.linspace(0, 4, 256), np.arange(5), COLD[:, k]) for k in range(3)], axis=1)
    spread = np.clip((values - rest) + 0.5, 0, 1)
    out = (table * 255).astype(np.uint8)[to_grey8(spread)]
    above = values > rest
    line = np.zeros(values.shape, bool)
    line[:, 1:] |= above[:, 1:] != above[:, :-1]
    line[1:] |= above[1:] != above[:-1]
    out[line] = (20, 20, 20)
    return _bgrx(out[..., 2], out[..., 1], out[..., 0])


FAR = np.array([[0.16, 0.16, 0.16], [0.24, 0.25, 0.50], [0.62, 0.28, 0.42], [0.92, 0.55, 0.22], [0.98, 0.93, 0.76]])
"""False colour for distances: none ... the farthest of the frame."""
MOST_LINES = 8


def line_step(max_displacement: Pixels) -> Pixels:
    """Return from one contour line of a distance to the next: 1, 2 or 5 times a power of ten, no more than 8 lines."""
    if not 0 < max_displacement < math.inf:
        return 1.0
    tens = 10.0 ** math.floor(math.log10(max_displacement / MOST_LINES))
    return float(next(tens * k for k in (1, 2, 5, 10, 20) if tens * k * MOST_LINES >= max_displacement))


def screen_of_distance(warp: Warp | None, grid: Grid) -> tuple[Bytes8, Pixels]:
    """Return how far each sample looks, (2, H, W), in false colour with contour lines, BGRX; and the farthest."""
    moves = np.zeros((2, *grid.shape), np.float32) if warp is None else warp
    lengths = np.hypot(moves[0], moves[1])
    max_displacement = float(lengths.max(initial=0.0))
    table = np.stack([np.interp(np.linspace(0, 4, 256), np.arange(5), FAR[:, k]) for k in range(3)], axis=1)
    out = (table * 255).astype(np.uint8)[to_grey8(lengths / np.float32(max(max_displacement, 1e-6)))]
    between = np.floor(lengths / np.float32(line_step(max_displacement)))
    line = np.zeros(lengths.shape, bool)
    line[:, 1:] |= between[:, 1:] != between[:, :-1]
    line[1:] |= between[1:] != between[:-1]
    out[line] = (20, 20, 20)
    return _bgrx(out[..., 2], out[..., 1], out[..., 0]), max_displacement


def _slope(field: Field) -> Bytes8:
    """The surface of the map as height: its normal as colour (x right, y down), flat = 128, 128, 255."""
    values = channel(field, "value")
    gy, gx = np.gradient(values) if min(values.shape) > 1 else (np.zeros_like(values),) * 2
    scale = values.shape[1] / 16
    normal = np.stack([-gx * scale, -gy * scale, np.ones_like(values)])
    normal /= np.sqrt((normal**2).sum(axis=0))
    x, y, z = (to_grey8((part * 0.5 + 0.5).astype(np.float32)) for part in normal)
    return _bgrx(z, y, x)


def histogram(values: Field, weights: Field | None = None) -> tuple[list[float], float, float]:
    """Return the histogram of values (H, W) over 0...1 (as fractions of its highest bar), their mean, what is clipped.

    weights: how much each counts; what is clear counts for nothing.
    """
    step = max(1, int(np.sqrt(values.size / 60_000)))
    few, counted = values[::step, ::step], None if weights is None else weights[::step, ::step]
    if counted is not None and not counted.any():
        counted = None
    bins = np.minimum(np.clip(few, 0, 1) * BINS, BINS - 1).astype(np.intp).ravel()
    counts = np.bincount(bins, None if counted is None else counted.ravel(), minlength=BINS).astype(float)
    inner = counts[1:-1].max() if counts[1:-1].any() else counts.max()
    clipped = float(np.average((few <= 0) | (few >= 1), weights=counted))
    bars = [float(min(c / max(inner, 1e-9), 1.0)) for c in counts]
    return bars, float(np.average(few, weights=counted)), clipped


def difference_gain(apart: Picture) -> float:
    """Return the factor a difference is shown by: a power of two that brings all but the largest 0.5 % into sight."""
    values = apart[::4, ::4, :3] if apart.size > 400_000 else apart[..., :3]
    high = float(np.quantile(values.max(axis=2), 0.995)) if values.size else 0.0
    if high < 1 / 4096:
        return MOST_GAIN if high > 0 else 1.0
    return float(min(max(2.0 ** math.floor(math.log2(0.9 / high)), 1.0), MOST_GAIN))


def screen_of_difference(
    result: Picture, untouched: Picture, ground: tuple[float, float, float]
) -> tuple[Bytes8, float]:
    """Return how far apart two pictures are, as BGRX bytes, and the factor it was multiplied by."""
    apart = np.abs(result - untouched)
    gain = difference_gain(apart)
    apart[..., 3] = 1.0
    apart[..., :3] *= np.float32(gain)
    return to_screen(np.clip(apart, 0, 1), ground), gain


def screen_of_picture(result: Picture, view: str, ground: tuple[float, float, float]) -> Bytes8:
    """Return a picture as BGRX bytes: as it is, or its alpha. ("split" is drawn by the viewer from two pictures.)"""
    if view == "alpha":
        grey = to_grey8(np.clip(result[..., 3], 0, 1))
        return _bgrx(grey, grey, grey)
    return to_screen(result, ground)


def small_grid(shot: Shot, width: int) -> Grid:
    """Return the frame's grid at about this many columns."""
    scale = max(width / shot.width, 1 / min(shot.width, shot.height))
    return frame_grid(shot.width, shot.height, min(1.0, math.ceil(scale * 1000) / 1000))
