"""From values that may move to plain numbers at a moment."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Any

from nimble_quake.conventions import MAX_FRAMES
from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import evaluate
from nimble_quake.motion.keyed import keyed_value
from nimble_quake.motion.kinds import Formula, Keys, Rate, is_moving
from nimble_quake.motion.timing import Moment


def value_at(value: Any, moment: Moment, size: int = 1) -> Any:
    """Return what a value is at a moment. `size`: how many numbers it holds. Raises FormulaError."""
    if isinstance(value, Keys):
        return keyed_value(value, moment.frame)
    if isinstance(value, Rate):
        return _each(lambda start, speed: start + speed * moment.seconds, value.start, value.per_second)
    if isinstance(value, Formula):
        return _formula_at(value, moment, size)
    return value


def _formula_at(formula: Formula, moment: Moment, size: int) -> Any:
    """A formula's value; where it has none before the shot begins (a root of t), the one it begins with."""
    try:
        found = evaluate(formula.text, moment.names(), size)
    except FormulaError:
        if moment.frame >= 0:
            raise
        found = evaluate(formula.text, moment.at(0).names(), size)
    return found[0] if size == 1 else found


def integral(value: Any, moment: Moment, size: int = 1) -> Any:
    """Return the integral of a speed (per second) from frame 0 to the moment.

    Exact for still values and rates; keys and formulas are summed by the trapezium rule over whole frames, so that
    any frame alone gives the same as playing to it.
    """
    if not is_moving(value):
        return _each(lambda speed, _: speed * moment.seconds, value, value)
    if isinstance(value, Rate):
        t = moment.seconds
        return _each(lambda start, speed: start * t + speed * t * t / 2, value.start, value.per_second)
    whole = max(0, min(math.floor(moment.frame), MAX_FRAMES))
    sums = _running_sums(value, moment.at(0), size, -(-whole // 256) * 256)
    rest = moment.frame - whole
    low, high = (_tuple(value_at(value, moment.at(f), size)) for f in (whole, whole + 1))
    step = 1.0 / float(moment.rate)
    total = tuple((s + rest * (a + (b - a) * rest / 2)) * step for s, a, b in zip(sums[whole], low, high, strict=True))
    return total[0] if size == 1 else total


@lru_cache(maxsize=64)
def _running_sums(value: Any, start: Moment, size: int, frames: int) -> list[tuple[float, ...]]:
    """The trapezium sums at frames 0...frames, in value x frames."""
    total = (0.0,) * size
    sums, before = [total], _tuple(value_at(value, start, size))
    for frame in range(1, frames + 1):
        here = _tuple(value_at(value, start.at(frame), size))
        total = tuple(s + (a + b) / 2 for s, a, b in zip(total, before, here, strict=True))
        sums.append(total)
        before = here
    return sums


def _tuple(value: Any) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,)


def _each(function: Any, a: Any, b: Any) -> Any:
    if isinstance(a, tuple):
        return tuple(function(x, y) for x, y in zip(a, b, strict=True))
    return function(a, b)
