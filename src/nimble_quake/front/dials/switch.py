"""Dial that is on or off."""

from __future__ import annotations

from nimble_quake.operators.front.base import Front
from nimble_quake.params.kinds import Param, Toggle


class Switch(Front):
    """On or off: a switch of the settings, or whether a plate, an effect or a step acts at all."""

    title = "Switch"
    help = "On or off"
    rank = 34

    value = Toggle(label="Value", help="On or off", default=True)
    standard = Toggle(label="Standard", help="What it goes back to", default=True)

    @classmethod
    def takes(cls, param: Param) -> bool:
        return isinstance(param, Toggle)
