"""Twirl."""

from __future__ import annotations

import math

from nimble_quake.conventions import Pixels
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_size, an_angle
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.params.kinds import Number, Place
from nimble_quake.raster.bends import SWIRL, Bend


class Twirl(FreeQuake):
    """Turns the picture round a centre, most there and not at all at the radius, by a smooth step between."""

    title = "Twirl"
    group = "Lens"
    help = "Winds the picture up round a centre"

    centre = Place(label="Centre", help="What it winds round")
    radius = a_size("Radius", "How far it reaches", 400.0, (50, 1500))
    angle = an_angle("How far the centre is turned", 220.0, "Angle")
    pinch = Number(
        label="Pinch", help="Draws in (above 0) or pushes out", default=0.0, hard=(-1, 1), usual=(-1, 1), decimals=2
    )

    far = 0.25

    def idle(self) -> bool:
        return self.strength == 0 or (self.angle == 0 and self.pinch == 0)

    def ops(self, ctx: Context) -> tuple[Bend, ...]:
        turn, pinch = math.radians(self.angle) * self.strength, self.pinch * self.strength
        return ((SWIRL, (*self.centre, self.radius, turn, pinch)),)

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        return self.radius * (2 + abs(self.pinch * self.strength)) * self.most_weight(ctx)
