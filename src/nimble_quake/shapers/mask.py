"""Mask."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance
from nimble_quake.operators.steps import Shaper, values_of
from nimble_quake.params.kinds import Choice, MapRef, PlateRef, Toggle, options
from nimble_quake.raster.blur.filters import gaussian
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid


class Mask(Shaper):
    """Keeps the map where another map, or a plate, is; elsewhere it rests or is clear."""

    title = "Mask"
    group = "Channels"
    help = "Only where another map is bright, or a plate lies"
    lively = {"plate": "title"}

    other = MapRef(label="Map", help="Where it is white the map stays, where it is black it goes")
    plate = PlateRef(label="Plate", help="Or: where this plate lies")
    invert = Toggle(label="Invert", help="The other way round")
    soft = a_distance("Softness", "Softens the mask", 0.0, (0, 60), (0, 1000))
    outside = Choice(
        label="Outside",
        help="What is left there",
        default="rest",
        row=True,
        options=options(rest="Rest", clear="Clear"),
    )

    def idle(self) -> bool:
        return not self.other and not self.plate

    def on_picture(self, picture: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        """A picture is clear outside."""
        return np.asarray(picture * self._weight(grid, ctx), np.float32)

    def _weight(self, grid: Grid, ctx: Context) -> Field:
        """How much is kept, (H, W, 1)."""
        reach = grid.samples(3 * self.soft)
        wide = grid.grown(min(reach, max(grid.shape)))
        if self.other:
            found = ctx.map_values(self.other, wide)
            fraction = np.ones(wide.shape, np.float32) if found is None else np.clip(channel(found, "value"), 0, 1)
        else:
            fraction = ctx.services.plate_alpha(self.plate, wide, with_effects=False)[..., 0]
        sigma = self.soft * grid.scale
        fraction = gaussian(np.ascontiguousarray(fraction)[..., None], sigma, sigma)[grid.inside(wide)]
        return np.asarray(1 - fraction if self.invert else fraction, np.float32)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        fraction = self._weight(grid, ctx)
        if self.outside == "rest":
            out = field.copy()
            values = values_of(out)
            values += (np.float32(ctx.rest) - values) * (1 - fraction)
            return out
        if field.shape[2] == 4:
            out = field.copy()
            out[..., 3:] *= fraction
            return out
        plain = field if field.shape[2] == 1 else field.mean(axis=2, keepdims=True)
        return np.concatenate([plain, plain, plain, fraction.astype(np.float32)], axis=2)
