"""Dial of a velocity."""

from __future__ import annotations

from nimble_quake.operators.front.base import PairDial
from nimble_quake.params.kinds import Pairs, Param


class Velocity(PairDial):
    """A speed and its direction, across and down, scaled with the shot's size."""

    title = "Velocity"
    help = "A speed across and down"
    rank = 29

    value = Pairs(label="Value", help="Its speeds", unit="px/s")
    standard = Pairs(label="Standard", help="What they go back to", unit="px/s")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Pairs) and param.unit == "px/s"
