"""Invert."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context, Shaper
from nimble_quake.raster.grid import Grid


class Invert(Shaper):
    """Turns values round about the rest level: 2 rest - value, so rest stays exactly where it is."""

    title = "Invert"
    group = "Values"
    help = "Reverses every push; the rest level stays"

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        out = field.copy()
        values = out[..., :3] if field.shape[2] == 4 else out
        np.subtract(np.float32(2 * ctx.rest), values, out=values)
        return out
