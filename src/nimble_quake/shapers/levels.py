"""Levels."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context, Shaper
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.grid import Grid


def _level(label: str, help: str, default: float) -> Number:
    return Number(label=label, help=help, default=default, hard=(-4, 5), usual=(0, 1), decimals=3)


class Levels(Shaper):
    """Black, middle and white: stretches what lies between black and white over the whole range."""

    title = "Levels"
    group = "Values"
    help = "Sets black, middle and white on the histogram"

    black = _level("Black", "Values here and darker become black", 0.0)
    middle = Number(
        label="Middle", help="The share of the way from black to white that becomes mid grey", default=0.5,
        hard=(0.01, 0.99), usual=(0.1, 0.9), decimals=3,
    )  # fmt: skip
    white = _level("White", "Values here and lighter become white", 1.0)
    low = _level("Darkest", "What black is let out as", 0.0)
    high = _level("Lightest", "What white is let out as", 1.0)
    clip = Toggle(label="Clip", help="Holds values between black and white", default=True)

    def idle(self) -> bool:
        return (self.black, self.middle, self.white, self.low, self.high, self.clip) == (0, 0.5, 1, 0, 1, False)

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        out = field.copy()
        values = out[..., :3] if field.shape[2] == 4 else out
        span = self.white - self.black
        span = math.copysign(max(abs(span), 1e-6), span)
        values -= np.float32(self.black)
        values *= np.float32(1 / span)
        if self.middle != 0.5:
            power = np.float32(math.log(0.5) / math.log(self.middle))
            inside = (values > 0) & (values < 1)  # beyond black and white the curve goes on straight
            np.power(values, power, out=values, where=inside)
        if self.clip:
            np.clip(values, 0, 1, out=values)
        if (self.low, self.high) != (0.0, 1.0):
            values *= np.float32(self.high - self.low)
            values += np.float32(self.low)
        return out
