"""A flat value."""

from __future__ import annotations

from nimble_quake.conventions import REST, Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_level
from nimble_quake.operators.steps import Source, flat
from nimble_quake.params.kinds import Toggle
from nimble_quake.raster.geometry.grid import Grid


class Flat(Source):
    """One value everywhere: the rest level, to fade a map back to nothing, or any other."""

    title = "Flat"
    group = "Pictures"
    help = "One value everywhere: rest, or a push of the whole picture"

    at_rest = Toggle(label="Rest", help="Exactly the rest level: moves nothing", default=True)
    value = a_level("Value", "The value everywhere", 0.5)

    def make(self, grid: Grid, ctx: Context) -> Field:
        return flat(grid, REST if self.at_rest else self.value)
