"""Group."""

from __future__ import annotations

from nimble_quake.operators.base import Context
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch


class Group(PlateKind):
    """Plates taken together: its place, blend, masks and effects act on all of them as on one picture.

    A group that does nothing but hold its members passes through: they blend with what lies beneath it, and cost
    nothing more. Isolated, they blend among themselves first.
    """

    title = "Group"
    rank = 70
    help = "Takes plates together: one place, one blend, effects on all of them"
    gathers = True
    holds = True

    master = Number(
        label="Effects",
        help="Scales what all effects do in it, its members' and its own",
        default=1.0,
        hard=(0, 10),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
    )
    isolated = Toggle(label="Isolated", help="Its members blend among themselves first, then with what lies beneath")

    def passes(self, frame: tuple[float, float]) -> bool:
        return not self.isolated and self.plain(frame)

    def gathered(self, ctx: Context, grid: Grid) -> Patch | None:
        return ctx.services.members_part(ctx.path, grid)
