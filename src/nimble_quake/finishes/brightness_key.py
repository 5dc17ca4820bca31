"""Brightness key."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_distance, a_level, a_share
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.colour import luminance
from nimble_quake.raster.filters import blur_margin
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.rims import grown, softened


class BrightnessKey(Finish):
    """Keeps what lies between two levels of brightness and takes the rest away: lamps from a night, ink from paper."""

    title = "Brightness key"
    group = "Keys"
    rank = 10
    help = "Keeps what is as bright as asked, the rest becomes clear"
    lively = {"low": 0.5}

    low = a_level("From", "Darker parts become clear", 0.5)
    high = a_level("To", "Brighter parts become clear", 1.0)
    softness = a_share("Softness", "Over how wide a range of brightness it fades", 0.1, (0, 2))
    shrink = Number(label="Shrink", help="How far what is kept is drawn in; below 0 let out", default=0.0,
                    hard=(-300, 300), usual=(-20, 20), unit="px", decimals=1)  # fmt: skip
    blur = a_distance("Blur", "How soft its edge becomes", 0.0, (0, 30), (0, 300))
    invert = Toggle(label="Invert", help="Takes away what would be kept")

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.blur) + abs(self.shrink) + 2, at.width, at.height)

    def kept(self, bright: np.ndarray) -> np.ndarray:
        """Return how much is kept of brightnesses 0...1: ramps `softness` wide about the two levels."""
        wide = np.float32(max(self.softness, 1e-4))
        up = np.clip((bright - np.float32(self.low)) / wide + np.float32(0.5), 0, 1)
        down = np.clip((np.float32(self.high) - bright) / wide + np.float32(0.5), 0, 1)
        inside = up if self.high >= 1 else np.minimum(up, down)  # nothing is brighter than white
        return np.asarray(1 - inside if self.invert else inside, np.float32)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        bright = luminance(field) / np.maximum(field[..., 3], np.float32(1e-6))
        share = softened(grown(self.kept(bright), -self.shrink * grid.scale), self.blur * grid.scale)
        inside = grid.inside(outer)
        return np.ascontiguousarray(field[inside] * share[inside][..., None])
