"""Twirl."""

from __future__ import annotations

import math

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Graph, profile
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_size, an_angle
from nimble_quake.params.kinds import Choice, Number, Place, options
from nimble_quake.raster.warps.operations import SWIRL, Bend


class Twirl(FreeQuake):
    """Turns the picture round a centre, most there and not at all at the radius, by a smooth step between."""

    title = "Twirl"
    group = "Lens"
    rank = 2025
    may_fold = False
    idle_because = "Its angle is 0"
    help = "Winds the picture up round a centre"

    centre = Place(label="Centre", help="What it winds round")
    radius = a_size("Radius", "How far it reaches", 400.0, (50, 1500))
    angle = an_angle("How far the centre is turned", 220.0, "Angle")
    pinch = Number(
        label="Pinch", help="Draws in (above 0) or pushes out", default=0.0, hard=(-1, 1), usual=(-1, 1), decimals=2
    )

    fall = Choice(
        label="Ends",
        help="Smoothly at the radius, or falling off beyond it for ever",
        default="smooth",
        row=True,
        options=options(smooth="At radius", endless="Never"),
    )

    far = 0.25

    def idle(self) -> bool:
        return self.strength == 0 or (self.angle == 0 and self.pinch == 0)

    def ops(self, ctx: Context) -> tuple[Bend, ...]:
        turn, pinch = math.radians(self.angle) * self.strength, self.pinch * self.strength
        rule = 1.0 if self.fall == "endless" else 2.0 if ctx.picture else 0.0  # recipes keep the bits they had
        return ((SWIRL, (*self.centre, self.radius, turn, pinch, rule)),)

    def goes_round(self) -> bool:
        return True

    def summary(self) -> str:
        return f"{self.angle * self.strength:.0f}°"

    def graph(self, rest: float) -> Graph:
        def fraction(distance: float) -> float:
            t = distance / self.radius
            return math.exp(-5 * t / math.log(2)) if self.fall == "endless" else (1 - t) ** 2 * (1 + 2 * t)

        return profile(fraction, self.radius, "px", foot="distance", side="turned")

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        if self.fall == "endless":
            return math.inf
        return self.radius * (2 + abs(self.pinch * self.strength)) * self.most_weight(ctx)
