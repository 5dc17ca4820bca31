"""Formulas over time, read by a whitelisting evaluator; nothing but arithmetic and the names below can be reached."""

from __future__ import annotations

import ast
import math
import warnings
from collections.abc import Callable
from functools import lru_cache, reduce

import numpy as np
import simpleeval

from nimble_quake.conventions import Numeric
from nimble_quake.errors import FormulaError, MotionError
from nimble_quake.motion.random_walk import random_of, randoms_of, wander, wanders
from nimble_quake.motion.timing import Moment

MOST_CHARACTERS = 500
MOST_PARTS = 200
IN_FORMULA = "in the formula"

NAMES = {
    "t": "seconds since the shot's start",
    "frame": "frame number",
    "progress": "0 at the shot's start, 1 at its end",
    "fps": "frames per second",
    "width": "width of the shot in px",
    "height": "height of the shot in px",
    "pi": "3.14159...",
    "tau": "a full turn in radians, 6.28319...",
}


def _ease(fraction: Numeric) -> Numeric:
    """Smoothstep of 0...1, of one number or of many."""
    return fraction * fraction * (3 - 2 * fraction)


def _smoothstep(low: float, high: float, x: float) -> float:
    return float(_ease(min(max((x - low) / (high - low), 0.0), 1.0)))


FUNCTIONS: dict[str, Callable[..., float]] = {
    **{name: getattr(math, name) for name in ("sin", "cos", "tan", "sqrt", "exp", "log", "atan2")},
    "floor": lambda x: float(math.floor(x)),
    "ceil": lambda x: float(math.ceil(x)),
    "abs": abs,
    "min": min,
    "max": max,
    "round": lambda x: float(round(x)),
    "clamp": lambda x, low, high: min(max(x, low), high),
    "mix": lambda a, b, fraction: a + (b - a) * fraction,
    "smoothstep": _smoothstep,
    "random": random_of,
    "wander": wander,
}

READERS = ("value", "level", "track", "beat", "beats")
"""Functions that look at the rest of the shot. What each is, and all else a formula may hold, is in `formula_help`."""


def readers_at(moment: Moment) -> dict[str, Callable[..., Numeric]]:
    """Return the functions that look at the rest of the shot, at a moment."""

    def value(path: str, part: float = 0.0, later: float = 0.0) -> float:
        numbers = moment.other_value(str(path), moment.frame - float(later))
        return numbers[min(max(int(part), 0), len(numbers) - 1)]

    def track(plate: str, point: float, takes: str = "x") -> float:
        if takes not in ("x", "y"):
            raise MotionError(f'"{str(takes)[:20]}" is no part of a point', cure='use "x" or "y"')
        return moment.tracked_motion(str(plate), (int(point),), 0)[("x", "y").index(takes)]

    def level(band: str) -> float:
        return moment.level(str(band))

    return {"value": value, "track": track, "level": level, "beat": moment.since_beat, "beats": moment.beats_gone}


@lru_cache(maxsize=512)
def reads_shot(text: str) -> bool:
    """Return whether a formula looks at the rest of the shot."""
    try:
        body = tree_of(text)
    except FormulaError:
        return False
    return any(isinstance(n, ast.Call) and getattr(n.func, "id", "") in READERS for n in ast.walk(body))


class _Floats(ast.NodeTransformer):
    """Make every number a float, so that powers overflow at once instead of growing without end."""

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
        if isinstance(node.value, str):  # a name handed to a reader, as `_refuse_strangers` has seen
            return node
        return ast.copy_location(ast.Constant(number_of(node)), node)


def number_of(node: ast.Constant) -> float:
    """Return the number a constant stands for. Raises FormulaError."""
    if isinstance(node.value, bool) or not isinstance(node.value, int | float):
        raise FormulaError(f"{str(node.value)[:40]!r} is not a number", cure="use numbers only")
    try:
        number = float(node.value)
    except OverflowError:
        number = math.inf
    if not math.isfinite(number):
        raise FormulaError("a number in the formula is too large", cure="use numbers below 1e308")
    return number


def tree_of(text: str) -> ast.expr:
    """Return a formula's tree, not larger than we evaluate. Raises FormulaError."""
    if len(text) > MOST_CHARACTERS:
        raise FormulaError(f"the formula has {len(text)} characters", cure=f"keep it under {MOST_CHARACTERS}")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # "1if" and the like; what it means is clear, and nobody reads a terminal
            body = ast.parse(text.strip(), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError) as wrong:
        raise FormulaError(f"cannot read the formula {text[:40]!r}", cure="check its brackets and signs") from wrong
    if sum(1 for _ in ast.walk(body)) > MOST_PARTS:
        raise FormulaError("the formula is too long", cure=f"use fewer than {MOST_PARTS} parts")
    return body


@lru_cache(maxsize=512)
def parsed(text: str, count: int, own: tuple[str, ...] = ()) -> tuple[ast.expr, ...]:
    """Return the `count` expressions of a formula. own: the names it may use instead of those of the shot.

    Raises FormulaError with what is wrong and where.
    """
    body = tree_of(text)
    parts = tuple(body.elts) if isinstance(body, ast.Tuple) else (body,) * count
    if len(parts) != count:
        raise FormulaError(f"the formula gives {len(parts)} values, {count} are needed", cure="separate them by commas")
    for part in parts:
        _refuse_strangers(part, own)
    return tuple(ast.fix_missing_locations(_Floats().visit(part)) for part in parts)


