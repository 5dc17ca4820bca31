"""Keys: the value at some frames, and how it goes on between them."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import Self, TypeAlias

import msgspec
import numpy as np

from nimble_quake.conventions import Frames, Json, Value
from nimble_quake.errors import ShotError
from nimble_quake.motion.easing import EASE_IN_OUT, Ease, ease
from nimble_quake.motion.integral import Clamp, Numbers, as_it_is, as_tuple
from nimble_quake.motion.motion import Motion
from nimble_quake.motion.reading import Reading, nearest, number
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Param, Stop, shown
from nimble_quake.params.refit import Refit, Scaling

AFTER = ("smooth", "straight", "eased", "hold")
"""How a value goes on after a key: without a corner, straight, by its Bézier curve, or not at all."""
ANCHORS = {
    "": "Stretched with it",
    "start": "Kept from the start",
    "end": "Kept from the end",
    "both": "Kept from both ends",
}
"""What becomes of the frames of keys where what they belong to gets another length: all stretched with it, or as far
from its start as they were, from its end, or each from the nearer of the two."""
MOST_KEYS = 20_000
PARTS = 64
"""Pieces that are integrated each by itself where a value is held."""
NODES, WEIGHTS = np.polynomial.legendre.leggauss(12)
"""Gauss-Legendre quadrature of a piece between two keys: exact for the cubic of smooth ones."""


class Key(msgspec.Struct, frozen=True, kw_only=True):
    """A keyframe: the value at a frame, and how it goes on to the next one."""

    frame: float
    value: Value
    after: str = "smooth"
    ease: Ease = EASE_IN_OUT

    @classmethod
    def decoded(cls, param: Param, raw: Json, reading: Reading) -> Key:
        """Return what a file holds. Raises ShotError."""
        if not isinstance(raw, dict):
            raise ShotError(f"expected a key, got {shown(raw)}")
        after = raw.get("after", "smooth")
        if after not in AFTER:
            raise ShotError(f"{shown(after)} is no way to go on", cure="use one of " + ", ".join(AFTER))
        ease = raw.get("ease", list(EASE_IN_OUT))
        if not isinstance(ease, list) or len(ease) != 4:
            raise ShotError(f"expected an ease of four numbers, got {shown(ease)}")
        x1, y1, x2, y2 = (number(item) for item in ease)
        if not (0 <= x1 <= 1 and 0 <= x2 <= 1):
            raise ShotError("the times of an ease lie from 0 to 1", cure="keep its 1st and 3rd number there")
        value = reading.still(param, raw.get("value"))
        return cls(frame=number(raw.get("frame")), value=value, after=str(after), ease=(x1, y1, x2, y2))

    def encoded(self, param: Param) -> Json:
        """Return it as JSON holds it."""
        frame = int(self.frame) if float(self.frame).is_integer() else self.frame
        found: dict[str, Json] = {"frame": frame, "value": param.encode(self.value), "after": self.after}
        if self.after == "eased" or self.ease != EASE_IN_OUT:  # kept for the day it is eased again
            found["ease"] = list(self.ease)
        return found

    def clamped(self, param: Param) -> Key | None:
        """Return the nearest key that a file can hold; itself where that is it; None where there is none."""
        value = param.clamped(self.value)
        if value is None or not math.isfinite(self.frame):
            return None
        x1, y1, x2, y2 = (nearest(each) for each in self.ease)
        ease = (min(max(x1, 0.0), 1.0), y1, min(max(x2, 0.0), 1.0), y2)
        found = msgspec.structs.replace(self, frame=nearest(self.frame), value=value, ease=ease)
        return self if found == self else found


class Keys(Motion, frozen=True):
    """A motion given by keys in order of their frames (at least one). anchor: one of `ANCHORS`."""

    keys: tuple[Key, ...]
    anchor: str = ""

    word = "keys"
    title = "Keys"
    rank = 10
    any_value = True

    def at(self, moment: Moment, size: int) -> Value:
        return keyed_value(self, moment.frame)

    def summed(self, moment: Moment, size: int, clamp: Clamp) -> Numbers:
        """From one key to the next."""
        frame = moment.frame
        low, high = sorted((0.0, float(frame)))
        frames = [key.frame for key in self.keys]
        first, last = bisect_right(frames, low), bisect_right(frames, high)
        cuts = [low, *(f for f in frames[first:last] if low < f < high), high]
        total = np.zeros(size)
        for a, b in zip(cuts, cuts[1:], strict=False):
            total += _piece(self, a, b, clamp)
        return tuple((total if frame >= 0 else -total).tolist())

    def of(self, keys: Iterable[Key]) -> Keys:
        """Return it with other keys."""
        return msgspec.structs.replace(self, keys=tuple(keys))

    def how_to_close(self) -> str:
        return "give its last pin, at the shot's end, the value of the first"

    @classmethod
    def begun(cls, now: Value, frame: Frames, size: int) -> Self:
        return cls((Key(frame=float(frame), value=now),))

    def with_value(self, value: Value, moment: Moment, size: int) -> Keys:
        """A point that is added to a list, or taken away, is so in every key."""
        return with_key(with_points_of(self, self.at(moment, size), value), moment.frame, value)

    def clamped(self, param: Param) -> Keys | None:
        if not param.takes_keys:
            return None
        keys = {key.frame: key for key in (key.clamped(param) for key in self.keys[:MOST_KEYS]) if key is not None}
        anchor = self.anchor if self.anchor in ANCHORS else ""
        return Keys(tuple(keys[frame] for frame in sorted(keys)), anchor) if keys else None

    def like(self) -> Value:
        return self.keys[0].value

    def unjoined(self, frame: Frames) -> tuple[Key, Key] | None:
        """Return the two keys round a frame that hold lists of other lengths, so that nothing lies between them."""
        index = bisect_right(self.keys, frame, key=lambda key: key.frame) - 1
        if not 0 <= index < len(self.keys) - 1 or self.keys[index].after == "hold":
            return None
        here, follow = self.keys[index], self.keys[index + 1]
        lists = all(_is_points(key.value) or _is_stops(key.value) for key in (here, follow))
        return (here, follow) if lists and len(here.value) != len(follow.value) else None

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Keys:
        def moved(key: Key, frame: Frames) -> Key:
            value = scaling.of(key.value) if scaling.changes else key.value
            return msgspec.structs.replace(key, frame=frame, value=value)

        return self.of(map(moved, self.keys, by.pins([key.frame for key in self.keys], self.anchor)))

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Keys:
        found = raw["keys"]
        if not isinstance(found, list) or not 1 <= len(found) <= MOST_KEYS:
            raise ShotError(f"expected 1 to {MOST_KEYS} keys, got {shown(found)}")
        anchor = raw.get("anchor", "")
        if not isinstance(anchor, str) or anchor not in ANCHORS:
            cure = "use one of " + ", ".join(filter(None, ANCHORS)) + ", or leave it out"
            raise ShotError(f"{shown(anchor)} is nothing that keys are kept from", cure=cure)
        keys = {key.frame: key for key in (Key.decoded(param, item, reading) for item in found)}
        return cls(tuple(keys[frame] for frame in sorted(keys)), anchor)

    def encoded(self, param: Param) -> Json:
        found: dict[str, Json] = {"keys": [key.encoded(param) for key in self.keys]}
        return found | {"anchor": self.anchor} if self.anchor else found


def with_key(motion: Keys, frame: Frames, value: Value) -> Keys:
    """Return keys with the value set at a frame: the key there, or a new one that goes on like the one before it."""
    before = [key for key in motion.keys if key.frame <= frame]
    like = before[-1] if before else Key(frame=frame, value=value)
    set_here = msgspec.structs.replace(like, frame=float(frame), value=value)
    by_frame = {**{key.frame: key for key in motion.keys}, float(frame): set_here}
    return motion.of(by_frame[at] for at in sorted(by_frame))


def with_points_of(motion: Keys, before: Value, now: Value) -> Keys:
    """Return keys of points with one added or taken away in each, as between two lists that differ by one point.

    It is added at the same place along its edge: at the same fraction from the point before it to the one after.
    """
    if not (_is_points(before) and _is_points(now) and abs(len(now) - len(before)) == 1):
        return motion
    at = next((n for n, (a, b) in enumerate(zip(before, now, strict=False)) if a != b), min(len(before), len(now)))
    grows = len(now) > len(before)

    def changed(key: Key) -> Key:
        if len(key.value) != len(before):
            return key
        points = key.value
        made = (
            (*points[:at], _between(before, now[at], points, at), *points[at:])
            if grows
            else (*points[:at], *points[at + 1 :])
        )
        return msgspec.structs.replace(key, value=made)

    return motion.of(changed(key) for key in motion.keys)


def _between(before: Value, new: Value, points: Value, at: int) -> Value:
    """Where a point that was added to one list lies in another: along the same edge, or as far beyond its end."""
    left, right = at - 1, at % len(before)
    across = [point[0] for point in before]
    if at in (0, len(before)) and across == sorted(across):  # a curve over values has ends
        end = 0 if at == 0 else -1
        return tuple(p + n - b for p, n, b in zip(points[end], new, before[end], strict=True))
    (ax, ay), (bx, by) = before[left], before[right]
    ex, ey = bx - ax, by - ay
    t = min(max(((new[0] - ax) * ex + (new[1] - ay) * ey) / max(ex * ex + ey * ey, 1e-12), 0.0), 1.0)
    return tuple(a + (b - a) * t for a, b in zip(points[left], points[right], strict=True))


@lru_cache(maxsize=4096)
def _piece(motion: Keys, a: float, b: float, clamp: Clamp) -> Value:
    if b <= a:
        return 0.0
    whole, clamped_whole = _quadrature(motion, a, b, as_it_is), _quadrature(motion, a, b, clamp)
    if np.array_equal(whole, clamped_whole):
        return whole
    cuts = np.linspace(a, b, PARTS + 1).tolist()  # where a value is held its curve has a corner
    return sum(_quadrature(motion, c, d, clamp) for c, d in zip(cuts, cuts[1:], strict=False))


def _quadrature(motion: Keys, a: float, b: float, clamp: Clamp) -> Value:
    middle, half = (a + b) / 2, (b - a) / 2
    values = [as_tuple(clamp(keyed_value(motion, middle + half * node))) for node in NODES.tolist()]
    return np.asarray(values).T @ WEIGHTS * half


def keyed_value(motion: Keys, frame: Frames) -> Value:
    """Return the value at a frame; before the first and after the last key that key's value."""
    keys = motion.keys
    index = bisect_right(keys, frame, key=lambda key: key.frame) - 1
    if index < 0:
        return keys[0].value
    here = keys[index]
    if index == len(keys) - 1 or here.after == "hold":
        return here.value
    follow = keys[index + 1]
    if _is_stops(here.value):
        return _stops_at(here, follow, frame)
    if not _is_numbers(here.value):
        return here.value
    if _is_points(here.value):
        return _points_at(keys, index, frame)
    if isinstance(here.value, tuple) and len(here.value) != len(follow.value):
        return here.value  # points came or went: there is nothing between
    fraction = (frame - here.frame) / (follow.frame - here.frame)
    if here.after == "smooth":
        return _componentwise(_hermite, keys, index, fraction)
    if here.after == "eased":
        fraction = ease(here.ease, fraction)
    return _mix(here.value, follow.value, fraction)


