"""Difference."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_time
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, MapRef, Number, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid


class Difference(Shaper):
    """How the map differs from another, or from its own past: what stands still is at rest."""

    title = "Difference"
    group = "Time"
    help = "Only what moves, or what two maps do not share"
    lively = {"power": 5.0, "delay": 0.2}
    sees_other_times = True

    other = MapRef(label="From", help="The other map; none: its own past")
    delay = a_time("Past", "How long ago its own past is", 0.1, (0.02, 1))
    power = Number(label="Power", help="Times the difference", default=2.0, hard=(-100, 100), usual=(0, 8), decimals=1)
    sign = Choice(
        label="Sign",
        help="What a fall is",
        default="both",
        row=True,
        options=options(both="Below rest", folded="Above, as a rise: no sign"),
    )

    def _of_pictures(self, grid: Grid, ctx: Context) -> Picture:
        """How far the picture differs from its own past, in each colour; it keeps its alpha."""
        now = ctx.below(grid)
        out = np.abs(now - ctx.below(grid, ctx.at.seconds - self.delay)) * np.float32(self.power)
        out[..., 3] = now[..., 3]
        out[..., :3] = np.clip(out[..., :3], 0, out[..., 3:])
        return np.asarray(out, np.float32)

    def run(self, grid: Grid, ctx: Context) -> Field:
        if ctx.picture:
            return self._of_pictures(grid, ctx)
        now = channel(ctx.below(grid), "value")
        if self.other:
            found = ctx.map_values(self.other, grid)
            then = np.full(grid.shape, REST, np.float32) if found is None else channel(found, "value")
        else:
            then = channel(ctx.below(grid, ctx.at.seconds - self.delay), "value")
        apart = (now - then) * np.float32(0.5 * self.power)
        if self.sign == "folded":
            apart = np.abs(apart)
        return (apart + np.float32(REST))[..., None]
