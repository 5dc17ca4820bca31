"""What a field of the document is: how it is read, written, described, and kept to what can be opened again.

A field stands once, in `model.py`, with its kind from here. The codec, the schema, the limits, the changes and the
lists of the window walk them: a new field is one line there.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Annotated, Any, Generic, Protocol, TypeAlias, TypeVar, cast, get_args, get_origin, get_type_hints

import msgspec

from nimble_quake.conventions import MAX_FRAMES, MAX_SIDE, Json, Value, Values
from nimble_quake.errors import ShotError
from nimble_quake.params.base import Rgba, shown
from nimble_quake.params.kinds import Colour
from nimble_quake.params.refit import Refit
from nimble_quake.params.words import Words

RATE = re.compile(r"[0-9]{1,7}(/[0-9]{1,7}|\.[0-9]{1,9})?")
"""A frame rate as text. An exponent could name a number that takes years to write out."""
T = TypeVar("T")
FrameRange: TypeAlias = tuple[int, int]
Inner: TypeAlias = "tuple[msgspec.Struct, ...]"
"""Plates, maps, markers or operators."""
Item: TypeAlias = Callable[["Items", Any], Json]


class Reading(Protocol):
    """What reads the items that lie in an item."""

    def items(self, of: Items, raw: Sequence[Json]) -> Inner:
        """Return the clean items; what is wrong with them is reported with its place."""


@dataclass(frozen=True, kw_only=True)
class Field(Generic[T]):
    """A field: what it is in a file, and which values of it can be opened again."""

    written: bool = False
    """It stands in the file even where it has its default."""
    listed: bool = False
    """Lists of the window show it: it is a change of the shot's shape."""
    edited: bool = True
    """Setting it is an edit."""

    def read(self, raw: Json, reading: Reading) -> T:
        """Return the value of what stands in a file. Raises ShotError without a place."""
        raise NotImplementedError

    def write(self, value: T, items: Item) -> Json:
        """Return the value as JSON; `items` writes items that lie in it."""
        return cast("Json", list(value) if isinstance(value, tuple) else value)

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        """Return its JSON Schema; `items` describes items that lie in it."""
        raise NotImplementedError

    def clamped(self, value: T) -> T:
        """Return the nearest value that can be opened again."""
        return value

    def refitted(self, value: T, by: Refit) -> T:
        """Return it in a shot of another rate or length: frames are moved."""
        return value


def _expected(what: str, raw: Json, cure: str = "") -> ShotError:
    return ShotError(f"expected {what}, got {shown(raw)}", cure=cure)


@dataclass(frozen=True, kw_only=True)
class Text(Field[str]):
    """Words of one line."""

    most: int = 200

    def read(self, raw: Json, reading: Reading) -> str:
        if not isinstance(raw, str):
            raise _expected("text", raw)
        return raw[: self.most]

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "string"}

    def clamped(self, value: str) -> str:
        return Words.clean(value)[: self.most]


@dataclass(frozen=True, kw_only=True)
class Reference(Text):
    """The id or the path of something else in the shot; it is no words of a person."""

    def clamped(self, value: str) -> str:
        return value


@dataclass(frozen=True, kw_only=True)
class Id(Reference):
    """A short name that nothing beside it has."""

    def read(self, raw: Json, reading: Reading) -> str:
        if not isinstance(raw, str) or not 0 < len(raw) <= 100 or "/" in raw:
            raise _expected("a short name without slashes", raw)
        return raw


@dataclass(frozen=True, kw_only=True)
class OneOf(Field[str]):
    """One of a few words; another word is read as the first."""

    words: tuple[str, ...]

    def read(self, raw: Json, reading: Reading) -> str:
        return raw if isinstance(raw, str) and raw in self.words else self.words[0]

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"enum": list(self.words)}


@dataclass(frozen=True, kw_only=True)
class Switch(Field[bool]):
    """On or off."""

    def read(self, raw: Json, reading: Reading) -> bool:
        if not isinstance(raw, bool):
            raise _expected("true or false", raw)
        return raw

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "boolean"}


