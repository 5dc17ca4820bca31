"""From values that may move to plain numbers at a moment."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import evaluate, readers_at
from nimble_quake.motion.keyed import keyed_value
from nimble_quake.motion.kinds import Driven, Formula, Keys, Layered, Rate
from nimble_quake.motion.timing import Moment


def value_at(value: Any, moment: Moment, size: int = 1) -> Any:
    """Return what a value is at a moment. `size`: how many numbers it holds. Raises MotionError."""
    if isinstance(value, Keys):
        return keyed_value(value, moment.frame)
    if isinstance(value, Rate):
        return _each(lambda start, speed: start + speed * moment.seconds, value.start, value.per_second)
    if isinstance(value, Formula):
        return _formula_at(value, moment, size)
    if isinstance(value, Driven):
        return _driven(value.base, value, moment, size)
    if isinstance(value, Layered):
        found = value_at(value.first, moment, size)
        for driven in value.over:
            found = _driven(found, driven, moment, size)
        return found
    return value


def values_at(value: Any, moment: Moment, frames: NDArray[np.float64], size: int = 1) -> NDArray[np.float64]:
    """Return what a value is at many frames, (size, frames), to be drawn. Raises MotionError."""
    if isinstance(value, Layered):
        return values_at(value.first, moment, frames, size) + sum(
            _swings(each, moment, frames, size) for each in value.over
        )
    if isinstance(value, Driven):
        return _column(value.base, size) + _swings(value, moment, frames, size)
    if isinstance(value, Rate):
        seconds = frames / float(moment.rate)
        return _column(value.start, size) + _column(value.per_second, size) * seconds
    if not isinstance(value, Keys | Formula):
        return np.repeat(_column(value, size), len(frames), axis=1)
    found = (value_at(value, moment.at(frame), size) for frame in frames.tolist())
    return np.array([one if isinstance(one, tuple) else (one,) for one in found], np.float64).T


def _swings(motion: Driven, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
    """Amount x course of each number."""
    courses = [motion.driver.courses(moment, frames, n, size) for n in range(size)]
    return _column(motion.amount, size) * np.stack(courses)


def _column(value: Any, size: int) -> NDArray[np.float64]:
    numbers = value if isinstance(value, tuple) else (value,) * size
    return np.array(numbers, np.float64)[:, None]


def _driven(base: Any, motion: Driven, moment: Moment, size: int) -> Any:
    if not isinstance(base, tuple):
        return base + motion.amount * motion.driver.course(moment, 0, 1)
    amounts = motion.amount if isinstance(motion.amount, tuple) else (motion.amount,) * size
    both = enumerate(zip(base, amounts, strict=True))
    return tuple(start + amount * motion.driver.course(moment, n, size) for n, (start, amount) in both)


def _formula_at(formula: Formula, moment: Moment, size: int) -> Any:
    """A formula's value; where it has none before the shot begins (a root of t), the one it begins with."""
    try:
        found = evaluate(formula.text, moment.names(), size, readers_at(moment))
    except FormulaError:
        if moment.frame >= 0:
            raise
        found = evaluate(formula.text, moment.at(0).names(), size, readers_at(moment.at(0)))
    return found[0] if size == 1 else found


def _each(function: Any, a: Any, b: Any) -> Any:
    if isinstance(a, tuple):
        return tuple(function(x, y) for x, y in zip(a, b, strict=True))
    return function(a, b)
