"""Speeds summed up over time: how far something has come since frame 0.

Any frame alone gives the same as playing to it, and a frame far along a long shot costs next to nothing: still values
and rates have a closed form, keys are integrated between one key and the next, formulas in stretches of 256 frames
whose sums are remembered.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable
from functools import lru_cache
from typing import Any, TypeAlias

import numpy as np

from nimble_quake.conventions import MAX_FRAMES, Frames
from nimble_quake.motion.formula import evaluate_many
from nimble_quake.motion.keyed import keyed_value
from nimble_quake.motion.kinds import Driven, Formula, Keys, Layered, Rate, asks_shot
from nimble_quake.motion.resolve import value_at
from nimble_quake.motion.timing import Moment

Numbers: TypeAlias = tuple[float, ...]
Clamp: TypeAlias = Callable[[Any], Any]

STRETCH = 256
"""Frames whose sum is remembered as one."""
PARTS = 64
"""Pieces that are integrated each by itself where a value is held."""
NODES, WEIGHTS = np.polynomial.legendre.leggauss(12)
"""Gauss-Legendre quadrature of a piece between two keys: exact for the cubic of smooth ones."""


def _as_it_is(value: Any) -> Any:
    return value


def integral(value: Any, moment: Moment, size: int = 1, clamp: Clamp = _as_it_is) -> Any:
    """Return the integral of a speed (per second) from frame 0 to the moment.

    clamp: what holds a value inside its limits, as it does where the value is used by itself.
    Raises MotionError where it has no number on the way.
    """
    if isinstance(value, Keys):
        total = _of_keys(value, moment.frame, size, clamp)
    elif isinstance(value, Formula | Driven | Layered):
        total = _of_course(value, moment, size, clamp)
    elif isinstance(value, Rate):
        total = _of_rate(value, moment, size, clamp)
    else:
        total = tuple(speed * float(moment.frame) for speed in _tuple(value))
    found = tuple(part / float(moment.rate) for part in total)
    return found[0] if size == 1 else found


def _of_rate(rate: Rate, moment: Moment, size: int, clamp: Clamp) -> Numbers:
    """Value x frames; a rate that runs into a limit stays there."""
    t, fps = moment.seconds, float(moment.rate)
    starts, speeds = _tuple(rate.start), _tuple(rate.per_second)
    here = tuple(start + speed * t for start, speed in zip(starts, speeds, strict=True))
    inside = _tuple(clamp(_untuple(here, size))) == here and _tuple(clamp(_untuple(starts, size))) == starts
    if inside:
        return tuple((start * t + speed * t * t / 2) * fps for start, speed in zip(starts, speeds, strict=True))
    return tuple(_held_ramp(n, starts, speeds, t, size, clamp) * fps for n in range(len(starts)))


def _held_ramp(n: int, starts: Numbers, speeds: Numbers, t: float, size: int, clamp: Clamp) -> float:
    """The integral of one number that runs straight and stops at its limits, value x seconds."""
    start, speed = starts[n], speeds[n]
    low, high = (_tuple(clamp(_untuple((far,) * len(starts), size)))[n] for far in (-1e30, 1e30))
    bounds = sorted({0.0, t, *((edge - start) / speed for edge in (low, high) if speed)})
    cuts = [cut for cut in bounds if min(0.0, t) <= cut <= max(0.0, t)]
    total = 0.0
    for a, b in zip(cuts, cuts[1:], strict=False):
        ends = [min(max(start + speed * at, low), high) for at in (a, b)]
        total += (b - a) * (ends[0] + ends[1]) / 2
    return total if t >= 0 else -total


def _of_keys(motion: Keys, frame: Frames, size: int, clamp: Clamp) -> Numbers:
    """Value x frames, from one key to the next."""
    low, high = sorted((0.0, float(frame)))
    frames = [key.frame for key in motion.keys]
    first, last = bisect_right(frames, low), bisect_right(frames, high)
    cuts = [low, *(f for f in frames[first:last] if low < f < high), high]
    total = np.zeros(size)
    for a, b in zip(cuts, cuts[1:], strict=False):
        total += _piece(motion, a, b, clamp)
    return tuple((total if frame >= 0 else -total).tolist())


@lru_cache(maxsize=4096)
def _piece(motion: Keys, a: float, b: float, clamp: Clamp) -> Any:
    if b <= a:
        return 0.0
    whole, held = _quadrature(motion, a, b, _as_it_is), _quadrature(motion, a, b, clamp)
    if np.array_equal(whole, held):
        return whole
    cuts = np.linspace(a, b, PARTS + 1).tolist()  # where a value is held its curve has a corner
    return sum(_quadrature(motion, c, d, clamp) for c, d in zip(cuts, cuts[1:], strict=False))


def _quadrature(motion: Keys, a: float, b: float, clamp: Clamp) -> Any:
    middle, half = (a + b) / 2, (b - a) / 2
    values = [_tuple(clamp(keyed_value(motion, middle + half * node))) for node in NODES.tolist()]
    return np.asarray(values).T @ WEIGHTS * half


def _of_course(motion: Any, moment: Moment, size: int, clamp: Clamp) -> Numbers:
    """Value x frames, by the trapezium rule over whole frames."""
    start = moment.at(0) if asks_shot(motion) else moment.at(0).alone()
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
        low, high = (np.array(_tuple(clamp(value_at(motion, moment.at(f), size)))) for f in (whole, whole + 1))
        total = total + rest * (low + (high - low) * rest / 2)
    return tuple(total.tolist())


def _kept(find: Any, motion: Any, start: Moment, size: int, clamp: Clamp, number: int) -> Any:
    """A sum that is remembered: with the shot where it depends on it, which is let go with it, else for good."""
    if start.world is None:
        return _remembered(find, motion, start, size, clamp, number)
    key = (find, motion, size, clamp, number)
    if key not in start.world.sums:
        start.world.sums[key] = find(motion, start, size, clamp, number)
    return start.world.sums[key]


@lru_cache(maxsize=2048)
def _remembered(find: Any, motion: Any, start: Moment, size: int, clamp: Clamp, number: int) -> Any:
    return find(motion, start, size, clamp, number)


def _many(motion: Any, start: Moment, size: int, clamp: Clamp, first: int) -> Any:
    return sum(_kept(_stretch, motion, start, size, clamp, number) for number in range(first, first + STRETCH))


def _stretch(motion: Any, start: Moment, size: int, clamp: Clamp, number: int) -> Any:
    return _trapezium(_values(motion, start, size, clamp, number * STRETCH, STRETCH + 1))


def _values(motion: Any, start: Moment, size: int, clamp: Clamp, first: int, count: int) -> Any:
    """A value at whole frames, (size, count), held to its limits."""
    frames = first + np.arange(count, dtype=np.float64)
    if isinstance(motion, Formula) and not asks_shot(motion):
        found = evaluate_many(motion.text, start.names_at(frames), size)
    else:
        found = np.array([_tuple(value_at(motion, start.at(frame), size)) for frame in frames.tolist()]).T
    lows, highs = (np.array(_tuple(clamp(_untuple((far,) * size, size)))) for far in (-1e30, 1e30))
    return np.clip(found, lows[:, None], highs[:, None])


def _trapezium(values: Any) -> Any:
    return values.sum(axis=1) - (values[:, 0] + values[:, -1]) / 2


def _tuple(value: Any) -> Numbers:
    return value if isinstance(value, tuple) else (value,)


def _untuple(values: Numbers, size: int) -> Any:
    return values[0] if size == 1 else values
