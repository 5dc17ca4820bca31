"""The kinds of parameter an operator can declare.

A parameter is a descriptor: on the operator class it is its own declaration, on an instance it is the resolved value.

    class Blur(Shaper):
        radius = Number("Radius", default=6, hard=(0, 500), usual=(0, 60), unit="px", help="...")

    Blur.radius          -> the declaration
    Blur(radius=4).radius -> 4.0

`check` takes what a file or a hand typed and returns the clean value, or raises ShotError.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Any, Self, TypeAlias, overload

import msgspec

from nimble_quake.errors import ShotError


class Stop(msgspec.Struct, frozen=True, array_like=True):
    """One stop of a gradient: place 0...1, straight RGBA 0...1, and the midpoint (0...1) towards the next stop."""

    at: float
    colour: tuple[float, float, float, float]
    mid: float = 0.5


Rgba: TypeAlias = tuple[float, float, float, float]
Pair: TypeAlias = tuple[float, float]


def _finite(raw: Any, what: str) -> float:
    if isinstance(raw, bool) or not isinstance(raw, int | float):
        raise ShotError(f"expected {what}, got {shown(raw)}")
    try:
        number = float(raw)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise ShotError(f"expected {what}, got {shown(raw)}", cure="use a finite number")
    return number


def shown(raw: Any) -> str:
    """A short, safe way to quote a wrong value in a message."""
    text = f'"{raw}"' if isinstance(raw, str) else repr(raw)
    return text if len(text) <= 40 else text[:37] + "..."


def _numbers(raw: Any, count: int, what: str) -> tuple[float, ...]:
    if not isinstance(raw, list | tuple) or len(raw) != count:
        raise ShotError(f"expected {what}, got {shown(raw)}")
    return tuple(_finite(item, what) for item in raw)


@dataclass(frozen=True, kw_only=True)
class Param:
    """What every parameter has: a label, one line of help, a group, and whether it can move over time."""

    label: str = ""
    help: str = ""
    group: str = ""
    shown_when: tuple[str, str] | None = None
    """(other parameter, its values joined by |): the settings show this one only then."""
    name: str = ""

    animatable = False
    size = 0
    """How many numbers the value holds (0: not made of numbers)."""
    kind = "param"
    default: Any = None

    def __set_name__(self, owner: type, name: str) -> None:
        object.__setattr__(self, "name", name)

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> Any: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        if instance is None:
            return self
        return instance.__dict__["_values"][self.name]

    def check(self, raw: Any) -> Any:
        """Return the clean value, or raise ShotError saying what was expected."""
        raise NotImplementedError

    def encode(self, value: Any) -> Any:
        """Return the value as JSON can hold it."""
        return list(value) if isinstance(value, tuple) else value

    def start(self, width: float, height: float) -> Any:
        """Return the default for a shot of this size (pixels)."""
        return self.default

    def schema(self) -> dict[str, Any]:
        """Return the JSON Schema of a still value."""
        return {}


@dataclass(frozen=True, kw_only=True)
class Number(Param):
    """A number with a unit. `hard` limits are never passed; `usual` is what the slide-field's foot line spans."""

    default: float = 0.0
    hard: Pair = (-1e6, 1e6)
    usual: Pair = (0.0, 1.0)
    unit: str = ""
    whole: bool = False
    decimals: int = 1
    factor: float = 1.0
    """What is shown = value x factor (a share of 0...1 shown in %)."""
    accumulates: bool = False
    """A speed: the operator is handed its integral from frame 0 (value x seconds while still)."""
    ring: bool = False
    """An angle in degrees: shown with an angle ring."""

    animatable = True
    size = 1
    kind = "number"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> float: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> float:
        number = _finite(raw, "a number")
        low, high = self.hard
        if not low <= number <= high:
            raise ShotError(f"{number:g} is outside {low:g} to {high:g}", cure=f"use a value from {low:g} to {high:g}")
        return float(round(number)) if self.whole else number

    def clamp(self, number: float) -> float:
        """Return `number` held inside the hard limits (a moving value may leave them)."""
        if math.isnan(number):
            return self.default
        held = min(max(number, self.hard[0]), self.hard[1])
        return float(round(held)) if self.whole else held

    def encode(self, value: float) -> float | int:
        return int(value) if float(value).is_integer() and abs(value) < 2**53 else value

    def schema(self) -> dict[str, Any]:
        kind = "integer" if self.whole else "number"
        return {"type": kind, "minimum": self.hard[0], "maximum": self.hard[1], "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Pairs(Param):
    """Two numbers that belong together; the base of places and drifts."""

    default: Pair = (0.0, 0.0)
    hard: Pair = (-1e5, 1e5)
    unit: str = "px"
    accumulates: bool = False
    decimals: int = 1
    factor: float = 1.0

    animatable = True
    size = 2
    kind = "pair"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> Pair: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> Pair:
        x, y = _numbers(raw, 2, "two numbers [x, y]")
        low, high = self.hard
        if not (low <= x <= high and low <= y <= high):
            raise ShotError(f"[{x:g}, {y:g}] is outside {low:g} to {high:g}")
        return x, y

    def clamp(self, pair: Pair) -> Pair:
        """Return the pair held inside the hard limits."""
        low, high = self.hard
        x, y = (min(max(v, low), high) if math.isfinite(v) else 0.0 for v in pair)
        return x, y

    def schema(self) -> dict[str, Any]:
        return {"type": "array", "items": {"type": "number"}, "minItems": 2, "maxItems": 2}


@dataclass(frozen=True, kw_only=True)
class Place(Pairs):
    """A place in shot pixels. `default` is a share of the frame: (0.5, 0.5) is its middle."""

    default: Pair = (0.5, 0.5)
    kind = "place"

    def start(self, width: float, height: float) -> Pair:
        return self.default[0] * width, self.default[1] * height


@dataclass(frozen=True, kw_only=True)
class Drift(Pairs):
    """A velocity (x, y) in px/s, set with a drift pad; the operator is handed the way gone since frame 0."""

    unit: str = "px/s"
    accumulates: bool = True
    usual: float = 400.0
    """The speed at the drift pad's border, in px/s."""
    kind = "drift"


@dataclass(frozen=True, kw_only=True)
class Colour(Param):
    """A colour: straight RGBA, 0...1, sRGB-encoded."""

    default: Rgba = (1.0, 1.0, 1.0, 1.0)
    animatable = True
    size = 4
    kind = "colour"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> Rgba: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> Rgba:
        if isinstance(raw, str):
            return parse_hex(raw)
        r, g, b, a = _numbers(raw, 4, "a colour (#rrggbb or four numbers)")
        return self.clamp((r, g, b, a))

    def clamp(self, rgba: Rgba) -> Rgba:
        """Return the colour held to 0...1."""
        r, g, b, a = (min(max(v, 0.0), 1.0) if math.isfinite(v) else 0.0 for v in rgba)
        return r, g, b, a

    def encode(self, value: Rgba) -> Any:
        text = hex_of(value)
        return text if parse_hex(text) == tuple(value) else list(value)

    def schema(self) -> dict[str, Any]:
        return {"anyOf": [{"type": "string", "pattern": "^#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?$"}, _array(4)]}


def _array(count: int) -> dict[str, Any]:
    return {"type": "array", "items": {"type": "number"}, "minItems": count, "maxItems": count}


def parse_hex(text: str) -> Rgba:
    """Return the colour of `#rrggbb` or `#rrggbbaa`."""
    if not re.fullmatch(r"#[0-9a-fA-F]{6}([0-9a-fA-F]{2})?", text):
        raise ShotError(f"expected a colour like #ffcc00, got {shown(text)}")
    r, g, b, a = (int((text[1:] + "ff")[i : i + 2], 16) / 255 for i in (0, 2, 4, 6))
    return r, g, b, a


def hex_of(rgba: Rgba) -> str:
    """Return `#rrggbb`, with the alpha added where it is not full."""
    digits = "".join(f"{round(min(max(v, 0), 1) * 255):02x}" for v in rgba)
    return "#" + (digits[:6] if digits.endswith("ff") else digits)


@dataclass(frozen=True)
class Option:
    """One choice: the value in the file, the word on screen, and what it does."""

    value: str
    label: str
    help: str = ""


def options(**labels: str) -> tuple[Option, ...]:
    """Return options from `value="Label: help"` pairs."""
    parts = ((value, *text.partition(": ")) for value, text in labels.items())
    return tuple(Option(value.rstrip("_"), label, about) for value, label, _, about in parts)


@dataclass(frozen=True, kw_only=True)
class Choice(Param):
    """One of a few named things. `row` asks for a segmented row instead of a list that opens."""

    default: str = ""
    options: tuple[Option, ...] = ()
    row: bool = False
    kind = "choice"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> str: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> str:
        values = [option.value for option in self.options]
        if raw not in values:
            raise ShotError(f"{shown(raw)} is not a choice", cure="use one of " + ", ".join(values))
        return str(raw)

    def label_of(self, value: str) -> str:
        """Return the word on screen for a value."""
        return next((option.label for option in self.options if option.value == value), value)

    def schema(self) -> dict[str, Any]:
        return {"enum": [option.value for option in self.options], "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Toggle(Param):
    """Yes or no."""

    default: bool = False
    kind = "toggle"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> bool: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> bool:
        if not isinstance(raw, bool):
            raise ShotError(f"expected true or false, got {shown(raw)}")
        return raw

    def schema(self) -> dict[str, Any]:
        return {"type": "boolean", "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Seed(Param):
    """A whole number that picks one of many chance arrangements."""

    default: int = 1
    kind = "seed"
    most = 999_999

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> int: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> int:
        number = _finite(raw, "a seed")
        if not number.is_integer() or not 0 <= number <= self.most:
            raise ShotError(f"{number:g} is not a seed", cure=f"use a whole number from 0 to {self.most}")
        return int(number)

    def schema(self) -> dict[str, Any]:
        return {"type": "integer", "minimum": 0, "maximum": self.most, "default": self.default}


@dataclass(frozen=True, kw_only=True)
class Words(Param):
    """Some text."""

    default: str = ""
    most: int = 5000
    lines: bool = False
    kind = "words"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> str: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> str:
        if not isinstance(raw, str):
            raise ShotError(f"expected text, got {shown(raw)}")
        if len(raw) > self.most:
            raise ShotError(f"the text is {len(raw)} characters long", cure=f"keep it under {self.most}")
        return raw.replace("\x00", "").encode("utf-8", "replace").decode("utf-8")

    def schema(self) -> dict[str, Any]:
        return {"type": "string", "maxLength": self.most}


@dataclass(frozen=True, kw_only=True)
class Face(Words):
    """The name of a typeface family."""

    most: int = 200
    kind = "face"


@dataclass(frozen=True, kw_only=True)
class MediaFile(Words):
    """A file on disk: absolute while the shot is open, relative to the shot in its file."""

    most: int = 4096
    sort: str = "picture"
    """Which files the chooser shows: picture, artwork or clip."""
    kind = "file"


@dataclass(frozen=True, kw_only=True)
class MapRef(Words):
    """The id of a map; empty for none."""

    most: int = 200
    kind = "map"


@dataclass(frozen=True, kw_only=True)
class PlateRef(Words):
    """The id of a plate; empty for none."""

    most: int = 200
    kind = "plate"


MAX_STOPS = 64


@dataclass(frozen=True, kw_only=True)
class Stops(Param):
    """The stops of a gradient, in order of place."""

    default: tuple[Stop, ...] = (Stop(0.0, (1.0, 1.0, 1.0, 1.0)), Stop(1.0, (0.0, 0.0, 0.0, 1.0)))
    kind = "stops"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> tuple[Stop, ...]: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> tuple[Stop, ...]:
        if not isinstance(raw, list | tuple) or not 1 <= len(raw) <= MAX_STOPS:
            raise ShotError(f"expected 1 to {MAX_STOPS} gradient stops, got {shown(raw)}")
        return tuple(sorted((self._stop(item) for item in raw), key=lambda stop: stop.at))

    @staticmethod
    def _stop(raw: Any) -> Stop:
        if isinstance(raw, Stop):
            raw = (raw.at, raw.colour, raw.mid)
        if not isinstance(raw, list | tuple) or not 2 <= len(raw) <= 3:
            raise ShotError(f"expected a stop [place, colour, midpoint], got {shown(raw)}")
        at = min(max(_finite(raw[0], "a place from 0 to 1"), 0.0), 1.0)
        mid = _finite(raw[2], "a midpoint from 0 to 1") if len(raw) == 3 else 0.5
        return Stop(at, Colour().check(raw[1]), min(max(mid, 0.01), 0.99))

    def encode(self, value: tuple[Stop, ...]) -> Any:
        return [[stop.at, Colour().encode(stop.colour), stop.mid] for stop in value]

    def schema(self) -> dict[str, Any]:
        return {"type": "array", "minItems": 1, "maxItems": MAX_STOPS, "items": {"type": "array"}}


MAX_POINTS = 64


@dataclass(frozen=True, kw_only=True)
class Outline(Param):
    """A closed outline: 3 to 64 points as shares of a box, (0, 0) its middle, -0.5...0.5 across and down."""

    default: tuple[Pair, ...] = ((-0.5, 0.1), (-0.25, -0.45), (0.15, -0.3), (0.5, -0.4), (0.4, 0.3), (-0.1, 0.5))
    least: int = 3
    """How few points there may be; a curve over values needs two, in 0...1."""
    kind = "outline"

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> tuple[Pair, ...]: ...
    def __get__(self, instance: object | None, owner: type) -> Any:
        return super().__get__(instance, owner)

    def check(self, raw: Any) -> tuple[Pair, ...]:
        if not isinstance(raw, list | tuple) or not self.least <= len(raw) <= MAX_POINTS:
            raise ShotError(f"expected {self.least} to {MAX_POINTS} points [x, y], got {shown(raw)}")
        found = []
        for item in raw:
            x, y = _numbers(item, 2, "a point [x, y]")
            found.append((min(max(x, -50.0), 50.0), min(max(y, -50.0), 50.0)))
        return tuple(found)

    def encode(self, value: tuple[Pair, ...]) -> Any:
        return [list(point) for point in value]

    def schema(self) -> dict[str, Any]:
        return {"type": "array", "minItems": self.least, "maxItems": MAX_POINTS, "items": _array(2)}
