"""Delayed copies."""

from __future__ import annotations

from dataclasses import replace

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.meeting import MEET, Repeating
from nimble_quake.operators.quantities import a_count, a_fraction, a_time, an_angle
from nimble_quake.params.kinds import Number, Pairs, Place
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.operations import placed
from nimble_quake.raster.warps.warped import sampled_through


class Copies(Repeating):
    """Copies of the map, each moved, turned, grown and delayed by one step more than the one before."""

    title = "Copies"
    group = "Time"
    rank = 1500
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
        label="Grow",
        help="Each copy is this much larger",
        default=1.0,
        hard=(0.05, 20),
        usual=(0.5, 2),
        unit="%",
        factor=100,
        decimals=0,
    )
    about = Place(label="About", help="What copies turn and grow about")
    decay = a_fraction("Decay", "How strong each is beside the one before", 0.8)
    meet = replace(MEET, default="lighten")

    def copy(self, number: int, grid: Grid, ctx: Context) -> Field:
        seconds = ctx.at.seconds - number * self.delay
        size = min(max(self.grow**number, 1e-3), 1e3)
        away = (number * self.move[0], number * self.move[1])
        if (size, self.turn, *away) == (1.0, 0.0, 0.0, 0.0):
            return ctx.below(grid, seconds)
        bend = placed(self.about, away, number * self.turn, size, size)
        return sampled_through(lambda on: ctx.below(on, seconds), grid, (bend,), (ctx.at.width, ctx.at.height), 0.5)
