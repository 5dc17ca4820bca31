"""Ring space."""

from __future__ import annotations

import math

from nimble_quake.operators.base import Context
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.graphs import Remark
from nimble_quake.operators.quantities import a_fraction, an_angle
from nimble_quake.operators.steps import Source, Step
from nimble_quake.params.kinds import Choice, Place, Toggle, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.warps.operations import Bend, rolled, unrolled


class RingSpace(Coordinate):
    """Bends the map round a centre: across becomes round, down becomes outwards; or unrolls it again."""

    title = "Ring space"
    group = "Space"
    help = "Across becomes round, down becomes outwards: stripes become rays or rings"

    way = Choice(
        label="Way",
        help="Into rings, or back",
        default="into",
        row=True,
        options=options(into="Into rings", out="Out of rings"),
    )
    centre = Place(label="Centre", help="What the rings lie round")
    reach = a_fraction("Reach", "The radius its lower border comes to, of half the frame's diagonal", 1.0, (0.01, 10))
    turn = an_angle("Turns the seam")
    mirror = Toggle(label="No seam", help="Goes half round and back, mirrored, so that the two sides join")

    def goes_round(self) -> bool:
        return self.way == "into"

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        made = next((n for n in reversed(range(len(before))) if isinstance(before[n], Source)), 0)
        if self.way == "into" and any(step.goes_round() for step in before[made:]):
            return Remark("The map goes round already: ring space bends it once more", "Switch it off", figure=1.0)
        return None

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        size = (ctx.at.width, ctx.at.height)
        radius = math.hypot(*size) / 2 * self.reach
        if self.way == "out":
            return (unrolled(self.centre, radius, self.turn / 360, size),)
        return (rolled(self.centre, radius, self.turn / 360, size, mirror=self.mirror),)
