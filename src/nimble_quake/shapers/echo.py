"""Echo."""

from __future__ import annotations

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count, a_share, a_time
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.sums import Meeting, met


class Echo(Shaper):
    """Adds earlier moments of the map, each weaker: things leave their past behind."""

    title = "Echo"
    group = "Time"
    help = "Earlier moments shine through, weaker and weaker"
    lively = {"copies": 5, "delay": 0.2}
    whole_map = True

    copies = a_count("Copies", "How many earlier moments", 4, 32, (1, 12))
    delay = a_time("Delay", "Time from one to the next", 0.12, (0.02, 1))
    decay = a_share("Decay", "How strong each is beside the one after it", 0.6)
    meet = Choice(
        label="Meet", help="How moments meet", default="mean", row=True,
        options=options(mean="Mean", lighten="Lightest", darken="Darkest", add="Add about rest"),
    )  # fmt: skip

    def run(self, grid: Grid, ctx: Context) -> Field:
        parts = [Meeting(ctx.below(grid), 1.0)]
        for n in range(1, int(self.copies) + 1):
            weight = self.decay**n
            if weight > 0.004:
                parts.append(Meeting(ctx.below(grid, ctx.at.seconds - n * self.delay), weight))
        return met(parts, self.meet, ctx.rest)
