"""Values and numbers of motions as files hold them: checked, held inside their limits, noted."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeAlias

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.params.kinds import Param, shown

LIMIT = 1e9
"""Frames of keys and speeds lie within this."""
Note: TypeAlias = Callable[[str], None]
"""Is told, in words, what was read otherwise than it stands in the file."""


@dataclass(frozen=True)
class Reading:
    """A file being read."""

    note: Note
    value: Callable[[Param, Json], Value]
    """Reads a value that may move. Raises ShotError."""

    def still(self, param: Param, raw: Json) -> Value:
        """Return a still value; what lies beyond its limits is held there, and noted. Raises ShotError."""
        try:
            return param.check(raw)
        except OutOfLimits as wrong:
            self.note(f"{wrong.what}; it was held there")
            return wrong.clamped


def numbers(param: Param, raw: Json) -> Value:
    """Return as many numbers as a parameter has, without its limits: speeds, amounts. Raises ShotError."""
    items = raw if isinstance(raw, list) else [raw]
    clean = tuple(number(item) for item in items)
    if len(clean) != param.size:
        raise ShotError(f"expected {param.size} speed(s) per second, got {shown(raw)}")
    return clean[0] if param.size == 1 else clean


def number(raw: Json) -> float:
    """Return a number that a file may hold. Raises ShotError."""
    if isinstance(raw, bool) or not isinstance(raw, int | float) or not -LIMIT <= raw <= LIMIT:
        raise ShotError(f"expected a number, got {shown(raw)}")
    return float(raw)


def as_json(value: Value) -> Json:
    """Return numbers as JSON holds them."""
    return list(value) if isinstance(value, tuple) else value


def nearest(value: Value) -> Value:
    """Return the nearest number, or numbers, that a file can hold: finite, and not too far."""
    if isinstance(value, tuple):
        return tuple(nearest(each) for each in value)
    return min(max(float(value), -LIMIT), LIMIT) if math.isfinite(value) else 0.0


def nothing(size: int) -> Value:
    """Return as many zeros as a value has numbers."""
    return (0.0,) * size if size > 1 else 0.0
