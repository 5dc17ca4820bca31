"""Dial in %."""

from __future__ import annotations

from nimble_quake.operators.front.base import NumberDial, numbers


class Percent(NumberDial):
    """A fraction, shown in %."""

    title = "Dial in %"
    help = "A fraction, shown in %"
    rank = 20

    value, standard, low, high = numbers("%", factor=100, decimals=0)
