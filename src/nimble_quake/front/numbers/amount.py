"""Dial."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers
from nimble_quake.params.kinds import Number, Param, Seed


class Amount(NumberDial):
    """A number of any other unit, or of none; a seed too."""

    title = "Dial"
    help = "A number brought to the front"
    rank = 90

    value, standard, low, high = numbers("", decimals=2)

    @classmethod
    def takes(cls, param: Param) -> bool:
        scales = ("px", "px/s", "px/s²", "f")  # with the shot; these have dials of their own
        return isinstance(param, Seed) or (isinstance(param, Number) and param.unit not in scales)
