"""Speeds summed up over time: how far something has come since frame 0.

Any frame alone gives the same as playing to it, and a frame far along a long shot costs next to nothing: still values
and rates have a closed form, keys are integrated between one key and the next (see `motion.kinds`), all others in
stretches of 256 frames whose sums are remembered.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from functools import lru_cache
from typing import Protocol, TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import MAX_FRAMES, Value
from nimble_quake.motion.timing import Moment

Numbers: TypeAlias = tuple[float, ...]
Clamp: TypeAlias = Callable[[Value], Value]

STRETCH = 256
"""Frames whose sum is remembered as one."""


Sum: TypeAlias = NDArray[np.float64]
"""One number for each of a value, (size,)."""
Find: TypeAlias = Callable[["Course", Moment, int, Clamp, int], Sum]


class Course(Hashable, Protocol):
    """What a sum over time asks of a motion."""

    def at(self, moment: Moment, size: int) -> Value:
        """Return the value at a moment."""

    def whole_frames(self, start: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        """Return the value at many whole frames, (size, frames)."""

    def asks_shot(self) -> bool:
        """Return whether it looks at the rest of the shot."""


def as_it_is(value: Value) -> Value:
    return value


def of_course(motion: Course, moment: Moment, size: int, clamp: Clamp) -> Numbers:
    """Value x frames, by the trapezium rule over whole frames."""
    start = moment.at(0) if motion.asks_shot() else moment.at(0).alone()
    whole = max(0, min(math.floor(moment.frame), MAX_FRAMES))
    stretches, left = divmod(whole, STRETCH)
    total = np.zeros(size)
    for number in range(0, stretches - stretches % STRETCH, STRETCH):  # stretches of stretches
        total = total + _kept(_many, motion, start, size, clamp, number)
    for number in range(stretches - stretches % STRETCH, stretches):
        total = total + _kept(_stretch, motion, start, size, clamp, number)
    if left:
        first = stretches * STRETCH
        total = total + _trapezium(_values(motion, start, size, clamp, first, left + 1))
    rest = float(moment.frame) - whole
    if rest:
        low, high = (np.array(as_tuple(clamp(motion.at(moment.at(f), size)))) for f in (whole, whole + 1))
        total = total + rest * (low + (high - low) * rest / 2)
    return tuple(total.tolist())


def _kept(find: Find, motion: Course, start: Moment, size: int, clamp: Clamp, number: int) -> Sum:
    """A sum that is remembered: with the shot where it depends on it, which is let go with it, else for good."""
    if start.services is None:
        return _remembered(find, motion, start, size, clamp, number)
    key = (find, motion, size, clamp, number)
    if key not in start.services.sums:
        start.services.sums[key] = find(motion, start, size, clamp, number)
    found: Sum = start.services.sums[key]
    return found


@lru_cache(maxsize=2048)
def _remembered(find: Find, motion: Course, start: Moment, size: int, clamp: Clamp, number: int) -> Sum:
    return find(motion, start, size, clamp, number)


def _many(motion: Course, start: Moment, size: int, clamp: Clamp, first: int) -> Sum:
    parts = [_kept(_stretch, motion, start, size, clamp, number) for number in range(first, first + STRETCH)]
    return sum(parts, start=np.zeros(size))


def _stretch(motion: Course, start: Moment, size: int, clamp: Clamp, number: int) -> Sum:
    return _trapezium(_values(motion, start, size, clamp, number * STRETCH, STRETCH + 1))


def _values(motion: Course, start: Moment, size: int, clamp: Clamp, first: int, count: int) -> NDArray[np.float64]:
    """A value at whole frames, (size, count), held to its limits."""
    frames = first + np.arange(count, dtype=np.float64)
    found = motion.whole_frames(start, frames, size)
    lows, highs = (np.array(as_tuple(clamp(untuple((far,) * size, size)))) for far in (-1e30, 1e30))
    return np.clip(found, lows[:, None], highs[:, None])


def _trapezium(values: NDArray[np.float64]) -> Sum:
    summed: Sum = values.sum(axis=1) - (values[:, 0] + values[:, -1]) / 2
    return summed


def as_tuple(value: Value) -> Numbers:
    return value if isinstance(value, tuple) else (value,)


def untuple(values: Numbers, size: int) -> Value:
    return values[0] if size == 1 else values
