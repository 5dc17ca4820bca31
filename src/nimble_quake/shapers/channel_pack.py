"""Channel pack."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, MapRef, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid

FROM = options(
    own="Own: what the steps before made",
    other="Other: the map chosen below",
    rest="Rest",
    black="Black",
    white="White",
)


class ChannelPack(Shaper):
    """Puts values of this map and another one into red, green, blue and alpha, for pushes that read them apart."""

    title = "Channel pack"
    group = "Channels"
    works_on = frozenset({"map"})
    help = "Two maps in one: red pushes across, green down"

    red = Choice(label="Red", help="What red holds", default="own", options=FROM)
    green = Choice(label="Green", help="What green holds", default="other", options=FROM)
    blue = Choice(label="Blue", help="What blue holds", default="rest", options=FROM)
    alpha = Choice(label="Alpha", help="What alpha holds", default="white", options=FROM)
    other = MapRef(label="Other map", help="Read finished")

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        found = ctx.map_values(self.other, grid) if self.other else None
        second = np.full(grid.shape, REST, np.float32) if found is None else channel(found, "value")
        parts = {
            "own": channel(field, "value"),
            "other": second,
            "rest": np.float32(ctx.rest),
            "black": np.float32(0),
            "white": np.float32(1),
        }
        out = np.empty((*grid.shape, 4), np.float32)
        for n, name in enumerate(("red", "green", "blue", "alpha")):
            out[..., n] = parts[self.values[name]]
        return out
