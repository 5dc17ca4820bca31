"""Time shift and speed."""

from __future__ import annotations

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_time
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Number
from nimble_quake.raster.geometry.grid import Grid


class TimeShift(Shaper):
    """Shows the map earlier or later, faster or slower than the shot."""

    title = "Time shift"
    group = "Time"
    help = "Earlier, later, faster, slower, backwards"
    lively = {"speed": 3.0}
    sees_other_times = True

    speed = Number(
        label="Speed",
        help="How fast the map's time runs; below 0 backwards",
        default=1.0,
        hard=(-100, 100),
        usual=(0, 3),
        unit="%",
        factor=100,
        decimals=0,
    )
    later = a_time("Later", "Shows what comes so much later; below 0 what was before", 0.0, (-3, 3), low=-3600.0)

    def idle(self) -> bool:
        return self.speed == 1 and self.later == 0

    def run(self, grid: Grid, ctx: Context) -> Field:
        return ctx.below(grid, ctx.at.seconds * self.speed + self.later)
