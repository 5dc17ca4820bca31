"""Dial in degrees."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Degrees(NumberDial):
    """An angle."""

    title = "Dial in degrees"
    help = "An angle"
    rank = 23

    value, standard, low, high = numbers("°", factor=1.0, decimals=1)
