"""Tube light."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_distance, a_fraction
from nimble_quake.operators.steps import Finish
from nimble_quake.params.kinds import Colour, Toggle
from nimble_quake.raster.blur.filters import blur_margin
from nimble_quake.raster.finishes.finishing import brightness_and_alpha
from nimble_quake.raster.finishes.rims import Coverage, alpha_of, laid_over, lit_by_all, softened
from nimble_quake.raster.geometry.grid import Grid


class TubeLight(Finish):
    """A tube filled with glowing gas: a nearly white core, and a coloured halo near and far round it."""

    title = "Tube light"
    called = "neon"
    group = "Light"
    unseen_because = "Nothing in the picture is as bright as it asks for"
    rank = 115
    in_light = True
    brightness_names = ("above",)
    help = "A bright core with a coloured halo, as of a neon sign"
    holds_border = True
    lively = {"spread": 50.0}

    colour = Colour(label="Colour", help="The colour of the halo", default=(1.0, 0.25, 0.45, 1.0))
    core = Colour(label="Core", help="The colour of the core", default=(1.0, 0.93, 0.9, 1.0))
    spread = a_distance("Spread", "How far the halo spills", 36.0, (0, 160), (0, 1000))
    power = a_fraction("Power", "How bright the halo is", 1.0, (0, 10))
    inner = a_distance("Core softness", "How softly the core ends within the shape", 3.0, (0, 20), (0, 200))
    above = a_fraction("From", "How bright a part of the plate must be to count as tube; 0: its whole outline", 0.25)
    flat = Toggle(label="Core over all", help="The shape itself takes the core's colour", default=True)

    def idle(self) -> bool:
        return self.spread <= 0 and not self.flat

    def margin(self, at: Moment) -> Pixels:
        return min(blur_margin(self.spread) + 2, at.width, at.height)

    def _tube(self, field: Picture) -> Coverage:
        """What of the picture glows."""
        if self.above <= 0:
            return alpha_of(field)
        bright = brightness_and_alpha(field)
        edge = np.float32(0.15)
        fraction = np.clip((bright[..., 0] - np.float32(self.above) * bright[..., 1]) / edge + np.float32(0.5), 0, 1)
        return np.asarray(fraction * bright[..., 1], np.float32)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        inside = grid.inside(outer)
        alpha = self._tube(field)
        own = field[inside]
        if self.flat:
            sharp = np.ascontiguousarray(alpha[inside])
            soft = softened(alpha, self.inner * grid.scale)[inside]
            heart = np.clip(soft * 2 - 1, 0, 1) if self.inner > 0 else np.ones_like(sharp)
            own = laid_over(own, sharp, self.colour)
            own = laid_over(own, heart * sharp, self.core)
        lights = tuple(
            (softened(alpha, self.spread * width * grid.scale)[inside], self.power * power)
            for width, power in ((0.12, 0.9), (0.4, 0.55), (1.0, 0.45))  # near, round it, and far
        )
        return lit_by_all(own, lights, self.colour, linear=ctx.linear)
