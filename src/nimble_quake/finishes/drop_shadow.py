"""Drop shadow."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.conventions import Picture, Pixels, Sides
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction, an_angle
from nimble_quake.operators.steps import NO_RIM, Finish
from nimble_quake.params.kinds import Colour, Toggle
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.rims import alpha_of, grown, laid_under, softened
from nimble_quake.raster.geometry.grid import Grid


class DropShadow(Finish):
    """The plate's outline once more beneath it, moved aside, softened and coloured (CSS Filter Effects drop-shadow)."""

    title = "Drop shadow"
    called = "shade"
    group = "Rims"
    unseen_where_full = NO_RIM
    rank = 230
    in_light = True
    help = "A soft shadow beneath it"
    lively = {"distance": 40.0}
    looks = (("Long way off", "Far and soft", {"distance": 60.0, "blur": 30.0, "strength": 0.5}),)

    bearing = an_angle("Which way the shadow falls; 0 is right, 90 is down", 60.0, "Bearing")
    distance = a_distance("Distance", "How far off it lies", 16.0, (0, 100), (0, 5000))
    blur = a_distance("Blur", "How soft it is: the standard deviation of a Gaussian", 8.0, (0, 60), (0, 1000))
    spread = a_distance("Spread", "How much larger it is than the plate", 0.0, (-20, 40), (-500, 500))
    strength = a_fraction("Strength", "How dark it is", 0.75)
    colour = Colour(label="Colour", help="Its colour", default=(0.0, 0.0, 0.0, 1.0))
    alone = Toggle(label="Alone", help="The shadow alone, without its plate")

    def idle(self) -> bool:
        return self.strength <= 0 and not self.alone

    def margin(self, at: Moment) -> Pixels:
        return min(self.distance + self._soft(), at.width, at.height)

    def sees(self, at: Moment) -> Sides:
        """As far as it is soft, and farther only where the shadow comes from."""
        soft, most, turn = self._soft(), min(at.width, at.height), math.radians(self.bearing)
        away_x, away_y = self.distance * math.cos(turn), self.distance * math.sin(turn)
        left, top, right, bottom = (min(soft + max(0.0, far), most) for far in (away_x, away_y, -away_x, -away_y))
        return left, top, right, bottom

    def _soft(self) -> Pixels:
        return blur_margin(self.blur) + max(0.0, self.spread) + 2

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        alpha, inside, scale = alpha_of(field), grid.inside(outer), grid.scale
        shadow = softened(grown(alpha, self.spread * scale), self.blur * scale)
        turn = math.radians(self.bearing)
        away = self.distance * scale
        moved = np.array([[1, 0, away * math.cos(turn)], [0, 1, away * math.sin(turn)]], np.float64)
        fallen = cv2.warpAffine(shadow, moved, shadow.shape[::-1], flags=cv2.INTER_LINEAR)[inside]
        own = field[inside]
        ground = np.zeros_like(own) if self.alone else own
        return laid_under(ground, np.asarray(fallen * np.float32(self.strength), np.float32), self.colour)
