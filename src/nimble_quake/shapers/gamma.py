"""Gamma."""

from __future__ import annotations

from nimble_quake.operators.steps import PointShaper
from nimble_quake.params.kinds import Number
from nimble_quake.raster.colour.pointwise import GAMMA, Op, op


class Gamma(PointShaper):
    """Values to a power of 1/gamma: above 1 the middle rises, below it sinks; black and white stay."""

    title = "Gamma"
    group = "Values"
    help = "Lifts or sinks the middle; black and white stay"

    gamma = Number(
        label="Gamma", help="1 leaves it", default=1.6, neutral=1.0, hard=(0.01, 100), usual=(0.2, 4), decimals=2
    )

    def ops(self, rest: float) -> tuple[Op, ...]:
        return () if self.gamma == 1 else (op(GAMMA, 1 / self.gamma),)
