"""Contrast."""

from __future__ import annotations

from nimble_quake.operators.steps import PointShaper
from nimble_quake.params.kinds import Number
from nimble_quake.raster.colour.pointwise import LINEAR, Op, op


class Contrast(PointShaper):
    """Spreads values about the rest level, which stays: the same picture pushed further, or less."""

    title = "Contrast"
    group = "Values"
    help = "Stronger or weaker about rest; the picture does not slide"

    amount = Number(
        label="Contrast",
        help="1 leaves it; 0 is flat rest; below 0 it is turned round",
        default=1.8,
        hard=(-100, 100),
        usual=(0, 4),
        decimals=2,
    )
    lift = Number(
        label="Brightness",
        help="Raises or lowers all values; off 0 the picture slides",
        default=0.0,
        hard=(-4, 4),
        usual=(-0.5, 0.5),
        decimals=2,
    )

    def ops(self, rest: float) -> tuple[Op, ...]:
        if (self.amount, self.lift) == (1.0, 0.0):
            return ()
        return (op(LINEAR, self.amount, rest + self.lift, rest),)
