"""Threshold."""

from __future__ import annotations

from nimble_quake.operators.quantities import a_fraction, a_level
from nimble_quake.operators.steps import PointShaper
from nimble_quake.raster.colour.pointwise import STEP, Op, op


class Threshold(PointShaper):
    """Black below a value, white above; a softness lets values near it pass between."""

    title = "Threshold"
    group = "Values"
    meant_to_clip = True
    help = "Black and white only: hard edges tear the picture"

    at = a_level("At", "The value that parts black from white", 0.5)
    soft = a_fraction("Softness", "How wide the passage between is, in values", 0.1, (0, 4))

    def ops(self, rest: float) -> tuple[Op, ...]:
        return (op(STEP, self.at, self.soft),)
