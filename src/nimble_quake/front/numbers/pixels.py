"""Dial in px."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Pixels(NumberDial):
    """A length in pixels of the shot, scaled with its size."""

    title = "Dial in px"
    help = "A length in pixels of the shot, scaled with its size"
    rank = 21

    value, standard, low, high = numbers("px", factor=1.0, decimals=1)
