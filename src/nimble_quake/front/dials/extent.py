"""Dial of two lengths."""

from __future__ import annotations

from nimble_quake.operators.front.base import PairDial
from nimble_quake.params.kinds import Pairs, Param, Place


class Extent(PairDial):
    """Two lengths in pixels of the shot, scaled with its size."""

    title = "Two lengths"
    help = "Two lengths in pixels"
    rank = 32

    value = Pairs(label="Value", help="Its lengths")
    standard = Pairs(label="Standard", help="What they go back to")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Pairs) and not isinstance(param, Place) and param.unit == "px"
