"""Fade to rest at the border."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Shaper, values_of
from nimble_quake.params.kinds import Toggle
from nimble_quake.raster.geometry.grid import Grid


class BorderFade(Shaper):
    """Fades to rest towards the frame's border, so that nothing is pulled in from outside."""

    title = "Border fade"
    group = "Values"
    rank = 1000
    help = "Nothing moves at the border: no gaps"
    lively = {"width": 220.0}

    width = a_distance("Width", "How far from the border the fade reaches", 80.0, (0, 300))
    left = Toggle(label="Left", help="Fades at the left", default=True)
    right = Toggle(label="Right", help="Fades at the right", default=True)
    top = Toggle(label="Top", help="Fades at the top", default=True)
    bottom = Toggle(label="Bottom", help="Fades at the bottom", default=True)

    def idle(self) -> bool:
        return self.width <= 0 or not (self.left or self.right or self.top or self.bottom)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        out = field.copy()
        values = values_of(out)
        values -= np.float32(ctx.rest)
        values *= self._shares(grid, ctx)
        values += np.float32(ctx.rest)
        return out

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """A picture fades into what lies beneath it."""
        return np.asarray(picture * self._shares(grid, ctx), np.float32)

    def _shares(self, grid: Grid, ctx: Context) -> Field:
        """How much is left at each sample, (H, W, 1)."""
        xs, ys = grid.xs(), grid.ys()
        across, down = np.ones_like(xs), np.ones_like(ys)
        for fraction, away, on in (
            (across, xs, self.left),
            (across, np.float32(ctx.at.width) - xs, self.right),
            (down, ys, self.top),
            (down, np.float32(ctx.at.height) - ys, self.bottom),
        ):
            if on:
                t = np.clip(away / np.float32(self.width), 0, 1)
                fraction *= t * t * (3 - 2 * t)
        return np.asarray((across[None, :] * down[:, None])[..., None], np.float32)
