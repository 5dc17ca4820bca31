"""Dial in seconds."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Seconds(NumberDial):
    """A time."""

    title = "Dial in seconds"
    help = "A time"
    rank = 24

    value, standard, low, high = numbers("s", factor=1.0, decimals=2)