def _is_numbers(value: Value) -> bool:
    single = isinstance(value, float | int) and not isinstance(value, bool)
    return single or _is_tuple_of_numbers(value) or _is_points(value)


def _is_points(value: Value) -> bool:
    """Whether a value is a list of points, which are keyed as one."""
    return isinstance(value, tuple) and bool(value) and all(type(v) is tuple and _is_tuple_of_numbers(v) for v in value)


def _points_at(keys: tuple[Key, ...], index: int, frame: Frames) -> Value:
    """Points between two keys, each as its numbers are; where their count differs the earlier ones stay."""
    near = range(max(0, index - 1), min(len(keys), index + 3))
    if len(keys[index].value) != len(keys[index + 1].value):
        return keys[index].value
    alike = [keys[n] for n in near if len(keys[n].value) == len(keys[index].value)]
    flat = tuple(
        Key(frame=k.frame, value=tuple(v for point in k.value for v in point), after=k.after, ease=k.ease)
        for k in alike
    )
    found = keyed_value(Keys(flat), frame)
    size = len(keys[index].value[0])
    return tuple(tuple(found[n : n + size]) for n in range(0, len(found), size))


def _is_stops(value: Value) -> bool:
    return isinstance(value, tuple) and bool(value) and all(isinstance(stop, Stop) for stop in value)


