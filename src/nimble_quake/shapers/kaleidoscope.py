"""Kaleidoscope."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count, an_angle
from nimble_quake.operators.steps import Bender
from nimble_quake.params.kinds import Place


class Kaleidoscope(Bender):
    """One sector of the map, mirrored round a centre."""

    title = "Kaleidoscope"
    group = "Space"
    far = 0.25
    help = "A sector, mirrored round and round"

    sectors = a_count("Sectors", "How many pairs of mirrored sectors", 6, 200, (2, 16))
    centre = Place(label="Centre", help="What the mirrors meet at")
    turn = an_angle("Turns the sector that is looked at", 0.0, "Sector")
    spin = an_angle("Turns the whole", 0.0, "Turn")

    def look(self, places: Warp, ctx: Context) -> Warp:
        x, y = places[0] - np.float32(self.centre[0]), places[1] - np.float32(self.centre[1])
        radius = np.hypot(x, y)
        each = np.float32(np.pi / self.sectors)
        angle = np.arctan2(y, x) - np.float32(np.radians(self.spin))
        folded = np.abs(angle - 2 * each * np.floor(angle / (2 * each)) - each) + np.float32(np.radians(self.turn))
        places[0] = radius * np.cos(folded) + np.float32(self.centre[0])
        places[1] = radius * np.sin(folded) + np.float32(self.centre[1])
        return places
