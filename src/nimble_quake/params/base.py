"""What every parameter is, and how what was typed is read."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Generic, Self, TypeAlias, TypeVar, overload

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.params.conditions import When
from nimble_quake.params.refit import PLAIN, Refit, Scaling

T = TypeVar("T", covariant=True)
Rgba: TypeAlias = tuple[float, float, float, float]
Pair: TypeAlias = tuple[float, float]
Rename: TypeAlias = Callable[[str], str]
"""What gives a path of the shot a new name; the same where it has none."""


def finite(raw: object, what: str) -> float:
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        raise ShotError(f"expected {what}, got {shown(raw)}")
    try:
        number = float(raw)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ShotError(f"expected {what}, got {shown(raw)}", cure="use a finite number")
    return number


def shown(raw: object) -> str:
    """A short, safe way to quote a wrong value in a message."""
    text = f'"{raw}"' if isinstance(raw, str) else repr(raw)
    return text if len(text) <= 40 else text[:37] + "..."


def numbers_of(raw: object, count: int, what: str) -> tuple[float, ...]:
    if not isinstance(raw, list | tuple) or len(raw) != count:
        raise ShotError(f"expected {what}, got {shown(raw)}")
    return tuple(finite(item, what) for item in raw)


@dataclass(frozen=True)
class Joined:
    """What a parameter shares a row with: the row's name, another one while `when` does not hold, and its link."""

    name: str
    label: str
    when: When | None = None
    otherwise: str = ""
    link: str = ""
    """A toggle that links the row to the one above it."""


class Holds(Generic[T]):
    """What is declared to hold a T: read from an operator it is that value, read from the operator's class itself."""

    name: str

    @overload
    def __get__(self, holder: None, owner: type) -> Self: ...
    @overload
    def __get__(self, holder: object, owner: type) -> T: ...
    def __get__(self, holder: object | None, owner: type) -> Self | T:
        if holder is None:
            return self
        value: T = holder.__dict__["_values"][self.name]
        return value


@dataclass(frozen=True, kw_only=True)
class Param:
    """What every parameter has: a label, one line of help, a group, and whether it can move over time."""

    label: str = ""
    help: str = ""
    called: str = ""
    """What people also call it, in words that the command finder looks for too."""
    group: str = ""
    shown_when: When | None = None
    """The settings show it only then."""
    follows: tuple[str, str] | None = None
    """(a toggle, another parameter): while the toggle is on this one shows the other's value and cannot be changed."""
    sets: tuple[str, str] | None = None
    """(another parameter, its value): changing this one also chooses that."""
    joined: Joined | None = None
    """Where there is one column it shares a row with another parameter that follows it."""
    section: str = ""
    """The folding section of the settings it stands in; empty: it is always in view."""
    in_row: bool = False
    """It is switched in the row of its item, by the eye: the settings have no field for it."""
    name: str = ""

    animatable = False
    takes_keys = True
    accumulates = False
    unit = ""
    factor = 1.0
    decimals = 2
    size = 0
    """How many numbers the value holds (0: not made of numbers)."""
    kind = "param"
    default: Value = field(default=None)

    def __set_name__(self, owner: type, name: str) -> None:
        object.__setattr__(self, "name", name)

    def check(self, raw: object) -> Value:
        """Return the clean value, or raise ShotError saying what was expected."""
        raise NotImplementedError

    def clamped(self, value: Value) -> Value:
        """Return the nearest value that `check` takes; None, the default, where there is none."""
        try:
            return self.check(value)
        except OutOfLimits as wrong:
            return wrong.clamped
        except ShotError:
            return None

    def encode(self, value: Value) -> Json:
        """Return the value as JSON can hold it."""
        return list(value) if isinstance(value, tuple) else value

    def start(self, width: float, height: float) -> Value:
        """Return the default for a shot of this size (pixels)."""
        return self.default

    def hangs_on(self) -> list[str]:
        """Return the names of the parameters that it waits for, follows, or shares its row with."""
        found = [self.shown_when.name] if self.shown_when else []
        return [*found, *(self.follows or ()), *((self.joined.name, self.joined.link) if self.joined else ())]

    def schema(self) -> dict[str, Json]:
        """Return the JSON Schema of a still value."""
        return {}

    def renamed(self, value: Value, rename: Rename) -> Value:
        """Return a value with what it refers to under new names."""
        return value

    def refit(self, by: Refit, like: Value) -> Scaling:
        """Return what becomes of its values in a shot of another size or rate. like: a value of it."""
        lengths = {"px": by.length, "px/s": by.length, "px/s²": by.length, "f": by.count}
        return lengths[self.unit]() if self.unit in lengths else PLAIN


def array_schema(count: int) -> dict[str, Json]:
    return {"type": "array", "items": {"type": "number"}, "minItems": count, "maxItems": count}