def _stops_at(here: Key, follow: Key, frame: Frames) -> Value:
    """Stops between two keys, each with its place, colour and midpoint; where their count differs the earlier ones."""
    if len(here.value) != len(follow.value):
        return here.value
    fraction = (frame - here.frame) / (follow.frame - here.frame)
    if here.after != "straight":
        fraction = ease(here.ease if here.after == "eased" else EASE_IN_OUT, fraction)
    pairs = zip(here.value, follow.value, strict=True)
    return tuple(
        Stop(_mix(a.at, b.at, fraction), _mix(a.colour, b.colour, fraction), _mix(a.mid, b.mid, fraction))
        for a, b in pairs
    )


def _is_tuple_of_numbers(value: Value) -> bool:
    return isinstance(value, tuple) and all(isinstance(v, float | int) for v in value)


def _mix(a: Value, b: Value, fraction: float) -> Value:
    if isinstance(a, tuple):
        return tuple(x + (y - x) * fraction for x, y in zip(a, b, strict=True))
    return a + (b - a) * fraction


Through: TypeAlias = Callable[[list[float], list[float], int, float], float]


def _componentwise(curve: Through, keys: tuple[Key, ...], index: int, fraction: float) -> Value:
    first = keys[index].value
    if isinstance(first, tuple):  # keys of another length have no slope to give
        apart = [n for n, key in enumerate(keys) if len(key.value) != len(first)]
        low = max((n + 1 for n in apart if n < index), default=0)
        high = min((n for n in apart if n > index), default=len(keys))
        keys, index = keys[low:high], index - low
    frames = [key.frame for key in keys]
    if not isinstance(first, tuple):
        return curve(frames, [key.value for key in keys], index, fraction)
    return tuple(curve(frames, [key.value[n] for key in keys], index, fraction) for n in range(len(first)))


def _hermite(frames: list[float], values: list[float], index: int, fraction: float) -> float:
    """Cubic Hermite between keys; slopes by Fritsch and Carlson's harmonic mean, so it never overshoots a key."""
    width = frames[index + 1] - frames[index]
    start, end = values[index], values[index + 1]
    m0, m1 = (slope_at(frames, values, at) * width for at in (index, index + 1))
    s, s2, s3 = fraction, fraction * fraction, fraction * fraction * fraction
    return start * (2 * s3 - 3 * s2 + 1) + m0 * (s3 - 2 * s2 + s) + end * (3 * s2 - 2 * s3) + m1 * (s3 - s2)


def slope_at(frames: list[float], values: list[float], at: int) -> float:
    """The slope at a key, per frame; level at the ends and at peaks."""
    if at == 0 or at == len(frames) - 1:
        return 0.0
    left, right = frames[at] - frames[at - 1], frames[at + 1] - frames[at]
    before, after = (values[at] - values[at - 1]) / left, (values[at + 1] - values[at]) / right
    if before * after <= 0:
        return 0.0
    w1, w2 = 2 * right + left, right + 2 * left
    return (w1 + w2) / (w1 / before + w2 / after)
