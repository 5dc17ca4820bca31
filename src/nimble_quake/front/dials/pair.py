"""Dial of two numbers."""

from __future__ import annotations

from nimble_quake.operators.front.base import PairDial
from nimble_quake.params.kinds import Pairs, Param, Place


class Pair(PairDial):
    """Two numbers that belong together."""

    title = "Two numbers"
    help = "Two numbers that belong together"
    rank = 31

    value = Pairs(label="Value", help="Its numbers", unit="")
    standard = Pairs(label="Standard", help="What they go back to", unit="")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Pairs) and not isinstance(param, Place) and param.unit not in ("px", "px/s")
