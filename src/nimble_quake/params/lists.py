"""Parameters that hold a list: the stops of a gradient, the points of an outline."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec

from nimble_quake.conventions import Json
from nimble_quake.errors import OutOfLimits, ShotError
from nimble_quake.params.base import Holds, Pair, Param, Rename, array_schema, finite, numbers_of, shown
from nimble_quake.params.conditions import When
from nimble_quake.params.numbers import Colour


class Stop(msgspec.Struct, frozen=True, array_like=True):
    """One stop of a gradient: place 0...1, straight RGBA 0...1, and the midpoint (0...1) towards the next stop."""

    at: float
    colour: tuple[float, float, float, float]
    mid: float = 0.5


MAX_STOPS = 64


@dataclass(frozen=True, kw_only=True)
class Stops(Param, Holds[tuple[Stop, ...]]):
    """The stops of a gradient, in order of place."""

    default: tuple[Stop, ...] = (Stop(0.0, (1.0, 1.0, 1.0, 1.0)), Stop(1.0, (0.0, 0.0, 0.0, 1.0)))
    animatable = True
    kind = "stops"

    def check(self, raw: object) -> tuple[Stop, ...]:
        if not isinstance(raw, list | tuple) or not raw:
            raise ShotError(f"expected 1 to {MAX_STOPS} gradient stops, got {shown(raw)}")
        stops = tuple(sorted((self._stop(item) for item in raw[: MAX_STOPS + 1]), key=lambda stop: stop.at))
        if len(raw) > MAX_STOPS:
            raise OutOfLimits(f"{len(raw)} gradient stops are too many", stops[:MAX_STOPS], cure=f"use {MAX_STOPS}")
        return stops

    @staticmethod
    def _stop(raw: object) -> Stop:
        if isinstance(raw, Stop):
            raw = (raw.at, raw.colour, raw.mid)
        if not isinstance(raw, list | tuple) or not 2 <= len(raw) <= 3:
            raise ShotError(f"expected a stop [place, colour, midpoint], got {shown(raw)}")
        at = min(max(finite(raw[0], "a place from 0 to 1"), 0.0), 1.0)
        mid = finite(raw[2], "a midpoint from 0 to 1") if len(raw) == 3 else 0.5
        return Stop(at, Colour().check(raw[1]), min(max(mid, 0.01), 0.99))

    def encode(self, value: tuple[Stop, ...]) -> Json:
        return [[stop.at, Colour().encode(stop.colour), stop.mid] for stop in value]

    def schema(self) -> dict[str, Json]:
        return {"type": "array", "minItems": 1, "maxItems": MAX_STOPS, "items": {"type": "array"}}


MAX_POINTS = 64


@dataclass(frozen=True, kw_only=True)
class Outline(Param, Holds[tuple[Pair, ...]]):
    """An outline: 3 to 64 points as shares of a box, (0, 0) its middle, -0.5...0.5 across and down."""

    default: tuple[Pair, ...] = ((-0.5, 0.1), (-0.25, -0.45), (0.15, -0.3), (0.5, -0.4), (0.4, 0.3), (-0.1, 0.5))
    least: int = 3
    """How few points there may be; a curve over values needs two, in 0...1."""
    smooth_when: When | None = None
    """It runs smoothly through its points only then, else straight from one to the next; None: always smoothly."""
    closed_when: When | None = None
    """Its end is joined to its beginning only then; None: always."""

    animatable = True
    kind = "outline"

    def hangs_on(self) -> list[str]:
        """Return what any parameter hangs on, and what says how it runs."""
        return [*super().hangs_on(), *(when.name for when in (self.smooth_when, self.closed_when) if when is not None)]

    def check(self, raw: object) -> tuple[Pair, ...]:
        if not isinstance(raw, list | tuple) or len(raw) < self.least:
            raise ShotError(f"expected {self.least} to {MAX_POINTS} points [x, y], got {shown(raw)}")
        found = []
        for item in raw[: MAX_POINTS + 1]:
            x, y = numbers_of(item, 2, "a point [x, y]")
            found.append((min(max(x, -50.0), 50.0), min(max(y, -50.0), 50.0)))
        if len(raw) > MAX_POINTS:
            raise OutOfLimits(f"{len(raw)} points are too many", tuple(found[:MAX_POINTS]), cure=f"use {MAX_POINTS}")
        return tuple(found)

    def encode(self, value: tuple[Pair, ...]) -> Json:
        return [list(point) for point in value]

    def schema(self) -> dict[str, Json]:
        return {"type": "array", "minItems": self.least, "maxItems": MAX_POINTS, "items": array_schema(2)}


MAX_NET = 32
"""So many rows and columns of points a net has at most."""


@dataclass(frozen=True, kw_only=True)
class Net(Param, Holds[tuple[float, ...]]):
    """How far the points of a net are moved: x and y of each in shot pixels, row by row; empty: none is moved.

    All of them are one value, keyed as one. How many rows and columns there are is said by other parameters.
    """

    default: tuple[float, ...] = ()
    done: str = "moved"
    """What a point is called that is not at rest."""
    unit = "px"
    animatable = True
    kind = "net"

    def check(self, raw: object) -> tuple[float, ...]:
        if not isinstance(raw, list | tuple) or len(raw) % 2:
            raise ShotError(f"expected pairs of numbers, x and y of each point, got {shown(raw)}")
        most = 2 * MAX_NET * MAX_NET
        found = tuple(min(max(finite(item, "a number"), -1e6), 1e6) for item in raw[:most])
        if len(raw) > most:
            raise OutOfLimits(f"{len(raw) // 2} points are too many", found, cure=f"use {MAX_NET} rows and columns")
        return found

    def schema(self) -> dict[str, Json]:
        return {"type": "array", "maxItems": 2 * MAX_NET * MAX_NET, "items": {"type": "number"}}


MOST_EXCEPTIONS = 100
LONGEST = 20_000


@dataclass(frozen=True, kw_only=True)
class Exceptions(Param, Holds[tuple[tuple[str, str], ...]]):
    """Values of another plate that are other ones here: (path, the value as JSON text) each."""

    default: tuple[tuple[str, str], ...] = ()
    of: str = "of"
    """The parameter that names the original, a plate or a map."""
    kind = "exceptions"
    takes_keys = False

    def check(self, raw: object) -> tuple[tuple[str, str], ...]:
        """As a file holds them, {"path": ..., "value": ...} each, or as pairs of texts."""
        if isinstance(raw, list) and all(isinstance(item, dict) and item.keys() >= {"path", "value"} for item in raw):
            raw = [(item["path"], msgspec.json.encode(item["value"]).decode()) for item in raw]
        if (
            not isinstance(raw, list | tuple)
            or len(raw) > MOST_EXCEPTIONS
            or not all(isinstance(item, list | tuple) and len(item) == 2 for item in raw)
        ):
            raise ShotError(f"expected up to {MOST_EXCEPTIONS} exceptions by path, got {shown(raw)}")
        found = {}
        for path, text in raw:
            if not isinstance(path, str) or not isinstance(text, str) or len(text) > LONGEST or len(path) > 300:
                raise ShotError(f"expected a path and a value, got {shown(path)}")
            try:
                msgspec.json.decode(text)
            except ValueError as wrong:
                raise ShotError(f"the value of {shown(path)} cannot be read") from wrong
            found[path] = text
        return tuple(found.items())

    def renamed(self, value: tuple[tuple[str, str], ...], rename: Rename) -> tuple[tuple[str, str], ...]:
        return tuple((rename(path), text) for path, text in value)

    def encode(self, value: tuple[tuple[str, str], ...]) -> Json:
        return [{"path": path, "value": msgspec.json.decode(text)} for path, text in value]

    def schema(self) -> dict[str, Json]:
        return {"type": "array", "items": {"type": "object", "required": ["path", "value"]}}
