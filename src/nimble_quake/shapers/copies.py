"""Delayed copies."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count, a_share, a_time, an_angle
from nimble_quake.operators.meeting import MEET, Repeating
from nimble_quake.params.kinds import Number, Pairs, Place
from nimble_quake.raster.bent import places_of, sampled_at
from nimble_quake.raster.grid import Grid


class Copies(Repeating):
    """Copies of the map, each moved, turned, grown and delayed by one step more than the one before."""

    title = "Copies"
    group = "Time"
    help = "Delayed or growing copies, one over another"
    looks = (
        (
            "Growing copies",
            "Each one larger, added",
            {"delay": 0.0, "grow": 1.25, "meet": "add", "decay": 0.7, "move": (0.0, 0.0)},
        ),
    )

    copies = a_count("Copies", "How many beside the map itself", 3, 32, (1, 12))
    delay = a_time("Delay", "Each copy is this much later", 0.15, (0, 1))
    move = Pairs(label="Move", help="Each copy lies this much farther", default=(40.0, 0.0), decimals=0)
    turn = an_angle("Each copy is turned by this much more")
    grow = Number(
        label="Grow", help="Each copy is this much larger", default=1.0, hard=(0.05, 20), usual=(0.5, 2), unit="%",
        factor=100, decimals=0,
    )  # fmt: skip
    about = Place(label="About", help="What copies turn and grow about")
    decay = a_share("Decay", "How strong each is beside the one before", 0.8)
    meet = replace(MEET, default="lighten")

    def copy(self, number: int, grid: Grid, ctx: Context) -> Field:
        seconds = ctx.at.seconds - number * self.delay
        angle, size = math.radians(-self.turn * number), min(max(self.grow**number, 1e-3), 1e3)
        c, s = math.cos(angle) / size, math.sin(angle) / size
        if (c, s) == (1.0, 0.0) and self.move == (0.0, 0.0):
            return ctx.below(grid, seconds)
        places = places_of(grid)
        x = places[0] - np.float32(self.about[0] + number * self.move[0])
        y = places[1] - np.float32(self.about[1] + number * self.move[1])
        places[0] = x * np.float32(c) - y * np.float32(s) + np.float32(self.about[0])
        places[1] = x * np.float32(s) + y * np.float32(c) + np.float32(self.about[1])
        return sampled_at(lambda on: ctx.below(on, seconds), grid, places, (ctx.at.width, ctx.at.height), 0.5)
