"""Particles: closed-form flight, and painting many small soft things.

A particle's place depends on its number and age alone, so any frame is found without the ones before. With drag k the
velocity relaxes to the wind: x(t) = x0 + w t + (v0 - w - g/k)(1 - e^(-k t))/k + g t / k, the solution of
x'' = g - k (x' - w); without drag it is the parabola of x'' = g.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Value
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

Numbers = NDArray[np.float64]


def uniform(numbers: NDArray[np.int64], which: int, seed: int) -> Numbers:
    """Return random numbers 0...1, one for each particle number (splitmix64's finaliser, as `hashes.mixed`)."""
    with np.errstate(over="ignore"):
        x = numbers.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
        x += np.uint64(which * 0xC2B2AE3D27D4EB4F % 2**64) + np.uint64(seed * 0xD6E8FEB86659FD93 % 2**64)
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        x ^= x >> np.uint64(31)
    return (x >> np.uint64(11)).astype(np.float64) / 2**53


def flown(age: Numbers, start: Numbers, velocity: Numbers, pull: float, wind: float | Numbers, drag: float) -> Numbers:
    """Return places along one axis after `age` seconds (arrays, shot pixels): pull px/s^2, wind px/s, drag 1/s."""
    if drag < 1e-4:
        return start + (velocity + wind) * age + 0.5 * pull * age * age
    end = wind + pull / drag
    return start + end * age + (velocity - end + wind) * -np.expm1(-drag * age) / drag


@kernel(error_model="numpy")
def _spots(spots, colours, values, cover, x0, y0, step, soft, sprite, first, last):
    """Paint spots (x, y, half length, half width, cos, sin, opacity) over values (H, W, C) and cover (H, W)."""
    width, channels = values.shape[1], values.shape[2]
    size = sprite.shape[0]
    hard = 1.0 - soft
    for n in range(len(spots)):
        x, y, along, across, c, s, opacity = spots[n]
        least = 0.5 * step
        power = 1.0
        if not (abs(x) < 1e7 and abs(y) < 1e7 and along < 1e7 and across < 1e7 and opacity > 0.0):
            continue  # nowhere, or no number at all
        if along < least:
            power *= along / least
            along = least
        if across < least:
            power *= across / least
            across = least
        reach_y = math.sqrt((along * s) ** 2 + (across * c) ** 2) + step if size == 1 else (along + across) + step
        top = max(first, int(math.floor((y - reach_y - y0) / step)))
        end = min(last, int(math.ceil((y + reach_y - y0) / step)))
        if top >= end:
            continue
        reach_x = math.sqrt((along * c) ** 2 + (across * s) ** 2) + step if size == 1 else (along + across) + step
        left = max(0, int(math.floor((x - reach_x - x0) / step)))
        right = min(width, int(math.ceil((x + reach_x - x0) / step)))
        amount = opacity * power
        edge = max(soft, min(1.0, step / across))
        for j in range(top, end):
            dy = y0 + (j + 0.5) * step - y
            for i in range(left, right):
                dx = x0 + (i + 0.5) * step - x
                u, v = (dx * c + dy * s) / along, (dy * c - dx * s) / across
                if size > 1:
                    if abs(u) >= 1.0 or abs(v) >= 1.0:
                        continue
                    px, py = (u * 0.5 + 0.5) * (size - 1), (v * 0.5 + 0.5) * (size - 1)
                    a, b = int(px), int(py)
                    fx, fy = px - a, py - b
                    a1, b1 = min(a + 1, size - 1), min(b + 1, size - 1)
                    fraction = (sprite[b, a] * (1 - fx) + sprite[b, a1] * fx) * (1 - fy) + (
                        sprite[b1, a] * (1 - fx) + sprite[b1, a1] * fx
                    ) * fy
                else:
                    d = u * u + v * v
                    if d >= (1.0 + 0.5 * edge) ** 2:
                        continue
                    fraction = min(max((1.0 + 0.5 * edge * (1.0 - soft) - math.sqrt(d)) / edge, 0.0), 1.0)
                    fraction = fraction * fraction * (3.0 - 2.0 * fraction) if hard < 1.0 else fraction
                fraction *= amount
                if fraction <= 0.0:
                    continue
                rest = 1.0 - fraction
                for k in range(channels):
                    values[j, i, k] = values[j, i, k] * rest + colours[n, k] * fraction
                cover[j, i] = cover[j, i] * rest + fraction


def paint(
    grid: Grid, spots: Numbers, colours: Numbers, soft: float, sprite: NDArray[np.float32] | None
) -> tuple[Field, Field]:
    """Paint spots in order. Returns premultiplied values (H, W, C) and their cover (H, W, 1).

    spots: (N, 7) x, y, half length, half width (shot pixels), cosine, sine of their turn, opacity. colours: (N, C).
    sprite: the cover of a small square picture, else a round spot whose edge is soft over a share of its radius.
    """
    values = np.zeros((*grid.shape, colours.shape[1]), np.float32)
    cover = np.zeros(grid.shape, np.float32)
    shape = np.ones((1, 1), np.float32) if sprite is None else sprite
    where = (float(grid.x0), float(grid.y0), float(grid.step))
    run_rows(_spots, grid.height, spots, colours.astype(np.float32), values, cover, *where, float(soft), shape)
    return values, cover[..., None]


MOST_FRAMES_FULL = 400
"""All particles together cover no more than so many whole frames; of more, the youngest are drawn."""


def as_many_as_fit(spots: Numbers, width: float, height: float) -> int:
    """Return how many of the youngest particles may be drawn, counted by the frame's area they cover."""
    across = np.minimum(2 * (spots[:, 2] + spots[:, 3]), width)
    down = np.minimum(2 * (spots[:, 2] + spots[:, 3]), height)
    covered = np.cumsum((across * down)[::-1]) / (width * height)
    return int(np.searchsorted(covered, MOST_FRAMES_FULL, side="right"))


def drawn_by_weight(
    weights: Field, u: Numbers, v: Numbers, w: Numbers, size: tuple[float, float]
) -> tuple[Numbers, Numbers]:
    """Return places drawn by weight (H, W): the cell by the first number, the place in it by the others."""
    total = np.cumsum(weights.ravel(), dtype=np.float64)
    if total[-1] <= 0:
        return np.full(len(u), -1e5), np.full(len(u), -1e5)
    cells = np.searchsorted(total, u * total[-1], side="right").clip(0, len(total) - 1)
    rows, columns = np.divmod(cells, weights.shape[1])
    return (columns + v) * size[0] / weights.shape[1], (rows + w) * size[1] / weights.shape[0]


def sprite(alpha: NDArray[np.float32]) -> NDArray[np.float32] | None:
    """Return what particles are drawn with, a small square: where in an alpha (H, W) anything is; None for nothing."""
    rows, columns = np.flatnonzero(alpha.max(axis=1) > 0.02), np.flatnonzero(alpha.max(axis=0) > 0.02)
    if not len(rows) or not len(columns):
        return None
    cut = alpha[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    side = max(cut.shape)
    square = np.zeros((side, side), np.float32)
    top, left = (side - cut.shape[0]) // 2, (side - cut.shape[1]) // 2
    square[top : top + cut.shape[0], left : left + cut.shape[1]] = cut
    return np.asarray(cv2.resize(square, (48, 48), interpolation=cv2.INTER_AREA), np.float32)


@dataclass(frozen=True)
class Flock:
    """The particles alive: number, time of birth, age and length of life in seconds, (N,) each."""

    numbers: NDArray[np.int64]
    births: Numbers
    age: Numbers
    life: Numbers
    times: Numbers
    past: list[Mapping[str, Value]]
    """The numbers their source had at each of `times`, by name."""

    def then(self, name: str, part: int | None = None) -> Numbers:
        """Return a number as it was at each particle's birth."""
        found = [values[name] for values in self.past]
        values = np.array(found if part is None else [pair[part] for pair in found], np.float64)
        if (values == values[0]).all():
            return np.full(len(self.births), values[0])
        return np.interp(self.births, self.times, values)
