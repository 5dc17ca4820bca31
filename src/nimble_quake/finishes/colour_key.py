"""Colour key."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.keying import Keyer
from nimble_quake.operators.quantities import a_fraction
from nimble_quake.params.kinds import Colour
from nimble_quake.raster.geometry.grid import Grid

CB = np.array((-0.1146, -0.3854, 0.5), np.float32)
CR = np.array((0.5, -0.4542, -0.0458), np.float32)
"""Colour differences of ITU-R BT.709 (BT.709-6, item 3.3), of coded values."""


class ColourKey(Keyer):
    """Takes a colour away, whatever its brightness, and the spill of it that lies on what is kept."""

    title = "Colour key"
    unseen_because = "The picture has nothing of that colour"
    rank = 620
    help = "Takes one colour away: a green wall becomes clear"
    lively = {"colour": (0.9, 0.4, 0.2, 1.0), "tolerance": 0.1}

    colour = Colour(label="Colour", help="The colour that is taken away", default=(0.1, 0.75, 0.25, 1.0))
    tolerance = a_fraction("Tolerance", "How far from that colour all becomes clear", 0.16, (0, 2))
    softness = a_fraction("Softness", "Over how much farther it fades", 0.12, (0, 2))
    spill = a_fraction("Spill", "How much of the colour is taken from what is kept", 0.8)

    def kept(self, straight: np.ndarray) -> np.ndarray:
        """Return how much is kept of straight colours (..., 3): by the distance of their colour differences."""
        key = np.array(self.colour[:3], np.float32)
        away = np.hypot(straight @ CB - key @ CB, straight @ CR - key @ CR)
        fraction = np.clip((away - np.float32(self.tolerance)) / np.float32(max(self.softness, 1e-4)), 0, 1)
        return np.asarray(1 - fraction if self.invert else fraction, np.float32)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        straight = field[..., :3] / np.maximum(field[..., 3:], np.float32(1e-6))
        fraction = self.edged(self.kept(straight), outer, grid)
        inside = grid.inside(outer)
        out = np.ascontiguousarray(field[inside])
        if self.spill > 0 and not self.invert:
            strongest = int(np.argmax(self.colour[:3]))
            others = [k for k in range(3) if k != strongest]
            most = np.maximum(out[..., others[0]], out[..., others[1]])
            out[..., strongest] -= np.maximum(out[..., strongest] - most, 0) * np.float32(self.spill)
        out *= fraction[..., None]
        return out
