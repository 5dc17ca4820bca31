"""Dial in px/s."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Speed(NumberDial):
    """A speed in pixels of the shot a second, scaled with its size."""

    title = "Dial in px/s"
    help = "A speed in pixels of the shot a second, scaled with its size"
    rank = 22

    value, standard, low, high = numbers("px/s", factor=1.0, decimals=1)
