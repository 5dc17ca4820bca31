"""Saturation."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import LUMA_709, Picture
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import a_fraction, an_angle
from nimble_quake.operators.steps import Finish
from nimble_quake.raster.finishes.grading import multiplied
from nimble_quake.raster.geometry.grid import Grid


class Saturation(Finish):
    """Strengthens or takes away colour, turns hues, brightens (the matrices of W3C Filter Effects)."""

    title = "Saturation"
    group = "Colour"
    rank = 310
    help = "Stronger or weaker colours, turned hues"
    lively = {"saturate": 2.5}
    alpha = "kept"
    looks = (("Black and white", "Without colour", {"saturate": 0.0}),)

    saturate = a_fraction("Saturation", "How strong colours are; 0 is grey", 1.3, (0, 20))
    hue = an_angle("Turns all hues round the colour circle", 0.0, "Hue")
    brightness = a_fraction("Brightness", "How bright all is", 1.0, (0, 20))

    def idle(self) -> bool:
        return (self.saturate, self.hue % 360, self.brightness) == (1, 0, 1)

    def matrix(self) -> np.ndarray:
        """Return what colours are multiplied by, (3, 3) (Filter Effects 1: saturate, then hueRotate, brightness)."""
        luma = np.array((0.213, 0.715, 0.072)) if self.hue % 360 else np.array(LUMA_709)
        grey = np.tile(luma, (3, 1))
        strong = grey + (np.eye(3) - grey) * self.saturate
        c, s = math.cos(math.radians(self.hue)), math.sin(math.radians(self.hue))
        turned = (
            grey
            + c * (np.eye(3) - grey)
            + s * np.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])
        )
        return np.asarray(turned @ strong * self.brightness)

    def shape(self, field: Picture, outer: Grid, grid: Grid, ctx: Context) -> Picture:
        return multiplied(field, self.matrix())
