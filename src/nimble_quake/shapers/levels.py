"""Levels."""

from __future__ import annotations

import math

from nimble_quake.conventions import Values
from nimble_quake.operators.steps import PointShaper
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.colour.pointwise import CLIP, LINEAR, POWER, Op, op


def _level(label: str, help: str, default: float) -> Number:
    return Number(label=label, help=help, default=default, hard=(-4, 5), usual=(0, 1), decimals=3)


class Levels(PointShaper):
    """Black, middle and white: stretches what lies between black and white over the whole range."""

    title = "Levels"
    group = "Values"
    help = "Sets black, middle and white on the histogram"
    histogram = True
    lively = {"black": 0.3, "white": 0.7}

    black = _level("Black", "Values here and darker become black", 0.0)
    middle = Number(
        label="Middle",
        help="The share of the way from black to white that becomes mid grey",
        default=0.5,
        hard=(0.01, 0.99),
        usual=(0.1, 0.9),
        decimals=3,
    )
    white = _level("White", "Values here and lighter become white", 1.0)
    low = _level("Darkest", "What black is let out as", 0.0)
    high = _level("Lightest", "What white is let out as", 1.0)
    clip = Toggle(label="Clip", help="Holds values between black and white", default=True)

    def idle(self) -> bool:
        return (self.black, self.middle, self.white, self.low, self.high, self.clip) == (0, 0.5, 1, 0, 1, False)

    def eased(self) -> Values:
        spread = (self.white - self.black) * 0.25
        return {"black": round(self.black - spread, 3), "white": round(self.white + spread, 3)}

    def ops(self, rest: float) -> tuple[Op, ...]:
        if self.idle():
            return ()
        span = self.white - self.black
        span = math.copysign(max(abs(span), 1e-6), span)
        found = [op(LINEAR, 1 / span, 0, self.black)]
        if self.middle != 0.5:
            found.append(op(POWER, math.log(0.5) / math.log(self.middle)))
        if self.clip:
            found.append(op(CLIP, 0, 1))
        if (self.low, self.high) != (0.0, 1.0):
            found.append(op(LINEAR, self.high - self.low, self.low))
        return tuple(found)
