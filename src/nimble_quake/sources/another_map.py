"""Another map."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Source
from nimble_quake.params.kinds import Exceptions, MapRef, Number
from nimble_quake.raster.geometry.grid import Grid


class AnotherMap(Source):
    """A map of the shot with all its channels, now or at another time: about its own rest level, which becomes 0.5.

    A live copy: change the map, and it follows, but for values that are other ones here.
    """

    title = "Another map"
    group = "Pictures"
    rank = 50
    help = "A map of this shot as it is, now or at another time"
    called = "live copy, exceptions, reuse, combine maps, same map, all channels"

    lively = {"other": "other"}

    other = MapRef(label="Map", help="The map it shows, finished", wanted=True, exceptions_by="exceptions")
    later = Number(
        label="Later",
        help="How much later than now the map is read; below 0 earlier",
        default=0.0,
        hard=(-3600, 3600),
        usual=(-2, 2),
        unit="s",
        decimals=2,
    )

    exceptions = Exceptions(label="Exceptions", help="Values of that map that are other ones here", of="other")

    def timed(self) -> bool:
        return bool(self.later != 0)

    def looks_back(self) -> bool:
        return self.timed()

    def make(self, grid: Grid, ctx: Context) -> Field:
        at = ctx.at.seconds + self.later if self.later else None
        found = ctx.map_values(self.other, grid, at, self.exceptions) if self.other else None
        if found is None:
            return np.full((*grid.shape, 1), REST, np.float32)
        shift = np.float32(REST - ctx.services.map_rest(self.other, self.exceptions))
        if shift == 0:
            return found
        out = found.copy()
        out[..., :3] += shift  # what is fourth is how much there is
        return out
