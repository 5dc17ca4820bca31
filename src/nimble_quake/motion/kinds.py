"""The motions a value can have. A value that is none of these is still."""

from __future__ import annotations

from typing import Any, TypeAlias

import msgspec

Ease: TypeAlias = tuple[float, float, float, float]

EASE_IN_OUT: Ease = (0.42, 0.0, 0.58, 1.0)
"""CSS Easing 1, ease-in-out."""

AFTER = ("smooth", "straight", "eased", "hold")
"""How a value goes on after a key: without a corner, straight, by its Bézier curve, or not at all."""


class Key(msgspec.Struct, frozen=True, kw_only=True):
    """A keyframe: the value at a frame, and how it goes on to the next one."""

    frame: float
    value: Any
    after: str = "smooth"
    ease: Ease = EASE_IN_OUT


class Keys(msgspec.Struct, frozen=True):
    """A motion given by keys in order of their frames (at least one)."""

    keys: tuple[Key, ...]


class Rate(msgspec.Struct, frozen=True):
    """A steady motion that never ends: start + per_second x seconds."""

    start: Any
    per_second: Any


class Formula(msgspec.Struct, frozen=True):
    """A motion computed from time: one expression, or one for each number of the value, parted by commas."""

    text: str


Motion: TypeAlias = Keys | Rate | Formula
MOTIONS = (Keys, Rate, Formula)


def is_moving(value: Any) -> bool:
    """Return whether a value of the document is a motion."""
    return isinstance(value, MOTIONS)
