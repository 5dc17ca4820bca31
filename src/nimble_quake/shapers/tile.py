"""Tile."""

from __future__ import annotations

import numpy as np
from numba import njit

from nimble_quake.conventions import Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count
from nimble_quake.operators.steps import Bender
from nimble_quake.params.kinds import Pairs, Toggle
from nimble_quake.raster.rows import run_rows


class Tile(Bender):
    """Small copies of the whole map side by side, every other one mirrored if asked, so that joints fit."""

    title = "Tile"
    group = "Space"
    help = "Many small copies side by side, mirrored so that they join"

    across = a_count("Across", "Copies side by side", 3, 500, (1, 12))
    down = a_count("Down", "Copies above each other", 2, 500, (1, 12))
    mirror = Toggle(label="Mirror", help="Turns every other copy round, so that joints fit", default=True)
    offset = Pairs(label="Offset", help="Moves the copies", decimals=0)

    def look(self, places: Warp, ctx: Context) -> Warp:
        sides, counts = (ctx.at.width, ctx.at.height), (self.across, self.down)
        for plane, side, count, away in zip(places, sides, counts, self.offset, strict=True):
            run_rows(_tiled, plane.shape[0], plane, side, side / count, away, self.mirror)
        return places


@njit(cache=True, nogil=True, error_model="numpy")
def _tiled(plane, side, each, away, mirror, first, last):  # type: ignore[no-untyped-def]
    side, per, away, one = np.float32(side), np.float32(1 / each), np.float32(away), np.float32(1)
    for j in range(first, last):
        for i in range(plane.shape[1]):
            t = (plane[j, i] - away) * per
            whole = np.floor(t)
            t -= whole
            if mirror and int(whole) & 1:
                t = one - t
            plane[j, i] = t * side