ALLOWED = (
    ast.BinOp,
    ast.UnaryOp,
    ast.Compare,
    ast.BoolOp,
    ast.IfExp,
    ast.Call,
    ast.Name,
    ast.Constant,
    ast.Load,
    ast.Add,
    ast.Sub,
    ast.Mult,
    ast.Div,
    ast.FloorDiv,
    ast.Mod,
    ast.Pow,
    ast.USub,
    ast.UAdd,
    ast.Not,
    ast.And,
    ast.Or,
    ast.Eq,
    ast.NotEq,
    ast.Lt,
    ast.LtE,
    ast.Gt,
    ast.GtE,
)
"""Every part a formula may be made of."""


def _refuse_strangers(part: ast.expr, own: tuple[str, ...]) -> None:
    calls = [node for node in ast.walk(part) if isinstance(node, ast.Call)]
    called = {id(node.func) for node in calls}
    words = {id(word) for node in calls if getattr(node.func, "id", "") in READERS for word in node.args}
    for node in ast.walk(part):
        if isinstance(node, ast.Name):
            calls_of = (*FUNCTIONS, *(() if own else READERS))
            known = calls_of if id(node) in called else tuple(own or NAMES)
            if node.id not in known:
                names = ", ".join(known)
                raise FormulaError(f'the formula uses "{node.id[:40]}"', cure=f"known here: {names}")
        elif isinstance(node, ast.Constant) and isinstance(node.value, str):
            if id(node) not in words:
                raise FormulaError(f"{node.value[:40]!r} is not a number", cure="use numbers only")
        elif not isinstance(node, ALLOWED) or (isinstance(node, ast.Call) and node.keywords):
            raise FormulaError("the formula uses more than arithmetic", cure="use numbers, names and functions only")


def evaluate(
    text: str, names: dict[str, float], count: int = 1, readers: dict[str, Callable[..., Numeric]] | None = None
) -> tuple[float, ...]:
    """Return the formula's numbers. Raises FormulaError where one is not finite, MotionError where what it asks is.

    names: besides those of the shot, or instead of them. readers: what looks at the rest of the shot (`readers_at`).
    """
    functions = {**FUNCTIONS, **readers} if readers else FUNCTIONS
    machine = simpleeval.SimpleEval(functions=functions, names={**names, "pi": math.pi, "tau": math.tau})
    own = () if "t" in names else tuple(names)
    found = []
    for part in parsed(text, count, own):
        try:
            number = float(machine.eval(text, previously_parsed=part))
        except ZeroDivisionError:
            raise FormulaError(f"the formula {text[:40]!r} divides by zero", cure="guard it: max(x, 0.001)") from None
        except FormulaError as wrong:  # of a value that it asks for, which is named there
            raise MotionError(wrong.what, cure=wrong.cure) from wrong
        except MotionError as wrong:
            what = wrong.what if wrong.what.startswith(IN_FORMULA) else f"{IN_FORMULA} {text[:40]!r}: {wrong.what}"
            raise MotionError(what, cure=wrong.cure) from wrong
        except (ArithmeticError, ValueError, TypeError, RecursionError, simpleeval.InvalidExpression) as wrong:
            raise FormulaError(
                f"the formula {text[:40]!r} gives no number: {wrong}", cure="check its values"
            ) from wrong
        if not math.isfinite(number):
            raise FormulaError(f"the formula {text[:40]!r} gives no finite number", cure="check its values")
        found.append(number)
    return tuple(found)


def _smoothsteps(low: Numeric, high: Numeric, x: Numeric) -> Numeric:
    return _ease(np.clip((x - low) / (high - low), 0.0, 1.0))


AT_ONCE: dict[str, Callable[..., Numeric]] = {
    "sin": np.sin,
    "cos": np.cos,
    "tan": np.tan,
    "sqrt": np.sqrt,
    "exp": np.exp,
    "log": np.log,
    "atan2": np.arctan2,
    "floor": np.floor,
    "ceil": np.ceil,
    "round": np.round,
    "abs": np.abs,
    "min": lambda *parts: reduce(np.minimum, parts),
    "max": lambda *parts: reduce(np.maximum, parts),
    "clamp": lambda x, low, high: np.minimum(np.maximum(x, low), high),
    "mix": lambda a, b, fraction: a + (b - a) * fraction,
    "smoothstep": _smoothsteps,
    "random": randoms_of,
    "wander": wanders,
}
"""The functions over many moments at once."""


def evaluate_many(text: str, names: dict[str, Numeric], count: int) -> Numeric:
    """Return the formula's numbers at many moments, (count, moments). Raises FormulaError where one is not finite.

    names: of which some are arrays (moments,). What cannot be done at once (a choice by `if`) is done one by one.
    """
    moments = next(len(value) for value in names.values() if isinstance(value, np.ndarray))
    machine = simpleeval.SimpleEval(functions=AT_ONCE, names={**names, "pi": math.pi, "tau": math.tau})
    found = np.empty((count, moments))
    try:
        with np.errstate(all="ignore"):
            for number, part in enumerate(parsed(text, count)):
                found[number] = np.asarray(machine.eval(text, previously_parsed=part), np.float64)
    except FormulaError:
        raise
    except (ArithmeticError, ValueError, TypeError, RecursionError, simpleeval.InvalidExpression):
        found[:] = np.nan
    for moment in np.flatnonzero(~np.isfinite(found).all(axis=0)):  # one by one, which tells what is wrong
        here = {name: float(v[moment]) if isinstance(v, np.ndarray) else v for name, v in names.items()}
        found[:, moment] = evaluate(text, here, count)
    return found
