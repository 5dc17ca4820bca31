"""Pattern."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Choice, MapRef, Stop, Stops, When, options
from nimble_quake.raster.colour.channels import as_channels, channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch
from nimble_quake.raster.shapes.gradient import colour_at
from nimble_quake.raster.threads.rows import in_bands


class Pattern(PlateKind):
    """A map shown as a picture: what a map can be, a picture can be."""

    title = "Pattern"
    rank = 40
    help = "A map seen as a picture, its values as colours"
    gathers = True

    map = MapRef(label="Map", help="The map that is seen")
    colours = Choice(
        label="Colours",
        help="How its values become colours",
        default="ramp",
        row=True,
        options=options(ramp="By ramp", own="Its own"),
    )
    ramp = Stops(
        label="Ramp",
        help="The colour of black, of white, and of what lies between",
        shown_when=When("colours", "ramp"),
        default=(
            Stop(0.0, (0.05, 0.04, 0.16, 1.0)),
            Stop(0.55, (0.75, 0.25, 0.4, 1.0)),
            Stop(1.0, (1.0, 0.86, 0.55, 1.0)),
        ),
    )
    alpha = Choice(
        label="Alpha",
        help="What of it can be seen through",
        default="map",
        options=options(map="As the map", value="By value", rest="Away from rest", none="Opaque"),
    )

    def gathered(self, ctx: Context, grid: Grid) -> Patch | None:
        field = ctx.services.map_values(self.map, grid) if self.map else None
        if field is None:
            return None
        rest = ctx.services.map_rest(self.map)
        return Patch(np.asarray(in_bands(lambda part: self._coloured(part, rest), field), np.float32), grid)

    def _coloured(self, field: Field, rest: float) -> Picture:
        value = np.clip(channel(field, "value"), 0, 1)
        if self.colours == "ramp":
            out = colour_at(self.ramp, np.ascontiguousarray(value))
            whole = self.alpha == "none" or (self.alpha == "map" and field.shape[2] != 4)
            if whole and all(stop.colour[3] == 1 for stop in self.ramp):
                return out
        else:
            out = np.clip(as_channels(field, 4), 0, 1)
            out[..., 3] = 1.0
        if self.alpha == "map" and field.shape[2] == 4:
            out[..., 3] *= np.clip(field[..., 3], 0, 1)
        elif self.alpha == "value":
            out[..., 3] *= value
        elif self.alpha == "rest":
            out[..., 3] *= np.clip(np.abs(value - np.float32(rest)) / np.float32(max(rest, 1 - rest)), 0, 1)
        out[..., :3] *= out[..., 3:]
        return out
