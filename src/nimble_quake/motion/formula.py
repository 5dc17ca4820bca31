"""Formulas over time, read by a whitelisting evaluator; nothing but arithmetic and the names below can be reached."""

from __future__ import annotations

import ast
import math
import warnings
from collections.abc import Callable
from functools import lru_cache, reduce
from typing import Any

import numpy as np
import simpleeval

from nimble_quake.errors import FormulaError

MOST_CHARACTERS = 500
MOST_PARTS = 200

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


def _random(n: float) -> float:
    """A number 0...1 that depends on n alone (splitmix64 of its nearest 1/1024)."""
    x = (int(round(n * 1024)) + 0x9E3779B97F4A7C15) & (2**64 - 1)
    x = ((x ^ (x >> 30)) * 0xBF58476D1CE4E5B9) & (2**64 - 1)
    x = ((x ^ (x >> 27)) * 0x94D049BB133111EB) & (2**64 - 1)
    return ((x ^ (x >> 31)) >> 11) / 2**53


def _ease(share: Any) -> Any:
    """Smoothstep of 0...1, of one number or of many."""
    return share * share * (3 - 2 * share)


def _wander(n: float) -> float:
    """A smooth chance walk, -1...1, through a new value at every whole n."""
    low = math.floor(n)
    share = _ease(n - low)
    a, b = _random(low) * 2 - 1, _random(low + 1) * 2 - 1
    return float(a + (b - a) * share)


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
    "mix": lambda a, b, share: a + (b - a) * share,
    "smoothstep": _smoothstep,
    "random": _random,
    "wander": _wander,
}


class _Floats(ast.NodeTransformer):
    """Make every number a float, so that powers overflow at once instead of growing without end."""

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
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
def parsed(text: str, count: int) -> tuple[ast.expr, ...]:
    """Return the `count` expressions of a formula. Raises FormulaError with what is wrong and where."""
    body = tree_of(text)
    parts = tuple(body.elts) if isinstance(body, ast.Tuple) else (body,) * count
    if len(parts) != count:
        raise FormulaError(f"the formula gives {len(parts)} values, {count} are needed", cure="separate them by commas")
    for part in parts:
        _refuse_strangers(part)
    return tuple(ast.fix_missing_locations(_Floats().visit(part)) for part in parts)


ALLOWED = (ast.BinOp, ast.UnaryOp, ast.Compare, ast.BoolOp, ast.IfExp, ast.Call, ast.Name, ast.Constant, ast.Load,
           ast.Add, ast.Sub, ast.Mult, ast.Div, ast.FloorDiv, ast.Mod, ast.Pow, ast.USub, ast.UAdd, ast.Not, ast.And,
           ast.Or, ast.Eq, ast.NotEq, ast.Lt, ast.LtE, ast.Gt, ast.GtE)  # fmt: skip
"""Every part a formula may be made of."""


def _refuse_strangers(part: ast.expr) -> None:
    called = {id(node.func) for node in ast.walk(part) if isinstance(node, ast.Call)}
    for node in ast.walk(part):
        if isinstance(node, ast.Name):
            known: Any = FUNCTIONS if id(node) in called else NAMES
            if node.id not in known:
                names = ", ".join(known)
                raise FormulaError(f'the formula uses "{node.id[:40]}"', cure=f"known here: {names}")
        elif not isinstance(node, ALLOWED) or (isinstance(node, ast.Call) and node.keywords):
            raise FormulaError("the formula uses more than arithmetic", cure="use numbers, names and functions only")


def evaluate(text: str, names: dict[str, float], count: int = 1) -> tuple[float, ...]:
    """Return the formula's numbers. Raises FormulaError where one is not finite."""
    machine = simpleeval.SimpleEval(functions=FUNCTIONS, names={**names, "pi": math.pi, "tau": math.tau})
    found = []
    for part in parsed(text, count):
        try:
            number = float(machine.eval(text, previously_parsed=part))
        except ZeroDivisionError:
            raise FormulaError(f"the formula {text[:40]!r} divides by zero", cure="guard it: max(x, 0.001)") from None
        except (ArithmeticError, ValueError, TypeError, RecursionError, simpleeval.InvalidExpression) as wrong:
            raise FormulaError(
                f"the formula {text[:40]!r} gives no number: {wrong}", cure="check its values"
            ) from wrong
        if not math.isfinite(number):
            raise FormulaError(f"the formula {text[:40]!r} gives no finite number", cure="check its values")
        found.append(number)
    return tuple(found)


def _randoms(n: Any) -> Any:
    """`_random` of many numbers at once."""
    with np.errstate(over="ignore"):
        x = np.round(np.asarray(n, np.float64) * 1024).astype(np.int64).astype(np.uint64) + np.uint64(
            0x9E3779B97F4A7C15
        )
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
    return ((x ^ (x >> np.uint64(31))) >> np.uint64(11)).astype(np.float64) / 2**53


def _wanders(n: Any) -> Any:
    low = np.floor(n)
    share = _ease(n - low)
    a, b = _randoms(low) * 2 - 1, _randoms(low + 1) * 2 - 1
    return a + (b - a) * share


def _smoothsteps(low: Any, high: Any, x: Any) -> Any:
    return _ease(np.clip((x - low) / (high - low), 0.0, 1.0))


AT_ONCE: dict[str, Callable[..., Any]] = {
    "sin": np.sin, "cos": np.cos, "tan": np.tan, "sqrt": np.sqrt, "exp": np.exp, "log": np.log, "atan2": np.arctan2,
    "floor": np.floor, "ceil": np.ceil, "round": np.round, "abs": np.abs,
    "min": lambda *parts: reduce(np.minimum, parts), "max": lambda *parts: reduce(np.maximum, parts),
    "clamp": lambda x, low, high: np.minimum(np.maximum(x, low), high),
    "mix": lambda a, b, share: a + (b - a) * share, "smoothstep": _smoothsteps, "random": _randoms,
    "wander": _wanders,
}  # fmt: skip
"""The functions over many moments at once."""


def evaluate_many(text: str, names: dict[str, Any], count: int) -> Any:
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
