"""Echo."""

from __future__ import annotations

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.meeting import MEET, Repeating
from nimble_quake.operators.quantities import a_count, a_fraction, a_time
from nimble_quake.raster.geometry.grid import Grid


class Echo(Repeating):
    """Adds earlier moments of the map, each weaker: things leave their past behind."""

    title = "Echo"
    group = "Time"
    help = "Earlier moments shine through, weaker and weaker"
    lively = {"copies": 5, "delay": 0.2}

    copies = a_count("Copies", "How many earlier moments", 4, 32, (1, 12))
    delay = a_time("Delay", "Time from one to the next", 0.12, (0.02, 1))
    decay = a_fraction("Decay", "How strong each is beside the one after it", 0.6)
    meet = MEET

    def copy(self, number: int, grid: Grid, ctx: Context) -> Field:
        return ctx.below(grid, ctx.at.seconds - number * self.delay)
