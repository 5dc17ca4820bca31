"""Kaleidoscope."""

from __future__ import annotations

import math

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.quantities import a_count, an_angle
from nimble_quake.params.kinds import Place
from nimble_quake.raster.warps.operations import FOLDS, Bend


class Kaleidoscope(Coordinate):
    """One sector of the map, mirrored round a centre."""

    title = "Kaleidoscope"
    group = "Space"
    rank = 1401
    far = 0.25
    help = "A sector, mirrored round and round"

    sectors = a_count("Sectors", "How many pairs of mirrored sectors", 6, 200, (2, 16))
    centre = Place(label="Centre", help="What the mirrors meet at")
    turn = an_angle("Turns the sector that is looked at", 0.0, "Sector")
    spin = an_angle("Turns the whole", 0.0, "Turn")

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        turns = (math.pi / self.sectors, math.radians(self.turn), math.radians(self.spin))
        return ((FOLDS, (*self.centre, *turns)),)
