"""Fractal sums of any base of noise, on a straight grid or at bent places."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Field
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise import bases
from nimble_quake.raster.noise.gradient_noise import SUMS, lattice, settled, sum_octaves
from nimble_quake.raster.threads.rows import run_rows

BASES = ("smooth", "value", "blocks", "softer", "simplex", "nearest", "second", "edge", "flat")

MEANS = {
    "smooth": (0.0, 0.2193, 0.6337, 0.2826),
    "value": (0.0, 0.3796, 0.4451, 0.1627),
    "blocks": (0.0, 0.5016, 0.3297, 0.1095),
    "softer": (0.0, 0.2496, 0.5959, 0.2498),
    "simplex": (0.0, 0.3104, 0.5297, 0.2212),
    "nearest": (0.0, 0.3029, 0.5302, 0.2098),
    "second": (0.0, 0.2743, 0.5675, 0.2376),
    "edge": (0.0, 0.3314, 0.5007, 0.1817),
    "flat": (0.0, 0.5020, 0.3338, 0.1115),
}
"""Means of n, |n|, (1 - |n|)^2 and (1 - |n|)^8 of each base, measured over many slices."""
SPREADS = {"smooth": 1.0, "value": 0.69, "blocks": 0.86, "softer": 0.88, "simplex": 0.75} | dict.fromkeys(
    ("nearest", "second", "edge", "flat"), 1.0
)
"""What brings a plain sum of each base to the spread of `smooth`."""


@dataclass(frozen=True)
class Recipe:
    """How octaves of a base add up."""

    base: str = "smooth"
    sum: str = "plain"
    octaves: int = 4
    gain: float = 0.5
    lacunarity: float = 2.0
    seed: int = 0
    z: float = 0.0
    """The slice, in lattice cells."""
    z_period: int = 256
    """After how many cells the slices repeat (1...256)."""

    @property
    def gains(self) -> list[float]:
        """The strength of each octave; those too faint to see are left out."""
        found = [self.gain**k for k in range(self.octaves)]
        return [g for g in found if g > 1e-4] or [1.0]

    def origin(self, octave: int, channel: int) -> tuple[float, float, float]:
        """Where an octave begins, so that lattice points of octaves and channels do not coincide: x, y, z."""
        return (
            octave * 37.71 + channel * 71.37,
            octave * 91.13 + channel * 13.91,
            self.z + octave * 0.37 + channel * 53.19,
        )


def fractal(
    grid: Grid, to_lattice: Affine, recipe: Recipe, channels: int = 1, spread: float = 1.0, middle: float = 0.0
) -> Field:
    """Return a fractal sum of noise, centred on `middle` with `spread` times the spread (std .27) of a smooth octave.

    to_lattice: shot place -> lattice place of the first octave. Returns (H, W, channels) float32.
    """
    planes = np.empty((channels, grid.height, grid.width), np.float32)
    perm, kind, base = lattice(recipe.seed), SUMS.index(recipe.sum), BASES.index(recipe.base)
    where, settling = (float(grid.x0), float(grid.y0), float(grid.step)), _settling(recipe, spread, middle)
    for channel, plane in enumerate(planes):
        octaves = np.array([_octave(recipe, k, channel, to_lattice) for k in range(len(recipe.gains))], np.float64)
        if base <= bases.BLOCKS:
            run_rows(sum_octaves, grid.height, plane, octaves, *where, recipe.z_period, kind, perm, base, settling)
            continue
        rest: tuple[object, ...] = (kind, perm, base)
        add: Callable[..., object] = partial(bases.add_straight, plane)
        if base == bases.SOFTER and to_lattice[3] == 0.0 and to_lattice[1] == 0.0 and to_lattice[0] != 0.0:
            add, rest = partial(bases.add_spline, plane), (kind, perm)
        elif base >= bases.NEAREST:
            add = partial(bases.add_cells, plane)
        period = () if base >= bases.NEAREST else (recipe.z_period,)
        each = [(tuple(o[:6]), *where, o[6], *period, o[7], *rest) for o in octaves.tolist()]
        run_rows(_added_up, grid.height, plane, add, each, settling)
    out = planes.transpose(1, 2, 0) if channels > 1 else planes.reshape(grid.height, grid.width, 1)
    return np.ascontiguousarray(out)


def _added_up(
    plane: Field, add: Callable[..., object], each: list[tuple[object, ...]], settling: Field, first: int, last: int
) -> None:
    """All octaves of a band of rows, while the band lies in fast memory."""
    plane[first:last] = 0
    for arguments in each:
        add(*arguments, first, last)
    settled(plane, settling, first, last)


def _octave(recipe: Recipe, k: int, channel: int, to_lattice: Affine) -> tuple[float, ...]:
    """The place of an octave as six numbers, its slice and its gain."""
    ou, ov, z = recipe.origin(k, channel)
    a, b, c, d, e, f = (v * recipe.lacunarity**k for v in to_lattice)
    return a, b, c + ou, d, e, f + ov, z, recipe.gains[k]


def fractal_at(
    us: NDArray[np.float32], vs: NDArray[np.float32], recipe: Recipe, channels: int = 1, wrap: int = 0
) -> Field:
    """Return the same sum at lattice places us, vs (H, W) of the first octave; wrap: us repeats after so many."""
    planes, settling = np.zeros((channels, *us.shape), np.float32), _settling(recipe)
    perm, kind, base = lattice(recipe.seed), SUMS.index(recipe.sum), BASES.index(recipe.base)
    for channel in range(channels):
        for k, amount in enumerate(recipe.gains):
            ou, ov, z = recipe.origin(k, channel)
            freq = recipe.lacunarity**k
            turns = 0
            if wrap:  # a whole number of cells round the ring, and whole origins, leave no seam
                turns = max(1, round(wrap * freq))
                freq, ou = turns / wrap, math.floor(ou)
            if base <= bases.BLOCKS:
                table = np.zeros((512, 3), np.float32)
                bases.fold(base, z, recipe.z_period, perm, table)
                t0, t1, t2 = np.ascontiguousarray(table.T)
                args = (us, vs, freq, ou, ov, t0, t1, t2, turns, amount, kind, perm.astype(np.int32), base)
                run_rows(bases.add_folded, us.shape[0], planes[channel], *args)
                continue
            rest = (us, vs, freq, ou, ov, z, recipe.z_period, turns, amount, kind, perm, base)
            run_rows(bases.add_anywhere, us.shape[0], planes[channel], *rest)
        run_rows(settled, us.shape[0], planes[channel], settling)
    return np.ascontiguousarray(planes.transpose(1, 2, 0))


def _settling(recipe: Recipe, spread: float = 1.0, middle: float = 0.0) -> Field:
    """What takes the mean away from a sum and brings its spread to that of one octave: see `noise.settled`."""
    gains = recipe.gains
    kind = SUMS.index(recipe.sum)
    mean = math.fsum(gains) * MEANS[recipe.base][kind]
    times = (SPREADS[recipe.base], 1.7, 1.0, 1.0)[kind] / math.sqrt(math.fsum(g * g for g in gains))
    return np.array([mean, times, spread, middle], np.float32)