@dataclass(frozen=True, kw_only=True)
class Whole(Field[int | None]):
    """A whole number from `low` to `high`."""

    low: int
    high: int
    optional: bool = False
    """It may be none."""
    frame: bool = False
    """It is a frame's number."""

    def refitted(self, value: int | None, by: Refit) -> int | None:
        return round(by.frame(value)) if self.frame and value is not None else value

    def read(self, raw: Json, reading: Reading) -> int | None:
        if raw is None and self.optional:
            return None
        if not isinstance(raw, int) or isinstance(raw, bool):
            raise _expected("a whole number", raw)
        if not self.low <= raw <= self.high:
            raise ShotError(f"{raw} is outside {self.low} to {self.high}")
        return raw

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        kind: Json = ["integer", "null"] if self.optional else "integer"
        return {"type": kind, "minimum": self.low, "maximum": self.high}

    def clamped(self, value: int | None) -> int | None:
        return None if value is None else min(max(value, self.low), self.high)


@dataclass(frozen=True, kw_only=True)
class Rate(Field[Fraction]):
    """FrameRange per second, exact."""

    def read(self, raw: Json, reading: Reading) -> Fraction:
        try:
            rate = Fraction(str(raw)) if RATE.fullmatch(str(raw)) else Fraction(0)
        except (ValueError, ZeroDivisionError):
            rate = Fraction(0)
        if not Fraction(1, 10) <= rate <= 1000:
            raise ShotError(f"{shown(raw)} is no frame rate", cure='use "25" or "24000/1001"')
        return rate.limit_denominator(100_000)

    def write(self, value: Fraction, items: Item) -> Json:
        return str(value)

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "string", "description": 'frames per second, such as "25" or "24000/1001"'}


@dataclass(frozen=True, kw_only=True)
class FlatColour(Field[Rgba]):
    """A colour that does not move."""

    def read(self, raw: Json, reading: Reading) -> Rgba:
        return Colour().check(raw)

    def write(self, value: Rgba, items: Item) -> Json:
        return Colour().encode(value)

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "string"}

    def clamped(self, value: Rgba) -> Rgba:
        return Colour().clamp(value)


@dataclass(frozen=True, kw_only=True)
class Range(Field[FrameRange | None]):
    """A first frame, and the one after the last; or none."""

    low: int = -MAX_FRAMES

    def refitted(self, value: FrameRange | None, by: Refit) -> FrameRange | None:
        return None if value is None else (round(by.frame(value[0])), round(by.frame(value[1])))

    def read(self, raw: Json, reading: Reading) -> FrameRange | None:
        if raw is None:
            return None
        found = _frames(raw)
        if found is None or not self.low <= found[0] < found[1]:
            raise _expected("two frames, the second one later", raw)
        return found

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        frame: Json = {"type": "integer", "minimum": self.low, "maximum": MAX_FRAMES}
        return {"type": "array", "items": frame, "minItems": 2, "maxItems": 2}

    def clamped(self, value: FrameRange | None) -> FrameRange | None:
        if value is None:
            return None
        first = min(max(value[0], self.low), MAX_FRAMES - 1)
        return first, min(max(value[1], first + 1), MAX_FRAMES)


@dataclass(frozen=True, kw_only=True)
class Fades(Field[FrameRange]):
    """Over how many frames something comes in, and goes."""

    def refitted(self, value: FrameRange, by: Refit) -> FrameRange:
        return round(value[0] * by.frames), round(value[1] * by.frames)

    def read(self, raw: Json, reading: Reading) -> FrameRange:
        found = (0, 0) if raw is None else _frames(raw)
        if found is None or min(found) < 0:
            raise _expected("two counts of frames", raw)
        return found

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "array", "items": {"type": "integer", "minimum": 0}, "minItems": 2, "maxItems": 2}

    def clamped(self, value: FrameRange) -> FrameRange:
        return min(max(value[0], 0), MAX_FRAMES), min(max(value[1], 0), MAX_FRAMES)


def _frames(raw: Json) -> FrameRange | None:
    numbers = [n for n in raw if isinstance(n, int) and not isinstance(n, bool)] if isinstance(raw, list) else []
    whole = isinstance(raw, list) and len(raw) == len(numbers) == 2 and max(map(abs, numbers)) <= MAX_FRAMES
    return (numbers[0], numbers[1]) if whole else None


