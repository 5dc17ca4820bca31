"""Hold."""

from __future__ import annotations

import math

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_rate
from nimble_quake.operators.steps import Shaper
from nimble_quake.raster.geometry.grid import Grid


class Hold(Shaper):
    """Shows fewer moments a second, each held until the next: jerky, as on twos."""

    title = "Hold"
    group = "Time"
    help = "Fewer new moments a second: jerky"
    lively = {"rate": 3.0}
    sees_other_times = True

    rate = a_rate("Rate", "New moments a second", 8.0, (1, 24))

    def idle(self) -> bool:
        return self.rate <= 0

    def run(self, grid: Grid, ctx: Context) -> Field:
        return ctx.below(grid, math.floor(ctx.at.seconds * self.rate + 1e-6) / self.rate)
