"""Swirl."""

from __future__ import annotations

import math

from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_size, an_angle
from nimble_quake.operators.steps import Bender
from nimble_quake.params.kinds import Number, Place
from nimble_quake.raster.bends import SWIRL, Bend


class Swirl(Bender):
    """Turns the map round a centre, most there and not at all at the radius."""

    title = "Swirl"
    group = "Space"
    far = 0.25
    help = "Winds the map up round a centre"

    centre = Place(label="Centre", help="What it winds round")
    radius = a_size("Radius", "How far it reaches", 400.0, (50, 1500))
    angle = an_angle("How far the centre is turned", 220.0, "Angle")
    pinch = Number(
        label="Pinch", help="Draws in (above 0) or pushes out", default=0.0, hard=(-1, 1), usual=(-1, 1), decimals=2
    )

    def idle(self) -> bool:
        return self.angle == 0 and self.pinch == 0

    def bends(self, ctx: Context) -> tuple[Bend, ...]:
        return ((SWIRL, (*self.centre, self.radius, math.radians(self.angle), self.pinch)),)
