"""Fractal noise."""

from __future__ import annotations

import functools
import math
import operator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Field, Values
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import (
    SEVERAL_LAYERS,
    a_count,
    a_layer_ratio,
    a_rate,
    a_size,
    an_angle,
    linked_to,
)
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Choice, Number, Pairs, Place, Seed, Toggle, Velocity, When, options
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.polar import polar_of
from nimble_quake.raster.noise.fractal import Recipe, fractal, fractal_at

Plane = NDArray[np.float32]

LAYER_SEEDS = 1009
"""From the seed of one layer to the next: channels and octaves have those between."""
MIDWAY = 300.0
"""How far from the centre, in px, features laid in rings have their size across."""


class Noise(Source):
    """Noise of several kinds, summed over octaves; one octave looks like waves, many like smoke."""

    title = "Noise"
    called = "clouds, turbulence, fractal"
    group = "Soft"
    help = "Soft, everywhere: haze, water, smoke, cloth"
    lively = {"churn": 0.6, "drift": (60.0, 0.0)}
    looks = (
        ("Billows", "Round, puffed up clouds", {"sum": "billowy", "size_x": 420.0, "size_y": 420.0, "churn": 0.3}),
        (
            "Crests",
            "Sharp bright crests, like folded cloth",
            {"turn": 32.0, "sum": "ridged", "size_x": 360.0, "size_y": 360.0, "churn": 0.2},
        ),
        (
            "Threads",
            "Thin bright strings in the dark",
            {
                "turn": 32.0,
                "sum": "stringy",
                "contrast": 1.35,
                "brightness": -0.35,
                "size_x": 600.0,
                "size_y": 600.0,
                "octaves": 3,
                "churn": 0.14,
            },
        ),
        ("Marble", "Bent by itself into veins", {"bend": 1.2, "octaves": 5, "churn": 0.1}),
        ("Swirls", "Two channels that turn, with no source and no sink", {"swirl": True, "octaves": 2, "churn": 0.2}),
        (
            "Bubbles",
            "Cells, dark in their middles",
            {"base": "nearest", "octaves": 1, "size_x": 160.0, "size_y": 160.0, "churn": 0.2},
        ),
        (
            "Cracks",
            "The seams between cells",
            {"base": "edge", "octaves": 1, "size_x": 200.0, "size_y": 200.0, "churn": 0.1},
        ),
        (
            "Shards",
            "Cells of one value each",
            {"base": "flat", "octaves": 1, "size_x": 180.0, "size_y": 180.0, "churn": 0.05},
        ),
        (
            "Tiles",
            "Square cells of one value each",
            {"base": "blocks", "octaves": 1, "size_x": 160.0, "size_y": 90.0, "churn": 0.6},
        ),
    )

    base = Choice(
        label="Kind",
        help="What each octave is made of",
        default="smooth",
        options=options(
            smooth="Smooth: gradient noise",
            softer="Softer: rounder and calmer",
            value="Value: boxier clouds",
            simplex="Simplex: without a grain",
            blocks="Blocks: flat squares",
            nearest="Cells: distance to the nearest point (F1)",
            second="Far: distance to the second point (F2)",
            edge="Seams: between the cells (F2 - F1)",
            flat="Flat: cells of one value each",
        ),
    )
    sum = Choice(
        label="Sum",
        help="How the octaves add up",
        default="plain",
        options=options(
            plain="Plain: soft clouds",
            billowy="Billowy: round, puffed up",
            ridged="Ridged: sharp crests",
            stringy="Stringy: thin bright threads",
        ),
    )
    size_x = a_size("Size across", "Width of one feature; larger is calmer", 300.0, (20, 800))
    size_y = a_size("Size down", "Height of one feature; larger is calmer", 300.0, (20, 800))
    size_y = linked_to("size_x", size_y)
    octaves = Number(
        label="Octaves",
        help="How many finer layers are added",
        default=4,
        hard=(1, 10),
        usual=(1, 8),
        whole=True,
        decimals=0,
    )
    gain = Number(
        label="Gain",
        help="How strong each finer layer is beside the one before: turned up, rougher",
        default=0.5,
        hard=(0, 1),
        usual=(0.2, 0.8),
        decimals=2,
    )
    lacunarity = Number(
        label="Lacunarity",
        help="How much finer each layer is than the one before: turned up, finer",
        default=2.0,
        hard=(1, 8),
        usual=(1.5, 3),
        decimals=2,
    )
    churn = a_rate("Churn", "How fast it changes its shape in place, in turns per second", 0.0, (0, 3))
    churn = replace(churn, hard=(-100, 100), decimals=2, accumulates=True)
    phase = Number(
        label="Phase",
        help="Turns of its shape beside those of the churn: pinned from 0 to 2 it changes twice round",
        default=0.0,
        hard=(-10000, 10000),
        usual=(0, 2),
        decimals=2,
    )
    turn = an_angle("Turns the whole pattern clockwise")
    contrast = Number(
        label="Contrast",
        help="How far light and dark lie apart",
        default=1.0,
        neutral=1.0,
        hard=(-20, 20),
        usual=(0, 3),
        decimals=2,
    )
    brightness = Number(
        label="Brightness",
        help="Raises or lowers all values; off 0 the picture slides",
        default=0.0,
        hard=(-2, 2),
        usual=(-0.5, 0.5),
        decimals=2,
    )
    drift = Velocity(label="Drift", help="How fast and which way the pattern travels")
    offset = Pairs(
        label="Offset",
        help="How far the pattern lies beside where the drift has carried it, across and down",
        default=(0.0, 0.0),
        hard=(-100000, 100000),
        unit="px",
        decimals=0,
    )
    layers = a_count("Layers", "How many lie over each other, each another arrangement of the same kind", 1, 8, (1, 4))
    layer_speed = a_layer_ratio("Layer speed", "How fast a layer churns and drifts beside the one before", 0.7)
    layer_light = a_layer_ratio("Layer light", "How far its light and dark lie apart beside the one before", 0.7)
    layer_phase = Number(
        label="Layer phase",
        help="Turns of its shape that a layer is ahead of the one before",
        default=0.25,
        hard=(-100, 100),
        usual=(0, 1),
        decimals=2,
        shown_when=SEVERAL_LAYERS,
    )
    bend = Number(
        label="Bend",
        help="Bends the noise by itself, in features: smoke and marble",
        default=0.0,
        hard=(0, 20),
        usual=(0, 2),
        decimals=2,
    )
    swirl = Toggle(label="Swirl", help="Two channels that turn round the noise's hills: nothing gathers or thins out")
    two = Toggle(label="Two maps", help="Across and down get noise of their own (red and green)", default=False)
    colour = Toggle(label="Colour", help="Red, green and blue get noise of their own", default=False)
    rings = Toggle(label="In rings", help="Lays it round a centre: the way down becomes the way out; no seam")
    centre = Place(label="Centre", help="What the rings lie round", shown_when=When("rings"))
    seed = Seed(label="Seed", help="Another chance arrangement of the same kind", default=1)
    loop = Number(
        label="Loop",
        help="After how many seconds it repeats without a seam; 0 never",
        default=0.0,
        zero="never",
        hard=(0, 3600),
        usual=(0, 10),
        unit="s",
        decimals=2,
    )

    def eased(self) -> Values:
        return {"contrast": round(self.contrast * 0.7, 2)}

    def timed(self) -> bool:
        return self.loop > 0

    def looks_back(self) -> bool:
        return self.loop > 0

    def make(self, grid: Grid, ctx: Context) -> Field:
        spread, middle = self.contrast * 0.5, 0.5 + self.brightness
        if self.layers > 1 or self.swirl or self.loop > 0 or self.rings or self.bend > 0:
            sums = self._layered(grid, ctx)
            sums *= np.float32(spread)
            sums += np.float32(middle)
        else:
            place, recipe = self._place(self._gone(self.drift)), self._recipe(self.churn + self.phase, 256)
            sums = fractal(grid, place, recipe, self._channels(), spread, middle)
        if self.colour and not self.swirl:
            return np.concatenate([sums, np.ones((*grid.shape, 1), np.float32)], axis=2)
        return sums

    def _layered(self, grid: Grid, ctx: Context) -> Field:
        """Its layers over each other, centred on 0; their sum is spread as widely as one of them."""
        if self.layers <= 1:
            return self._sums(grid, ctx, 0)
        weights = self.layer_light ** np.arange(int(self.layers), dtype=np.float32)
        weights /= np.sqrt((weights * weights).sum())
        sums = (self._layer(n)._sums(grid, ctx, n) * weight for n, weight in enumerate(weights))
        return functools.reduce(operator.iadd, sums)

    def _layer(self, number: int) -> Noise:
        """One of its layers, as noise of its own."""
        if number == 0:
            return self
        fast = self.layer_speed**number
        return type(self)(
            {
                **self.values,
                "churn": self.churn * fast,
                "drift": (self.drift[0] * fast, self.drift[1] * fast),
                "phase": self.phase + number * self.layer_phase,
                "seed": self.seed + LAYER_SEEDS * number,
            }
        )

    def _sums(self, grid: Grid, ctx: Context, layer: int) -> Field:
        """The noise centred on 0, however it is bent, swirled or looped. layer: which of all layers it is."""
        around = grid.grown(1) if self.swirl else grid
        sums = self._looped(around, ctx, layer) if self.loop > 0 else self._now(around)
        return _curl(sums[..., 0], grid.step, math.sqrt(self.size_x * self.size_y)) if self.swirl else sums

    def _now(self, grid: Grid) -> Field:
        return self._slice(grid, self._gone(self.drift), self.churn + self.phase, 256)

    def _gone(self, way: tuple[float, float]) -> tuple[float, float]:
        """How far the pattern has travelled, from what the drift made of it."""
        return way[0] + self.offset[0], way[1] + self.offset[1]

    def _channels(self) -> int:
        return 1 if self.swirl else 3 if self.colour else 2 if self.two else 1

    def _recipe(self, z: float, period: int) -> Recipe:
        return Recipe(self.base, self.sum, int(self.octaves), self.gain, self.lacunarity, self.seed, z, period)

    def _place(self, gone: tuple[float, float]) -> Affine:
        return affine.compose(affine.shift(-gone[0], -gone[1]), self._to_lattice())

    def _slice(self, grid: Grid, gone: tuple[float, float], z: float, period: int) -> Field:
        recipe, place = self._recipe(z, period), self._place(gone)
        if self.rings:
            return self._in_rings(grid, gone, recipe)
        if self.bend > 0:
            coarse = self._coarser(recipe)
            return self._bent(*_spread(grid, place), recipe, fractal(grid, place, coarse, 2))
        return fractal(grid, place, recipe, self._channels())

    def _coarser(self, recipe: Recipe) -> Recipe:
        return Recipe(
            "smooth", "plain", min(recipe.octaves, 3), recipe.gain, 2.0, recipe.seed + 1, recipe.z, recipe.z_period
        )

    def _bent(self, us: Plane, vs: Plane, recipe: Recipe, aside: Field | None, wrap: int = 0) -> Field:
        """The noise looked up where a coarser sum points (domain warping)."""
        if aside is not None:
            us, vs = us + aside[..., 0] * np.float32(self.bend), vs + aside[..., 1] * np.float32(self.bend)
        return fractal_at(us, vs, recipe, self._channels(), wrap)

    def _in_rings(self, grid: Grid, gone: tuple[float, float], recipe: Recipe) -> Field:
        """In polar coordinates directly: the way round in whole cells, the way out in features."""
        radius, angle = polar_of(grid, self.centre)
        count = max(1, round(2 * math.pi * MIDWAY / self.size_x))
        us = (angle - np.float32(self.turn / 360)) * np.float32(count) - np.float32(gone[0] / self.size_x)
        vs = (radius - np.float32(gone[1])) / np.float32(self.size_y)
        aside = fractal_at(us, vs, self._coarser(recipe), 2, count) if self.bend > 0 else None
        return self._bent(us, vs, recipe, aside, count)

    def _to_lattice(self) -> Affine:
        return affine.compose(affine.turn(-self.turn), affine.stretch(1 / self.size_x, 1 / self.size_y))

    def _looped(self, grid: Grid, ctx: Context, layer: int) -> Field:
        """A loop: churn makes a whole number of turns; drift is faded, at even spread, into its own start."""
        seconds = ctx.at.seconds % self.loop
        fraction = seconds / self.loop
        here, end = (ctx.other(at)._layer(layer) for at in (seconds, self.loop))
        turns = math.copysign(max(1, round(abs(end.churn))), end.churn) if end.churn else 0.0
        period = min(256, int(abs(turns))) or 256
        z = self.phase + ((here.churn / end.churn * turns) % period if turns else 0.0)
        fades = self.base == "simplex" and turns  # its lattice is slanted and cannot repeat: fade in time too
        if end.drift == (0.0, 0.0) and not fades:
            return self._slice(grid, self._gone(here.drift), z, period)
        fresh = self._slice(grid, self._gone(here.drift), z, period)
        back = (here.drift[0] - end.drift[0], here.drift[1] - end.drift[1])
        old = self._slice(grid, self._gone(back), z - (period if fades else 0), period)
        fresh *= np.float32(math.cos(fraction * math.pi / 2))
        fresh += old * np.float32(math.sin(fraction * math.pi / 2))
        return fresh


def _spread(grid: Grid, place: Affine) -> tuple[Plane, Plane]:
    """Return the lattice places of a grid's samples, each (H, W)."""
    a, b, c, d, e, f = place
    xs, ys = grid.xs().astype(np.float64), grid.ys().astype(np.float64)[:, None]
    return (a * xs + b * ys + c).astype(np.float32), (d * xs + e * ys + f).astype(np.float32)


def _curl(hills: Plane, step: float, size: float) -> Field:
    """Return (dn/dy, -dn/dx) of a potential known one sample beyond the border, scaled to about its own spread."""
    times = np.float32(0.5 * size / step / 2)
    across = (hills[2:, 1:-1] - hills[:-2, 1:-1]) * times
    down = (hills[1:-1, :-2] - hills[1:-1, 2:]) * times
    return np.stack([across, down], axis=2)
