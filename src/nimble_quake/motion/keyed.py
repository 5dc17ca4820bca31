"""The value of keys at a frame."""

from __future__ import annotations

from bisect import bisect_right
from typing import Any

from nimble_quake.conventions import Frames
from nimble_quake.motion.easing import ease
from nimble_quake.motion.kinds import Key, Keys


def keyed_value(motion: Keys, frame: Frames) -> Any:
    """Return the value at a frame; before the first and after the last key that key's value."""
    keys = motion.keys
    index = bisect_right(keys, frame, key=lambda key: key.frame) - 1
    if index < 0:
        return keys[0].value
    here = keys[index]
    if index == len(keys) - 1 or here.after == "hold" or not _is_numbers(here.value):
        return here.value
    follow = keys[index + 1]
    if _is_points(here.value):
        return _points_at(keys, index, frame)
    if isinstance(here.value, tuple) and len(here.value) != len(follow.value):
        return here.value  # points came or went: there is nothing between
    share = (frame - here.frame) / (follow.frame - here.frame)
    if here.after == "smooth":
        return _componentwise(_hermite, keys, index, share)
    if here.after == "eased":
        share = ease(here.ease, share)
    return _mix(here.value, follow.value, share)


def _is_numbers(value: Any) -> bool:
    single = isinstance(value, float | int) and not isinstance(value, bool)
    return single or _is_tuple_of_numbers(value) or _is_points(value)


def _is_points(value: Any) -> bool:
    """Whether a value is a list of points, which are keyed as one."""
    return isinstance(value, tuple) and bool(value) and all(type(v) is tuple and _is_tuple_of_numbers(v) for v in value)


def _points_at(keys: tuple[Key, ...], index: int, frame: Frames) -> Any:
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


def _is_tuple_of_numbers(value: Any) -> bool:
    return isinstance(value, tuple) and all(isinstance(v, float | int) for v in value)


def _mix(a: Any, b: Any, share: float) -> Any:
    if isinstance(a, tuple):
        return tuple(x + (y - x) * share for x, y in zip(a, b, strict=True))
    return a + (b - a) * share


def _componentwise(curve: Any, keys: tuple[Key, ...], index: int, share: float) -> Any:
    first = keys[index].value
    if isinstance(first, tuple):  # keys of another length have no slope to give
        apart = [n for n, key in enumerate(keys) if len(key.value) != len(first)]
        low = max((n + 1 for n in apart if n < index), default=0)
        high = min((n for n in apart if n > index), default=len(keys))
        keys, index = keys[low:high], index - low
    frames = [key.frame for key in keys]
    if not isinstance(first, tuple):
        return curve(frames, [key.value for key in keys], index, share)
    return tuple(curve(frames, [key.value[n] for key in keys], index, share) for n in range(len(first)))


def _hermite(frames: list[float], values: list[float], index: int, share: float) -> float:
    """Cubic Hermite between keys; slopes by Fritsch and Carlson's harmonic mean, so it never overshoots a key."""
    width = frames[index + 1] - frames[index]
    start, end = values[index], values[index + 1]
    m0, m1 = (slope_at(frames, values, at) * width for at in (index, index + 1))
    s, s2, s3 = share, share * share, share * share * share
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
