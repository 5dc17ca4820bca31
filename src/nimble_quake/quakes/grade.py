"""Grade."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.quake import PixelQuake
from nimble_quake.operators.quantities import a_fraction, a_rate, a_size
from nimble_quake.operators.reading import ReadsMap, a_channel
from nimble_quake.params.kinds import Colour, Seed
from nimble_quake.raster.finishes.grading import graded
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import static


class Grade(PixelQuake):
    """Brightens, tints, saturates and grains the picture as strongly as the map says: wholly at white, none at rest."""

    title = "Grade"
    group = "Look"
    rank = 2080
    help = "Brightens, tints, saturates or grains by the map"
    idle_because = "Nothing it does is above 0"
    lively = {"brighten": 0.6, "saturate": -1.0}

    by = a_channel("By", "The channel of the map that says how strongly")
    brighten = a_fraction("Brighten", "How much light is added at white; below 0 taken", 0.25, (-10, 10))
    saturate = a_fraction("Saturate", "How much stronger colours are at white; -100 % is grey", 0.0, (-1, 20))
    tint_by = a_fraction("Tint", "How much of the colour is mixed in at white", 0.0, (0, 1))
    tint = Colour(label="Colour", help="The colour that is mixed in", default=(1.0, 0.75, 0.4, 1.0))
    grain = a_fraction("Grain", "How strong the grain is at white", 0.0, (0, 10))
    grain_size = a_size("Grain size", "How large the grains are", 2.0, (1, 8))
    grain_rate = a_rate("Grain changes", "How often the grain changes; 0 stands still", 12.0)
    seed = Seed(label="Seed", help="Other grain", default=1)
    rest_by = replace(ReadsMap.rest_by, default="one")

    def idle(self) -> bool:
        return self.strength == 0 or (self.brighten, self.saturate, self.tint_by, self.grain) == (0, 0, 0, 0)

    def timed(self) -> bool:
        return self.grain > 0 and self.grain_rate > 0

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        amounts = self.amounts(grid, ctx)
        grain = None
        if self.grain > 0:
            tick = math.floor(ctx.at.seconds * self.grain_rate + 1e-6) if self.grain_rate > 0 else 0
            cell = (self.grain_size, self.grain_size)
            grain = static(grid, cell, tick, int(self.seed), 1.0, (-1.0, 1.0), 1)[..., 0] * np.float32(
                self.grain * 0.25
            )
        if field.shape[2] < 4:
            more = amounts * np.float32(self.brighten) + (0 if grain is None else grain * amounts)
            return np.asarray(field + more[..., None], np.float32)
        numbers = (self.brighten, self.saturate, self.tint_by)
        return graded(field, amounts, numbers, self.tint[:3], grain, premultiplied=ctx.picture)

    def summary(self) -> str:
        return f"{self.brighten * self.strength:+.0%}".replace("%", " %")
