"""Dial of a colour."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import Colour as Coloured
from nimble_quake.params.kinds import Param


class Colour(Front):
    """A colour."""

    title = "Colour"
    help = "A colour"
    rank = 33

    value = Coloured(label="Value", help="Its colour")
    standard = Coloured(label="Standard", help="The colour it goes back to")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Coloured)
