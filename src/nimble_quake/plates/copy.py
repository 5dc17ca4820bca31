"""Live copy."""

from __future__ import annotations

from nimble_quake.conventions import Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import PlateRef, Toggle
from nimble_quake.raster.grid import Grid


class Copy(PlateKind):
    """A plate or group shown once more, with a place, blend and effects of its own: change it, and the copy follows."""

    title = "Live copy"
    rank = 80
    help = "Shows another plate or group once more, and follows it"
    gathers = True
    shows_param = "of"

    of = PlateRef(label="Copy of", help="The plate or group it shows", effects_by="with_effects")
    with_effects = Toggle(label="Effects too", help="It shows the other's effects too, not its plain picture",
                          default=True)  # fmt: skip

    def gathered(self, ctx: Context, grid: Grid) -> Picture | None:
        return ctx.feed.plate_picture(self.of, grid, with_effects=self.with_effects)[0] if self.of else None
