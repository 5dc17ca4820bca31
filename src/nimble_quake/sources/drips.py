"""Drips."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, a_layer_ratio, a_level, a_size
from nimble_quake.operators.steps import Made, Source
from nimble_quake.params.kinds import Number, Seed, Toggle
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.drips import drips


class Drips(Source):
    """Drops that run down a window for ever, with streaks above them, in layers of their own speed and size."""

    title = "Drips"
    group = "Moving matter"
    help = "Rain on a window: drops and streaks, endless"
    looks = (
        ("Drizzle", "Many small drops", {"lane": 18.0, "radius": 3.0, "streak": 90.0, "spacing": 240.0, "layers": 4}),
    )

    layers = a_count("Layers", "How many lie over each other, each smaller and slower (1, 0.85, 0.75)", 3, 8, (1, 5))
    layer_size = a_layer_ratio("Layer size", "How large a layer is beside the one before; 100 % as usual", low=0.05)
    layer_speed = a_layer_ratio("Layer speed", "How fast it falls beside the one before, for its size")
    layer_light = a_layer_ratio("Layer light", "How bright it is beside the one before")
    lane = a_size("Lane", "Width of the lane a drop runs in; narrower is denser", 44.0, (8, 160))
    spacing = a_size("Spacing", "Distance from drop to drop in a lane", 620.0, (80, 2000), low=20.0)
    radius = a_size("Drop", "Radius of a drop", 8.0, (2, 40))
    streak = a_distance("Streak", "Length of the streak above a drop", 260.0, (0, 900))
    strength = a_fraction("Trail", "How bright a streak is beside its drop", 0.75)
    speed = Number(
        label="Speed",
        help="How fast drops fall",
        default=150.0,
        hard=(-20000, 20000),
        usual=(0, 600),
        unit="px/s",
        decimals=0,
        accumulates=True,
    )
    speeds = a_fraction("Uneven", "How much the speeds differ", 0.6)
    sizes = a_fraction("Size spread", "How much the sizes differ", 0.8)
    wander = a_distance("Wander", "How far drops sway to the sides", 6.0, (0, 40))
    bend = a_size("Bend", "How far a drop falls while it sways to one side, to the other and back", 565.5, (100, 2000))
    density = a_fraction("Density", "How many lanes have drops", 0.55)
    low = a_level("Ground", "Value where there is no water", 0.5)
    high = a_level("Drops", "Value of a drop", 1.0)
    clear = Toggle(label="Clear", help="What no drop touches is clear, so that what lies beneath shows")
    seed = Seed(label="Seed", help="Other lanes", default=1)

    def make(self, grid: Grid, ctx: Context) -> Made:
        found: Field = drips(
            grid,
            layers=int(self.layers),
            lane=self.lane,
            spacing=max(self.spacing, 4 * self.radius),
            radius=min(self.radius, 0.48 * self.lane),
            streak=self.streak,
            gone=self.speed,
            sizes=self.sizes,
            speeds=self.speeds,
            wander=self.wander,
            bend=self.bend,
            density=self.density,
            strength=self.strength,
            ratios=(self.layer_size, self.layer_speed, self.layer_light),
            seed=self.seed,
        )
        if self.clear:
            return np.full((*grid.shape, 1), self.high, np.float32), found
        return found * np.float32(self.high - self.low) + np.float32(self.low)
