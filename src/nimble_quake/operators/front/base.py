"""The base of dials and slots: values brought to the front, and what becomes of those that stand behind them.

Nothing is computed from a dial: turning it writes the values behind it, so a shot renders the same without its front.
"""

from __future__ import annotations

from dataclasses import replace
from typing import ClassVar

import msgspec

from nimble_quake.conventions import Frames, Value, Values
from nimble_quake.motion.kinds import Keys, Scaled, keys_of
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.base import Operator
from nimble_quake.params.kinds import Drive, Drives, Number, Pairs, Param, Words
from nimble_quake.params.refit import PLAIN, Refit, Scaling

SAME = Refit((1.0, 1.0), (1.0, 1.0))
"""To the same size and rate."""


class Steady(Number):
    """A number of a dial that does not move."""

    animatable = False
    takes_keys = False


class Note(Words):
    """Words about a dial, which do not move."""

    animatable = False
    takes_keys = False


class Front(Operator):
    """What stands in the front panel: its value, and the values that go along with it."""

    family = "front"
    slot: ClassVar[bool] = False
    """What its next user replaces: a picture, words, a map, a sound, a moment."""
    fills_plate: ClassVar[bool] = False
    """It is filled by what a plate can show: the plate behind it becomes of that kind."""
    card: ClassVar[bool] = False
    """It is shown as a card with a small picture of what is in it."""
    apart: ClassVar[bool] = False
    """It is nothing that can be turned or filled, but something that is known of a front."""
    sort: ClassVar[str] = ""
    """The colour it is edged with: that of pictures (lagoon), maps (brass) or time (chalk)."""

    heading = Note(label="Group", help="The heading it stands under in the front panel", most=60)
    tip = Note(label="Tip", help="What turning it up does, in a line", most=300)
    drives = Drives(label="Behind it", help="The values that go along with it")

    @classmethod
    def takes(cls, param: Param) -> bool:
        """Return whether it can stand for a value of this sort."""
        return False

    @classmethod
    def begun(cls, param: Param, value: Value, width: float, height: float) -> Values:
        """Return its own values where it stands for a value as it is, in a shot of this size (px)."""
        return {"value": value, "standard": value}

    @classmethod
    def shown_as(cls, values: Values, label: str, behind: Param | None) -> Param:
        """Return the declaration its editor is made from. behind: that of the first value behind it."""
        declared = cls.declared["value"]
        standard = values.get("standard", declared.default)
        tip = values.get("tip") or (behind.help if behind is not None else declared.help)
        return replace(declared, label=label, help=tip, default=standard)

    @classmethod
    def behind(cls, values: Values, drive: Drive, own: Value) -> Value:
        """Return what a value behind it is. own: what the value is where the dial stands at its standard, or None."""
        return cls.now(values)

    @classmethod
    def now(cls, values: Values) -> Value:
        """Return its value, still or moving."""
        return cls.given(values, "value")

    @classmethod
    def at_standard(cls, values: Values) -> Value:
        """Return the value it goes back to."""
        return values.get("standard", cls.declared["value"].default)


