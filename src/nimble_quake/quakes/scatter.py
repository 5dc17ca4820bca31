"""Scatter."""

from __future__ import annotations

import math

from nimble_quake.conventions import Pixels, Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_distance, a_rate, a_size
from nimble_quake.params.kinds import Choice, Seed, options
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.offsets import scattered


class Scatter(FreeQuake):
    """Every grain of the picture looks aside by chance: frosted glass; still, or living at a rate."""

    title = "Scatter"
    called = "frosted glass"
    group = "Move"
    rank = 2040
    help = "Frosted glass: every grain is moved by chance"
    idle_because = "Its reach is 0"
    simple = False
    rough = True

    reach = a_distance("Reach", "How far a grain is moved at most", 12.0, (0, 80), (0, 1e6))
    grain = a_size("Grain", "How large the grains are", 2.0, (1, 12))
    way = Choice(
        label="Way",
        help="Which way grains are moved",
        default="both",
        row=True,
        options=options(both="Both", across="Across", down="Down"),
    )
    rate = a_rate("Changes", "How often the grains change; 0 stands still", 0.0)
    seed = Seed(label="Seed", help="Other chance values", default=1)

    def idle(self) -> bool:
        return self.reach * self.strength == 0

    def timed(self) -> bool:
        return self.rate > 0

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        tick = math.floor(ctx.at.seconds * self.rate + 1e-6) if self.rate > 0 else 0
        far = self.reach * self.strength
        ends = (far if self.way != "down" else 0.0, far if self.way != "across" else 0.0)
        return scattered(places.absolute(), self.grain, ends, tick, int(self.seed))

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        return abs(self.reach * self.strength) * self.most_weight(ctx)

    def summary(self) -> str:
        return f"{self.reach * self.strength:.0f} px"

    def graph(self, rest: float) -> Graph:
        far = self.reach * self.strength
        return Graph((Curve(((-far, 0.0), (-far, 0.6), (far, 0.6), (far, 0.0))),), max(far, 1.0) * 1.2, "px", "chance")
