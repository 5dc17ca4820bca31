"""Grey."""

from __future__ import annotations

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid


class Grey(Shaper):
    """Makes one value of all channels."""

    title = "Grey"
    group = "Channels"
    help = "One value of all channels"

    by = Choice(
        label="By",
        help="What grey is",
        default="luminance",
        options=options(
            luminance="Luminance: BT.709",
            lightness="Lightness: middle of highest and lowest",
            value="Value: as a push reads it",
        ),
    )

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        if field.shape[2] == 1:
            return field
        return channel(field, self.by)[..., None].copy()
