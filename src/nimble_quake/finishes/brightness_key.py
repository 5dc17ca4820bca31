"""Brightness key."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.keying import Keyer
from nimble_quake.operators.quantities import a_fraction, a_level
from nimble_quake.raster.finishes.keys import kept_between
from nimble_quake.raster.finishes.rims import thinned
from nimble_quake.raster.geometry.grid import Grid


class BrightnessKey(Keyer):
    """Keeps what lies between two levels of brightness and takes the rest away: lamps from a night, ink from paper."""

    title = "Brightness key"
    unseen_because = "Nothing in the picture is darker or brighter than what it keeps"
    rank = 610
    help = "Keeps what is as bright as asked, the rest becomes clear"
    lively = {"low": 0.5}

    low = a_level("From", "Darker parts become clear", 0.5)
    high = a_level("To", "Brighter parts become clear", 1.0)
    softness = a_fraction("Softness", "Over how wide a range of brightness it fades", 0.1, (0, 2))

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        kept = kept_between(field, self.low, self.high, self.softness)
        fraction = self.edged(1 - kept if self.invert else kept, outer, grid)
        return thinned(field, fraction, grid.inside(outer))
