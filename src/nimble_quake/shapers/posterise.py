"""Posterise."""

from __future__ import annotations

from nimble_quake.operators.quantities import a_count
from nimble_quake.operators.steps import PointShaper
from nimble_quake.raster.colour.pointwise import QUANTISE, Op, op


class Posterise(PointShaper):
    """So many even steps of grey from black to white: terraces that push as one piece each."""

    title = "Posterise"
    group = "Values"
    meant_to_clip = True
    help = "A few flat steps: the picture breaks into plates"

    steps = a_count("Steps", "How many values are left, black and white among them", 5, 256, (2, 16))

    def ops(self, rest: float) -> tuple[Op, ...]:
        return (op(QUANTISE, max(2.0, self.steps)),)
