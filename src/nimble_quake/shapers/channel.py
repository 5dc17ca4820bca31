"""One channel."""

from __future__ import annotations

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, options
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid


class OneChannel(Shaper):
    """Keeps one channel of a colour map as its value."""

    title = "One channel"
    group = "Channels"
    help = "Red, green, hue, alpha ... as the value"

    which = Choice(
        label="Channel",
        help="What becomes the value",
        default="red",
        options=options(
            red="Red",
            green="Green",
            blue="Blue",
            alpha="Alpha",
            luminance="Luminance",
            hue="Hue",
            lightness="Lightness",
            saturation="Saturation",
        ),
    )

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        return channel(field, self.which)[..., None].copy()
