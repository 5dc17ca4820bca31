"""Dial in frames."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Frames(NumberDial):
    """A number of frames, which keeps its seconds at another rate."""

    title = "Dial in frames"
    help = "A number of frames, which keeps its seconds at another rate"
    rank = 25

    value, standard, low, high = numbers("f", factor=1.0, decimals=1)
