"""Dial of a row of colours."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import Param
from nimble_quake.params.kinds import Stops as Row


class Stops(Front):
    """The colours of a gradient or a ramp."""

    title = "Colours"
    help = "The colours of a gradient"
    rank = 36

    value = Row(label="Value", help="Its colours")
    standard = Row(label="Standard", help="The colours it goes back to")

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Row)
