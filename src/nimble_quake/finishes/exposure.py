"""Exposure."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Number
from nimble_quake.raster.colour.light import exposed
from nimble_quake.raster.geometry.grid import Grid


class Exposure(Finish):
    """Brightens as a camera does, by stops: each doubles the light (in linear light, IEC 61966-2-1)."""

    title = "Exposure"
    group = "Colour"
    rank = 330
    help = "Brighter or darker by stops, warmer or cooler"
    lively = {"stops": 1.5}
    alpha = "kept"
    looks = (("White balance", "Warmer or cooler", {"stops": 0.0, "warmth": 0.35}),)

    stops = Number(
        label="Stops",
        help="Each doubles the light; below 0 halves it",
        default=0.5,
        hard=(-20, 20),
        usual=(-4, 4),
        decimals=2,
    )
    warmth = Number(
        label="Warmth",
        help="Above 0 warmer, towards orange; below 0 cooler, towards blue",
        default=0.0,
        hard=(-2, 2),
        usual=(-1, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    magenta = Number(
        label="Magenta",
        help="Above 0 towards magenta; below 0 towards green",
        default=0.0,
        hard=(-2, 2),
        usual=(-1, 1),
        unit="%",
        factor=100,
        decimals=0,
    )

    def idle(self) -> bool:
        return (self.stops, self.warmth, self.magenta) == (0, 0, 0)

    def gains(self) -> np.ndarray:
        """Return what linear red, green and blue are multiplied by; white balance keeps the brightness (BT.709)."""
        shift = np.array((self.warmth + self.magenta / 2, -self.magenta / 2, -self.warmth + self.magenta / 2))
        balance = 2.0**shift
        balance /= balance @ np.array((0.2126, 0.7152, 0.0722))
        return np.asarray(balance * 2.0**self.stops, np.float32)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        return exposed(field, self.gains())
