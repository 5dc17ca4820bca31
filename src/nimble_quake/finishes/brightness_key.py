"""Brightness key."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.keying import Keyer
from nimble_quake.operators.quantities import a_fraction, a_level
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.colour.clear import has_clear
from nimble_quake.raster.finishes.rims import thinned
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import in_bands


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

    def kept(self, bright: np.ndarray) -> np.ndarray:
        """Return how much is kept of brightnesses 0...1: ramps `softness` wide about the two levels."""
        per, half = np.float32(1 / max(self.softness, 1e-4)), np.float32(0.5)
        inside = (bright - np.float32(self.low)) * per + half
        if self.high < 1:  # nothing is brighter than white
            inside = np.minimum(inside, (np.float32(self.high) - bright) * per + half)
        inside = np.clip(inside, 0, 1, out=inside)
        return np.asarray(1 - inside if self.invert else inside, np.float32)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        bright = luminance(field)
        if has_clear(field):
            bright = in_bands(lambda of, alpha: of / np.maximum(alpha, np.float32(1e-6)), bright, field[..., 3])
        fraction = self.edged(in_bands(self.kept, bright), outer, grid)
        return thinned(field, fraction, grid.inside(outer))
