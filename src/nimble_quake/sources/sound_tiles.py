"""Sound tiles."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.errors import MotionError
from nimble_quake.motion.random_walk import wanders
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, a_level, a_size, an_angle
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import BandRef, Choice, MoreThan, Number, Place, Seed, When, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.blocks3d import camera, faces_of, painted

MOST = 100
MOST_BLOCKS = 10_000
IDLE_PACE = 1.6
"""How fast tiles move by themselves that listen to nothing, new places a second."""


def _band(does: str) -> BandRef:
    return BandRef(
        label=f"{does} by", help=f"The band of the sound that {does.lower()}s the tiles; none: by themselves"
    )


def a_shift(label: str, help: str, default: float = 0.0) -> Number:
    """How far blocks go, in px of the shot."""
    return Number(label=label, help=help, default=default, hard=(-2000, 2000), usual=(-400, 400), unit="px", decimals=0)


class SoundTiles(Source):
    """Blocks in depth, each pushed, turned, scaled and lit by bands of the sound, no two alike."""

    title = "Sound tiles"
    group = "Shapes"
    help = "Blocks in depth that bands of the sound push, turn, scale and light"
    looks = (
        (
            "Arch",
            "Half a ring, three layers deep, some of it astray",
            {
                "layout": "ring",
                "arc": 0.5,
                "roll": 180.0,
                "columns": 18,
                "rows": 3,
                "levels": 3,
                "scatter": 20.0,
                "tilt": 20.0,
            },
        ),
        ("Ring", "Blocks in rings about the middle", {"layout": "ring", "columns": 24, "rows": 5, "tilt": 30.0}),
        (
            "Wall",
            "Blocks close to each other, seen from the front",
            {"layout": "wall", "tilt": 0.0, "swing": 0.0, "gap": 0.0},
        ),
    )

    layout = Choice(
        label="Layout",
        help="How the blocks stand",
        default="grid",
        row=True,
        options=options(grid="Grid", ring="Ring", wall="Wall"),
    )
    columns = a_count("Columns", "How many stand side by side", 16, MOST, (2, 40))
    rows = a_count("Rows", "How many rows of them", 9, MOST, (2, 30))
    levels = a_count("Layers", "How many stand behind each other, in depth", 1, 12, (1, 6))
    level_gap = a_distance(
        "Layer gap", "From one layer to the next, in depth", 200.0, (40, 800), (1, 20_000), MoreThan("levels", 1)
    )
    arc = a_fraction("Part", "How much of the circle they stand round", 1.0, (0.01, 1), when=When("layout", "ring"))
    scatter = a_distance("Scatter", "How far each stands from its place, by chance, also in depth", 0.0, (0, 200))
    size = a_size("Size", "The side of a block's front", 80.0, (10, 300))
    gap = a_fraction("Gap", "How much of a block's place stays free", 0.18)
    thick = a_size("Thick", "How deep a block is", 60.0, (5, 400))
    place = Place(label="Place", help="The middle of all")
    tilt = an_angle("Turns the top away from you", 38.0, "Tilt")
    swing = an_angle("Turns the right side away from you", -18.0, "Swing")
    roll = an_angle("Turns them in their own plane", 0.0, "Roll")
    eye = Number(
        label="Eye",
        help="How far away the eye is; nearer makes depth stronger",
        default=1400.0,
        hard=(100, 100_000),
        usual=(400, 4000),
        unit="px",
        decimals=0,
    )
    push_by = _band("Push")
    push = a_shift("Push", "How far they come towards you at the loudest", 160.0)
    back_by = _band("Back")
    back = a_shift("Back", "How far another band draws them back at its loudest, against the push")
    lift_by = _band("Lift")
    lift = a_shift("Lift", "How far they go up at the loudest; below 0 down")
    turn_by = _band("Turn")
    turn = Number(
        label="Turn",
        help="How far they turn at the loudest",
        default=40.0,
        hard=(-3600, 3600),
        usual=(-180, 180),
        unit="°",
        decimals=0,
    )
    scale_by = _band("Scale")
    scale = Number(
        label="Scale",
        help="How much larger they get at the loudest",
        default=0.0,
        hard=(-1, 10),
        usual=(-1, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    light_by = _band("Light")
    light = Number(
        label="Light",
        help="How much lighter they get at the loudest",
        default=0.45,
        hard=(-4, 4),
        usual=(-1, 1),
        decimals=2,
    )
    grey = a_level("Grey", "How light a block is in silence", 0.45)
    shade = a_fraction("Shade", "How much darker sides are that look away from the light", 0.7)
    ground = a_level("Ground", "What lies between the blocks", 0.0)
    unlike = a_fraction("Unlike", "How differently the blocks answer", 0.7)
    lag = Number(
        label="Lag",
        help="How much later the blocks at the edge answer than those in the middle",
        default=0.2,
        hard=(0, 10),
        usual=(0, 1),
        unit="s",
        decimals=2,
    )
    attack = Number(
        label="Attack",
        help="How long they take to answer",
        default=5.0,
        hard=(0, 10_000),
        usual=(0, 200),
        unit="ms",
        decimals=0,
    )
    release = Number(
        label="Release",
        help="How long they take to come to rest",
        default=260.0,
        hard=(0, 60_000),
        usual=(0, 1000),
        unit="ms",
        decimals=0,
    )
    seed = Seed(label="Seed", help="Which of many ways they differ in")

    def timed(self) -> bool:
        return True

    def make(self, grid: Grid, ctx: Context) -> Field:
        middles, apart = self._places()
        if self._levels() < self.levels:
            what = f"{self._levels()} of {self.levels:.0f} layers are drawn: there are {MOST_BLOCKS} blocks at most"
            ctx.services.report_problem(what, "use fewer columns or rows")
        pushed, turned, grown, lit = (
            self._answers(ctx, band, apart, n)
            for n, band in enumerate((self.push_by, self.turn_by, self.scale_by, self.light_by))
        )
        middles[:, 2] += self.push * pushed
        if self.back:
            middles[:, 2] -= self.back * self._answers(ctx, self.back_by, apart, 4)
        if self.lift:
            middles[:, 1] -= self.lift * self._answers(ctx, self.lift_by, apart, 5)
        half = self.size * (1 - self.gap) / 2 * np.maximum(1 + self.scale * grown, 0.0)
        halves = np.stack([half, half, np.full_like(half, self.thick / 2)], axis=1)
        way = self._signs(7)
        turns = np.stack([self.turn * turned * way, self.turn * turned * self._signs(8) * 0.6], axis=1)
        greys = self.grey + self.light * lit
        view = camera(self.tilt, self.swing, self.roll)
        quads, shades = faces_of(middles, halves, turns, greys, view, self.eye, self.shade)
        return painted(quads, shades, grid, self.place, self.ground)

    def _places(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """The middles of the blocks, (n, 3), and how far each is from the middle of all, 0...1."""
        columns, rows = int(self.columns), int(self.rows)
        i, j = (axis.ravel() for axis in np.meshgrid(np.arange(columns), np.arange(rows)))
        if self.layout == "ring":
            inner = max(1.5, columns / math.tau * 0.55)
            radius = (inner + j) * self.size
            angle = (i + 0.5 * (j % 2)) / columns * math.tau * self.arc
            x, y = radius * np.cos(angle), radius * np.sin(angle)
        else:
            x, y = (i - (columns - 1) / 2) * self.size, (j - (rows - 1) / 2) * self.size
        far = np.hypot(x, y)
        middles = np.stack([x, y, np.zeros_like(x, np.float64)], axis=1)
        behind = np.arange(self._levels()).repeat(len(middles)) * self.level_gap
        middles = np.tile(middles, (self._levels(), 1))
        middles[:, 2] -= behind
        if self.scatter:
            middles += (np.stack([self._random(n) for n in (30, 31, 32)], axis=1) - 0.5) * 2 * self.scatter
        return middles, np.tile(far / max(float(far.max()), 1e-9), self._levels())

    def _levels(self) -> int:
        """How many layers there are: no more blocks in all than can be painted in time."""
        return max(1, min(int(self.levels), MOST_BLOCKS // (int(self.columns) * int(self.rows))))

    def _signs(self, number: int) -> NDArray[np.float64]:
        return np.where(self._random(number) < 0.5, -1.0, 1.0)

    def _random(self, number: int) -> NDArray[np.float64]:
        count = int(self.columns) * int(self.rows) * self._levels()
        rng = np.random.Generator(np.random.PCG64([int(self.seed), number]))
        return np.asarray(rng.random(count))

    def _answers(self, ctx: Context, band: str, apart: NDArray[np.float64], number: int) -> NDArray[np.float64]:
        """How strongly each block answers a band now, 0...1."""
        weights = 1 - self.unlike * self._random(number)
        seconds = ctx.at.seconds - self.lag * apart
        if not band:
            starts = self._random(number + 20) * 1000
            return np.asarray(np.clip(wanders(seconds * IDLE_PACE + starts), 0, 1) * weights)
        steps = np.unique(np.round(seconds * 60))
        try:
            levels = [ctx.at.at(float(s / 60 * ctx.at.rate)).level(band, self.attack, self.release) for s in steps]
        except MotionError as wrong:
            ctx.services.report_problem(wrong.what, wrong.cure)
            return np.zeros_like(apart)
        return np.asarray(np.interp(seconds * 60, steps, levels) * weights)