@dataclass(frozen=True, kw_only=True)
class Moments(Field[tuple[float, ...]]):
    """FrameRange of many moments, in order; they may lie between two frames."""

    most: int

    def refitted(self, value: tuple[float, ...], by: Refit) -> tuple[float, ...]:
        return tuple(by.moved(frame) for frame in value)

    def read(self, raw: Json, reading: Reading) -> tuple[float, ...]:
        rows = raw if isinstance(raw, list) else [None]
        given = [float(n) for n in rows if isinstance(n, int | float) and not isinstance(n, bool)]
        numbers = [n for n in given if 0 <= n <= MAX_FRAMES]
        if len(numbers) != len(rows) or len(numbers) > self.most:
            raise _expected("frames of beats", raw)
        return tuple(sorted(set(numbers)))

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "array", "items": {"type": "number", "minimum": 0, "maximum": MAX_FRAMES}}

    def clamped(self, value: tuple[float, ...]) -> tuple[float, ...]:
        return tuple(sorted({min(max(float(n), 0.0), MAX_FRAMES) for n in value})[: self.most])


@dataclass(frozen=True, kw_only=True)
class Lines(Field[tuple[float, ...]]):
    """Lines across the frame by their place on one axis, in px; it may be outside the frame. axis: 0 for x, 1 for y."""

    axis: int
    most: int = 100

    def refitted(self, value: tuple[float, ...], by: Refit) -> tuple[float, ...]:
        half = (by.old[0] / 2, by.old[1] / 2)
        return tuple(by.place(_with(half, self.axis, at)).of(_with(half, self.axis, at))[self.axis] for at in value)

    def read(self, raw: Json, reading: Reading) -> tuple[float, ...]:
        rows = raw if isinstance(raw, list) else [None]
        given = [float(n) for n in rows if isinstance(n, int | float) and not isinstance(n, bool)]
        if len(given) != len(rows) or len(given) > self.most or any(not abs(n) <= MAX_SIDE for n in given):
            raise _expected(f"at most {self.most} places in px", raw)
        return tuple(sorted(set(given)))

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        number: Json = {"type": "number", "minimum": -MAX_SIDE, "maximum": MAX_SIDE}
        return {"type": "array", "items": number, "maxItems": self.most}

    def clamped(self, value: tuple[float, ...]) -> tuple[float, ...]:
        numbers = [float(n) for n in value if math.isfinite(n)]
        return tuple(sorted({min(max(n, -MAX_SIDE), MAX_SIDE) for n in numbers})[: self.most])


def _with(place: tuple[float, float], axis: int, at: float) -> tuple[float, float]:
    return (at, place[1]) if axis == 0 else (place[0], at)


@dataclass(frozen=True, kw_only=True)
class OperatorValues(Field[Values]):
    """Values of an operator by the names of its parameters: read and written by what knows the operator."""

    def read(self, raw: Json, reading: Reading) -> Values:
        if not isinstance(raw, dict):
            raise _expected("an object", raw)
        return raw


@dataclass(frozen=True, kw_only=True)
class Items(Field[Inner]):
    """Items of their own, in order; an id occurs once."""

    item: str
    """What they are: plate, map, effect, step, sound or marker."""
    most: int
    word: str

    def read(self, raw: Json, reading: Reading) -> Inner:
        if not isinstance(raw, list):
            raise _expected("a list", raw)
        if len(raw) > self.most:
            raise ShotError(f"{len(raw)} is more than we open", cure=f"keep them under {self.most}")
        return reading.items(self, raw)

    def write(self, value: Inner, items: Item) -> Json:
        return [items(self, item) for item in value]

    def schema(self, items: Callable[[Items], Json]) -> dict[str, Json]:
        return {"type": "array", "items": items(self)}


class Extra(Field[Values]):
    """What a file holds that this version does not know: kept, and written back."""


@cache
def fields_of(struct: type[msgspec.Struct]) -> Mapping[str, Field[Any]]:
    """Return the fields of a part of the document, in the order a file has them."""
    found: dict[str, Field[Any]] = {}
    hints = get_type_hints(struct, include_extras=True)
    for name in struct.__struct_fields__:
        kinds = get_args(hints[name])[1:] if get_origin(hints[name]) is Annotated else ()
        if not kinds or not isinstance(kinds[0], Field):
            raise TypeError(f"{struct.__name__}.{name} has no kind of field")
        if not isinstance(kinds[0], Extra):
            found[name] = kinds[0]
    return found


@cache
def defaults_of(struct: type[msgspec.Struct]) -> Mapping[str, Value]:
    """Return the defaults of the fields that have one."""
    return {
        field.name: field.default_factory() if field.default is msgspec.NODEFAULT else field.default
        for field in msgspec.structs.fields(struct)
        if not field.required
    }
