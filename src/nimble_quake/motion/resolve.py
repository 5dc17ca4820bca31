"""From values that may move to plain numbers at a moment."""

from __future__ import annotations

from typing import Any

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
