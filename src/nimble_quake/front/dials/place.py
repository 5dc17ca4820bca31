"""Dial of a place."""

from __future__ import annotations

from nimble_quake.operators.front.base import PairDial
from nimble_quake.params.kinds import Param
from nimble_quake.params.kinds import Place as Placed


class Place(PairDial):
    """A place in the frame; what has a place of its own goes along by as much."""

    title = "Place"
    help = "A place in the frame"
    rank = 30

    value = Placed(label="Value", help="Where it is")
    standard = Placed(label="Standard", help="Where it goes back to")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Placed)
