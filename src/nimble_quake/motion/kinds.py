"""The motions a value can have. A value that is none of these is still."""

from __future__ import annotations

from typing import Any, TypeAlias

import msgspec

from nimble_quake.motion.driver import Driver
from nimble_quake.motion.formula import reads_shot

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


class Driven(msgspec.Struct, frozen=True):
    """A motion by a driver: base + amount x its course. base, amount: a number each, or one a number of the value."""

    base: Any
    amount: Any
    driver: Driver


class Layered(msgspec.Struct, frozen=True):
    """A value, or a motion, with further motions laid over it: each adds amount x course."""

    first: Any
    over: tuple[Driven, ...]


Motion: TypeAlias = Keys | Rate | Formula | Driven | Layered
MOTIONS = (Keys, Rate, Formula, Driven, Layered)


def is_moving(value: Any) -> bool:
    """Return whether a value of the document is a motion."""
    return isinstance(value, MOTIONS)


def drivers_of(value: Any) -> tuple[Driver, ...]:
    """Return the drivers a motion has."""
    if isinstance(value, Layered):
        return (*drivers_of(value.first), *(driven.driver for driven in value.over))
    return (value.driver,) if isinstance(value, Driven) else ()


def asks_shot(value: Any) -> bool:
    """Return whether a motion looks at the rest of the shot: other values, sounds, tracks, beats."""
    if isinstance(value, Layered) and asks_shot(value.first):
        return True
    if isinstance(value, Formula):
        return reads_shot(value.text)
    return any(driver.asks_shot for driver in drivers_of(value))


def keys_of(value: Any) -> Keys | None:
    """Return the keys a value moves by, also where other motions are laid over them; None for none."""
    first = value.first if isinstance(value, Layered) else value
    return first if isinstance(first, Keys) else None


def with_keys_of(value: Any, keys: Any) -> Any:
    """Return a value that moves by these keys instead (or holds this still value), with what is laid over it."""
    return Layered(keys, value.over) if isinstance(value, Layered) else keys
