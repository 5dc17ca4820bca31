"""Water height."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.operators import hits
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_fraction, a_rate, a_size, an_angle
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Number, Seed
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed
from nimble_quake.raster.shapes.rings import Ring, add_rings, ripple_ring
from nimble_quake.raster.shapes.water import waves


class Water(Source):
    """The height of a moving water surface: long waves run faster than short ones; drops may fall on it."""

    title = "Water"
    group = "Moving matter"
    help = "A moving water surface: sea, pool, puddle"
    looks = (
        ("Pool", "Short waves from all sides", {"size": 90.0, "spread": 360.0, "speed": 0.6, "waves": 32}),
        (
            "Rain on water",
            "Drops fall on a calm surface",
            {"height": 0.25, "drops": 3.0, "drop_size": 60.0, "size": 200.0},
        ),
    )

    size = a_size("Wave length", "Length of the main waves", 220.0, (30, 800))
    waves = a_count("Waves", "How many waves of other lengths and bearings run together", 24, 96, (4, 48))
    turn = an_angle("Which way they run; 0 to the right", 20.0)
    spread = Number(
        label="Spread",
        help="How far their bearings differ",
        default=70.0,
        hard=(0, 360),
        usual=(0, 360),
        unit="°",
        decimals=0,
    )
    height = a_fraction("Height", "How high the waves are", 0.6, (0, 10))
    chop = a_fraction("Fine waves", "How strong the short waves are", 0.5)
    speed = Number(
        label="Speed",
        help="How fast time runs for the water",
        default=1.0,
        hard=(-100, 100),
        usual=(0, 3),
        decimals=2,
        accumulates=True,
    )
    drops = a_rate("Drops", "How many drops fall a second, by chance", 0.0, (0, 10))
    drop_size = a_size("Drop size", "Length of the waves a drop makes", 60.0, (10, 200))
    drop_height = a_fraction("Drop height", "How high those are", 0.6, (0, 10))
    seed = Seed(label="Seed", help="Other waves and drops", default=1)

    def timed(self) -> bool:
        return self.drops > 0

    def make(self, grid: Grid, ctx: Context) -> Field:
        out = np.full((*grid.shape, 1), REST, np.float32)
        if self.height > 0:
            self._waves(grid, out)
        if self.drops > 0:
            add_rings(grid, self._drops(ctx), out)
        return out

    def _waves(self, grid: Grid, out: Field) -> None:
        rng = np.random.Generator(np.random.PCG64(self.seed))
        count = int(self.waves)
        fractions = (np.arange(count) + rng.random(count)) / count
        lengths = self.size * 2.0 ** (1.0 - 4.0 * fractions)  # from twice the size to an eighth of it
        bearings = np.radians(self.turn + (rng.random(count) - 0.5) * self.spread)
        k = 2 * np.pi / lengths
        omega = np.sqrt(GRAVITY * k)
        amounts = (lengths / self.size) ** (1.6 - 1.2 * self.chop)
        amounts *= 0.5 * self.height / math.sqrt(float((amounts**2).sum()) * 2)
        phases = rng.random(count) * 2 * np.pi - omega * self.speed
        waves(grid, k * np.cos(bearings), k * np.sin(bearings), phases, amounts, out)

    def _drops(self, ctx: Context) -> list[Ring]:
        """Drops fall in even slots of time, each at a chance moment of its slot and a chance place."""
        life, slot = 2.5, 1 / self.drops
        newest = math.floor(ctx.at.seconds * self.drops)
        found = []
        for number in range(max(newest - hits.MOST, math.floor((ctx.at.seconds - life) * self.drops)), newest + 1):
            age = ctx.at.seconds - (number + mixed(number, 1, 2, self.seed)) * slot
            if not 0 <= age < life:
                continue
            x, y = mixed(number, 2, 2, self.seed) * ctx.at.width, mixed(number, 3, 2, self.seed) * ctx.at.height
            speed = math.sqrt(GRAVITY * self.drop_size / (2 * math.pi))
            ring = ripple_ring(x, y, age, self.drop_size, speed, 4 * ctx.at.width)
            power = 0.5 * self.drop_height * (1 - age / life) ** 1.5 * min(1.0, age / 0.06)
            found.append(Ring(x, y, 0.0, ring.per, (ring.values * power).astype(np.float32)))
        return found


GRAVITY = 1200.0
"""In shot px/s^2: a 220 px wave then runs at 205 px/s (deep water, c^2 = g lambda / 2 pi)."""
