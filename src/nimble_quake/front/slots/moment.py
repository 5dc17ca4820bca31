"""Slot of a moment."""

from __future__ import annotations

from nimble_quake.conventions import Value, Values
from nimble_quake.operators.front.base import Front, Steady, delayed
from nimble_quake.params.kinds import Drive, Number


class Moment(Front):
    """When it happens: the pins of what stands behind it go along."""

    title = "Moment"
    help = "When it happens"
    rank = 5
    slot = True
    sort = "chalk"

    value = Number(
        label="Value",
        help="The frame it happens at; pins behind it go along",
        unit="f",
        hard=(-1e6, 1e6),
        usual=(0, 240),
        whole=True,
        decimals=0,
    )
    standard = Steady(
        label="Example", help="The frame of the example", unit="f", hard=(-1e6, 1e6), whole=True, decimals=0
    )

    @classmethod
    def behind(cls, values: Values, drive: Drive, own: Value) -> Value:
        """Later, or earlier, by as many frames as it differs from the example's."""
        now, then = cls.now(values), cls.at_standard(values)
        if not isinstance(now, int | float) or own is None:
            return now
        return delayed(own, now - then)
