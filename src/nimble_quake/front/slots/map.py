"""Slot of a map."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import MapRef, Param, StillMapRef


class Map(Front):
    """A map that the next user may exchange."""

    title = "Map"
    help = "A map: its own, or another one"
    rank = 3
    slot = True
    card = True
    sort = "brass"

    value = StillMapRef(label="Value", help="The map that is read")
    standard = StillMapRef(label="Example", help="The example's own map")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, MapRef)
