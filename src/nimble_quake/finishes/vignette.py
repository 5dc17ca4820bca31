"""Vignette."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Colour, Number, Place
from nimble_quake.raster.finishes.rims import laid_over
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import in_bands


class Vignette(Finish):
    """Darkens, or colours, the frame towards its corners."""

    title = "Vignette"
    group = "Lens"
    rank = 430
    in_light = True
    help = "Dark towards the corners"
    lively = {"amount": 1.0}

    amount = a_fraction("Amount", "How dark the corners become", 0.6)
    centre = Place(label="Centre", help="What stays clear")
    size = Number(
        label="Size",
        help="Where it begins, beside half the frame's diagonal",
        default=0.45,
        hard=(0, 10),
        usual=(0, 1.2),
        unit="%",
        factor=100,
        decimals=0,
    )
    softness = a_fraction("Softness", "Over how much of that it grows", 0.7, (0.001, 10))
    roundness = a_fraction("Roundness", "Round, or as wide as the frame", 0.5)
    colour = Colour(label="Colour", help="What the corners become", default=(0.0, 0.0, 0.0, 1.0))

    def idle(self) -> bool:
        return self.amount <= 0

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        width, height = ctx.at.width, ctx.at.height
        half = np.hypot(width, height) / 2
        wide, high = (
            side / 2 * np.sqrt(2) + (half - side / 2 * np.sqrt(2)) * self.roundness for side in (width, height)
        )
        x = (grid.xs()[None] - np.float32(self.centre[0])) * np.float32(1 / wide)
        y = (grid.ys()[:, None] - np.float32(self.centre[1])) * np.float32(1 / high)
        size, per, amount = np.float32(self.size), np.float32(1 / self.softness), np.float32(self.amount)

        def dark(alpha: np.ndarray, rows: np.ndarray) -> np.ndarray:
            t = np.clip((np.sqrt(x * x + rows * rows) - size) * per, 0, 1)
            return np.asarray(t * t * (3 - 2 * t) * amount * alpha, np.float32)

        return laid_over(field, in_bands(dark, field[..., 3], y), self.colour)
