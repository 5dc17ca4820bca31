"""Fractal noise."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Affine, Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Drift, Number, Seed, Toggle, options
from nimble_quake.raster import affine
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.noise import fractal


class Noise(Source):
    """Smooth gradient noise, summed over octaves; one octave looks like waves, many like smoke."""

    title = "Noise"
    group = "Clouds"
    help = "Soft, everywhere: haze, water, smoke, cloth"

    sum = Choice(
        label="Sum", help="How the octaves add up", default="plain",
        options=options(plain="Plain: soft clouds", billowy="Billowy: round, puffed up", ridged="Ridged: sharp crests"),
    )  # fmt: skip
    size_x = Number(
        label="Size across", help="Width of one feature; larger is calmer", default=300.0, hard=(1, 20000),
        usual=(20, 800), unit="px", decimals=0,
    )  # fmt: skip
    size_y = Number(
        label="Size down", help="Height of one feature; larger is calmer", default=300.0, hard=(1, 20000),
        usual=(20, 800), unit="px", decimals=0,
    )  # fmt: skip
    octaves = Number(
        label="Octaves", help="How many finer layers are added", default=4, hard=(1, 10), usual=(1, 8), whole=True,
        decimals=0,
    )  # fmt: skip
    gain = Number(
        label="Roughness", help="How strong each finer layer is beside the one before (gain)", default=0.5,
        hard=(0, 1), usual=(0.2, 0.8), decimals=2,
    )  # fmt: skip
    lacunarity = Number(
        label="Fineness", help="How much finer each layer is than the one before (lacunarity)", default=2.0,
        hard=(1, 8), usual=(1.5, 3), decimals=2,
    )  # fmt: skip
    churn = Number(
        label="Churn", help="How fast it changes its shape in place, in turns per second", default=0.0,
        hard=(-100, 100), usual=(0, 3), unit="/s", decimals=2, accumulates=True,
    )  # fmt: skip
    turn = Number(
        label="Turn", help="Turns the whole pattern clockwise", default=0.0, hard=(-36000, 36000), usual=(-180, 180),
        unit="°", ring=True,
    )  # fmt: skip
    contrast = Number(
        label="Contrast", help="How far light and dark lie apart", default=1.0, hard=(-20, 20), usual=(0, 3),
        decimals=2,
    )  # fmt: skip
    brightness = Number(
        label="Lift", help="Raises or lowers all values; off 0 the picture slides", default=0.0, hard=(-2, 2),
        usual=(-0.5, 0.5), decimals=2,
    )  # fmt: skip
    drift = Drift(label="Drift", help="How fast and which way the pattern travels")
    seed = Seed(label="Seed", help="Another chance arrangement of the same kind", default=1)
    two = Toggle(label="Two channels", help="Across and down get noise of their own (red and green)", default=False)
    loop = Number(
        label="Loop", help="After how many seconds it repeats without a seam; 0 never", default=0.0, hard=(0, 3600),
        usual=(0, 10), unit="s", decimals=2,
    )  # fmt: skip

    def timed(self) -> bool:
        return self.loop > 0

    def make(self, grid: Grid, ctx: Context) -> Field:
        if self.loop > 0:
            sums = self._looped(grid, ctx)
        else:
            sums = self._slice(grid, self.drift, self.churn, 256)
        sums *= np.float32(self.contrast * 0.5)
        sums += np.float32(0.5 + self.brightness)
        return sums

    def _slice(self, grid: Grid, gone: tuple[float, float], z: float, period: int) -> Field:
        place = affine.then(affine.shift(-gone[0], -gone[1]), self._to_lattice())
        return fractal(
            grid,
            place,
            z=z,
            octaves=int(self.octaves),
            gain=self.gain,
            lacunarity=self.lacunarity,
            sum=self.sum,
            seed=self.seed,
            channels=2 if self.two else 1,
            z_period=period,
        )

    def _to_lattice(self) -> Affine:
        return affine.then(affine.turn(-self.turn), affine.stretch(1 / self.size_x, 1 / self.size_y))

    def _looped(self, grid: Grid, ctx: Context) -> Field:
        """A loop: churn makes a whole number of turns; drift is faded, at even spread, into its own start."""
        seconds = ctx.at.seconds % self.loop
        share = seconds / self.loop
        here, end = ctx.other(seconds), ctx.other(self.loop)
        turns = math.copysign(max(1, round(abs(end.churn))), end.churn) if end.churn else 0.0
        period = min(256, int(abs(turns))) or 256
        z = (here.churn / end.churn * turns) % period if turns else 0.0
        if end.drift == (0.0, 0.0):
            return self._slice(grid, here.drift, z, period)
        fresh = self._slice(grid, here.drift, z, period)
        old = self._slice(grid, (here.drift[0] - end.drift[0], here.drift[1] - end.drift[1]), z, period)
        fresh *= np.float32(math.cos(share * math.pi / 2))
        fresh += old * np.float32(math.sin(share * math.pi / 2))
        return fresh
