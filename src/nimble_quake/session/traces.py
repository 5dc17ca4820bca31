"""The course of a value over time, to be drawn."""

from __future__ import annotations

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.resolve import value_at
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session


def curve(session: Session, path: str, first: float, last: float, count: int) -> list[list[float]]:
    """Return the values of a moving value at `count` times from `first` to `last` (frames), one list a number."""
    param, raw = session.param(path), session.raw(path)
    if param is None or param.size == 0:
        return []
    raw = raw if raw is not None else session.shown(path)
    lists: list[list[float]] = [[] for _ in range(param.size)]
    try:
        here = session.moment
        for n in range(count):
            frame = first + (last - first) * n / max(1, count - 1)
            value = value_at(raw, here.at(frame), param.size)
            for number, out in zip(value if isinstance(value, tuple) else (value,), lists, strict=True):
                out.append(float(number))
    except NimbleQuakeError:  # what has no value somewhere has no trace; the viewer says why
        return []
    return lists


def bounds_of(lists: list[list[float]], param: Param | None) -> tuple[float, float]:
    """Return the lowest and highest value to show, with 6 % of room each way."""
    flat = [number for numbers in lists for number in numbers] or [0.0, 1.0]
    low, high = min(flat), max(flat)
    if high - low < 1e-9:
        spread = abs(high) or 1.0
        low, high = low - spread / 2, high + spread / 2
    room = (high - low) * 0.06
    return low - room, high + room
