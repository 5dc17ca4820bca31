"""Tile."""

from __future__ import annotations

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.quantities import a_count
from nimble_quake.params.kinds import Pairs, Toggle
from nimble_quake.raster.warps.operations import TILE, Bend


class Tile(Coordinate):
    """Small copies of the whole map side by side, every other one mirrored if asked, so that joints fit."""

    title = "Tile"
    group = "Space"
    help = "Many small copies side by side, mirrored so that they join"

    across = a_count("Across", "Copies side by side", 3, 500, (1, 12))
    down = a_count("Down", "Copies above each other", 2, 500, (1, 12))
    mirror = Toggle(label="Mirror", help="Turns every other copy round, so that joints fit", default=True)
    offset = Pairs(label="Offset", help="Moves the copies", decimals=0)

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        width, height = ctx.at.width, ctx.at.height
        each = (width / self.across, height / self.down)
        return ((TILE, (width, height, *each, *self.offset, float(self.mirror))),)
