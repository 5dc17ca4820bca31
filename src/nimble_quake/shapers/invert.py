"""Invert."""

from __future__ import annotations

from nimble_quake.operators.steps import PointShaper
from nimble_quake.raster.colour.pointwise import LINEAR, Op, op


class Invert(PointShaper):
    """Turns values round about the rest level: 2 rest - value, so rest stays exactly where it is."""

    title = "Invert"
    group = "Values"
    help = "Reverses every push; the rest level stays"

    def ops(self, rest: float) -> tuple[Op, ...]:
        return (op(LINEAR, -1.0, 2 * rest),)