class NumberDial(Front):
    """A number with a unit."""

    @classmethod
    def begun(cls, param: Param, value: Value, width: float, height: float) -> Values:
        low, high = param.usual if isinstance(param, Number) else (0.0, 100.0)
        still = value if isinstance(value, int | float) else param.default
        return {"value": still, "standard": still, "low": min(low, still), "high": max(high, still)}

    @classmethod
    def takes(cls, param: Param) -> bool:
        value = cls.declared["value"]
        return isinstance(param, Number) and (param.unit, param.factor) == (value.unit, value.factor)

    @classmethod
    def shown_as(cls, values: Values, label: str, behind: Param | None) -> Param:
        param = super().shown_as(values, label, behind)
        if not isinstance(param, Number):
            return param
        if isinstance(behind, Number):
            param = replace(param, unit=behind.unit, factor=behind.factor, decimals=behind.decimals)
            param = replace(param, ring=behind.ring, whole=behind.whole, zero=behind.zero)
        return replace(param, usual=cls.reach_of(values))

    @classmethod
    def reach_of(cls, values: Values) -> tuple[float, float]:
        """Return its low and high end."""
        low, high = (float(cls.given(values, name)) for name in ("low", "high"))
        return (low, high) if low < high else (low, low + 1)

    @classmethod
    def behind(cls, values: Values, drive: Drive, own: Value) -> Value:
        """Straight or by its course from end to end; what has a value of its own is scaled with it."""
        now = cls.now(values)
        if own is None:
            return now if drive.ends is None else cls._led(values, drive, now)
        then = cls.at_standard(values)
        if drive.ends is not None:
            now, then = cls._led(values, drive, now), cls._led(values, drive, then)
        if isinstance(now, Motion):
            return Scaled(own, now.refitted(Scaling((1 / then,)), SAME, 1)) if then else own
        return scaled(own, float(now), float(then))

    @classmethod
    def _led(cls, values: Values, drive: Drive, now: Value) -> Value:
        """What a dial's value becomes between the ends of a value behind it."""
        low, high = cls.reach_of(values)
        start, end = drive.ends or (low, high)

        def led(number: float) -> float:
            return start + (end - start) * drive.part((number - low) / (high - low))

        if not isinstance(now, Motion):
            return led(now)
        keys = keys_of(now)
        if drive.course and isinstance(now, Keys) and keys is not None:
            return keys.of(msgspec.structs.replace(key, value=led(key.value)) for key in keys.keys)
        slope = (end - start) / (high - low)
        return now.refitted(Scaling((slope,), (start - slope * low,)), SAME, 1)


class PairDial(Front):
    """Two numbers; what has a value of its own is shifted with it."""

    @classmethod
    def shown_as(cls, values: Values, label: str, behind: Param | None) -> Param:
        param = super().shown_as(values, label, behind)
        if not isinstance(behind, Pairs) or not isinstance(param, Pairs):
            return param
        return replace(param, unit=behind.unit, factor=behind.factor, decimals=behind.decimals)

    @classmethod
    def behind(cls, values: Values, drive: Drive, own: Value) -> Value:
        now = cls.now(values)
        if own is None:
            return now
        (x, y), (x0, y0) = _first(now), cls.at_standard(values)
        return shifted(own, (x - x0, y - y0))


def scaled(own: Value, now: float, then: float) -> Value:
    """Return a value scaled by now / then; where `then` is 0, moved by as much."""
    by = Scaling((now / then,)) if then else Scaling(offsets=(now,))
    if isinstance(own, Motion):
        return own.refitted(by, SAME, len(own.like()) if isinstance(own.like(), tuple) else 1)
    return by.of(own)


def shifted(own: Value, way: tuple[float, ...]) -> Value:
    """Return a value moved by as much."""
    by = Scaling(factors=(1.0,) * len(way), offsets=way)
    return own.refitted(by, SAME, len(way)) if isinstance(own, Motion) else by.of(own)


def delayed(own: Value, frames: Frames) -> Value:
    """Return a value so many frames later: a motion with its pins there, a number of frames greater by them."""
    if isinstance(own, Motion):
        return own.refitted(PLAIN, replace(SAME, later=frames), 1)
    return own + frames


def _first(now: Value) -> Value:
    """A still value; of one that moves, that of its first pin."""
    found = now.like() if isinstance(now, Motion) else now
    return 0.0 if found is None else found


def numbers(unit: str, *, factor: float = 1.0, decimals: int = 1) -> tuple[Number, Number, Number, Number]:
    """Return what a dial of numbers declares: its value, its standard, its low and its high end."""
    most = 1.0 if factor == 100 else 100.0
    like: dict[str, Value] = {"unit": unit, "factor": factor, "decimals": decimals, "hard": (-1e6, 1e6)}
    like["usual"] = (0.0, most)
    return (
        Number(label="Value", help="Its value", **like),
        Steady(label="Standard", help="What it goes back to", **like),
        Steady(label="From", help="Its low end", **like),
        Steady(label="To", help="Its high end", default=most, **like),
    )
