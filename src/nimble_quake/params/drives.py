"""What stands behind a dial or a slot: paths of values, each with how it goes along."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TypeAlias

import msgspec

from nimble_quake.conventions import Value, Values
from nimble_quake.errors import ShotError
from nimble_quake.params.base import Holds, Pair, Param, Rename, finite, shown
from nimble_quake.params.refit import Refit

MOST_DRIVES = 100
MOST_COURSE = 32
LONGEST_OWN = 200_000
"""Characters of a moving value as JSON."""
Ends: TypeAlias = tuple[float, float] | None


@dataclass(frozen=True)
class Drive:
    """A value that goes along with a dial.

    ends: what it is at the dial's low and high end; None: what the dial is. course: points (0...1, 0...1) of the curve
    from one end to the other; none: straight. own: as JSON text, what it is where the dial stands at its standard:
    numbers are scaled from there, places and times shifted; empty: it has nothing of its own.
    """

    path: str
    ends: Ends = None
    course: tuple[Pair, ...] = ()
    own: str = ""

    def part(self, part: float) -> float:
        """Return how far it is, 0...1, where the dial is so far."""
        if not self.course:
            return part
        points = self.course
        if part <= points[0][0]:
            return points[0][1]
        for (x0, y0), (x1, y1) in zip(points, points[1:], strict=False):
            if part <= x1:
                return y0 + (y1 - y0) * (part - x0) / max(x1 - x0, 1e-9)
        return points[-1][1]


def drives_in(values: Values) -> tuple[Drive, ...]:
    """Return what stands behind a dial or slot with these values; nothing of a kind we do not know, kept as it came."""
    return tuple(drive for drive in values.get("drives", ()) if isinstance(drive, Drive))


@dataclass(frozen=True, kw_only=True)
class Drives(Param, Holds[tuple[Drive, ...]]):
    """Values that go along with a dial, by their paths."""

    default: tuple[Drive, ...] = ()
    kind = "drives"
    takes_keys = False

    def check(self, raw: Value) -> tuple[Drive, ...]:
        """As a file holds them, {"path": ..., "ends": ..., "course": ..., "own": ...} each; a path occurs once."""
        if not isinstance(raw, list | tuple) or len(raw) > MOST_DRIVES:
            raise ShotError(f"expected up to {MOST_DRIVES} values by path, got {shown(raw)}")
        found = [item if isinstance(item, Drive) else _read(item) for item in raw]
        return tuple({drive.path: drive for drive in found}.values())

    def encode(self, value: tuple[Drive, ...]) -> Value:
        return [_written(drive) for drive in value]

    def schema(self) -> dict[str, Value]:
        return {"type": "array", "items": {"type": "object", "required": ["path"]}}

    def renamed(self, value: tuple[Drive, ...], rename: Rename) -> tuple[Drive, ...]:
        return tuple(replace(drive, path=rename(drive.path)) for drive in value)


def refitted_drives(value: tuple[Drive, ...], by: Refit, own: Callable[[str, str], str]) -> tuple[Drive, ...]:
    """Return them in a shot of another size or rate. own: makes the text of a value at a path that of the new shot."""

    def one(drive: Drive) -> Drive:
        scaling = by.scaling_of(drive.path)
        ends = None if drive.ends is None else (scaling.of(drive.ends[0]), scaling.of(drive.ends[1]))
        return replace(drive, ends=ends, own=own(drive.path, drive.own) if drive.own else "")

    return tuple(one(drive) for drive in value)


def _read(raw: Value) -> Drive:
    if not isinstance(raw, dict) or not isinstance(raw.get("path"), str) or not 0 < len(raw["path"]) <= 300:
        raise ShotError(f"expected the path of a value, got {shown(raw)}")
    ends, course, own = raw.get("ends"), raw.get("course", []), raw.get("own")
    if ends is not None and (not isinstance(ends, list) or len(ends) != 2):
        raise ShotError(f"expected two ends, got {shown(ends)}")
    if not isinstance(course, list) or len(course) > MOST_COURSE:
        raise ShotError(f"expected up to {MOST_COURSE} points of a course, got {shown(course)}")
    points = sorted({x: (x, y) for x, y in (_point(each) for each in course)}.values())
    text = "" if own is None else msgspec.json.encode(own).decode()
    if len(text) > LONGEST_OWN:
        raise ShotError("a value behind a dial is longer than we open", cure="give it fewer pins")
    both = None if ends is None else (finite(ends[0], "a number"), finite(ends[1], "a number"))
    return Drive(raw["path"], both, tuple(points), text)


def _point(raw: Value) -> Pair:
    if not isinstance(raw, list | tuple) or len(raw) != 2:
        raise ShotError(f"expected a point of a course, got {shown(raw)}")
    x, y = (min(max(finite(each, "a number"), 0.0), 1.0) for each in raw)
    return x, y


def _written(drive: Drive) -> dict[str, Value]:
    found: dict[str, Value] = {"path": drive.path}
    if drive.ends is not None:
        found["ends"] = list(drive.ends)
    if drive.course:
        found["course"] = [list(point) for point in drive.course]
    if drive.own:
        found["own"] = msgspec.json.decode(drive.own)
    return found
