"""The motions a value can have, one file each, and what is asked of them by all."""

from __future__ import annotations

from functools import cache

from nimble_quake.conventions import Value
from nimble_quake.declared.discovery import classes_in
from nimble_quake.motion.easing import EASE_IN_OUT, Ease
from nimble_quake.motion.kinds.driven import Driven
from nimble_quake.motion.kinds.formula import Formula
from nimble_quake.motion.kinds.keys import AFTER, ANCHORS, Key, Keys
from nimble_quake.motion.kinds.layered import Layered
from nimble_quake.motion.kinds.rate import Rate
from nimble_quake.motion.kinds.scaled import Scaled
from nimble_quake.motion.motion import Motion, asks_shot, drivers_of, is_moving


@cache
def motions() -> tuple[type[Motion], ...]:
    """Return every kind of motion, in the order of menus."""
    return tuple(sorted(classes_in(__name__, Motion), key=lambda motion: (motion.rank, motion.word)))


def keys_of(value: Value) -> Keys | None:
    """Return the keys a value moves by, also where other motions are laid over them; None for none."""
    first = value.first if isinstance(value, Layered | Scaled) else value
    return first if isinstance(first, Keys) else None


def pins_of(value: Value) -> tuple[Key, ...]:
    """Return the keys of a value one by one; none where it does not move by keys."""
    keys = keys_of(value)
    return keys.keys if keys is not None else ()


def said_by(value: Value) -> tuple[Value, ...]:
    """Return every still value that a value has in the course of its pins; itself where it has none."""
    return tuple(key.value for key in pins_of(value)) or (value,)


def with_keys_of(value: Value, keys: Value) -> Value:
    """Return a value that moves by these keys instead (or holds this still value), with what is laid over it."""
    if isinstance(value, Scaled):
        return Scaled(keys, value.by)
    return Layered(keys, value.over) if isinstance(value, Layered) else keys


__all__ = [
    "AFTER",
    "ANCHORS",
    "EASE_IN_OUT",
    "Driven",
    "Ease",
    "Formula",
    "Key",
    "Keys",
    "Layered",
    "Motion",
    "Rate",
    "Scaled",
    "asks_shot",
    "drivers_of",
    "is_moving",
    "keys_of",
    "motions",
    "pins_of",
    "with_keys_of",
]
