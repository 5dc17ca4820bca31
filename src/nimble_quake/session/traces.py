"""The course of a value over time, to be drawn."""

from __future__ import annotations

import numpy as np

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.motion import values_at
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session


def curve(session: Session, path: str, first: float, last: float, count: int) -> list[list[float]]:
    """Return the values of a moving value at `count` times from `first` to `last` (frames), one list a number."""
    param, raw = session.param(path), session.raw(path)
    if param is None or param.size == 0:
        return []
    raw = raw if raw is not None else session.shown(path)
    frames = np.linspace(first, last, count)
    try:
        found: list[list[float]] = values_at(raw, session.moment, frames, param.size).tolist()
        return found
    except NimbleQuakeError:  # what has no value somewhere has no trace; the viewer says why
        return []


def bounds_of(lists: list[list[float]], param: Param | None) -> tuple[float, float]:
    """Return the lowest and highest value to show, with 6 % of room each way."""
    flat = [number for numbers in lists for number in numbers] or [0.0, 1.0]
    low, high = min(flat), max(flat)
    if high - low < 1e-9:
        spread = abs(high) or 1.0
        low, high = low - spread / 2, high + spread / 2
    room = (high - low) * 0.06
    return low - room, high + room
