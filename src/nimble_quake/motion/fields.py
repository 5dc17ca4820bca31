"""Formulas over a whole picture: the same safe reader as for single values, with NumPy beneath."""

from __future__ import annotations

import ast
import math
from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
import simpleeval

from nimble_quake.conventions import Numeric
from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import number_of, tree_of

NAMES = {
    "x": "place across in px",
    "y": "place down in px",
    "u": "place across, 0 left to 1 right",
    "v": "place down, 0 top to 1 bottom",
    "angle": "angle round the middle in turns, clockwise from the right",
    "distance": "distance from the middle in px",
    "t": "seconds since the shot's start",
    "frame": "frame number",
    "progress": "0 at the shot's start, 1 at its end",
    "width": "width of the shot in px",
    "height": "height of the shot in px",
    "below": "what the steps before made",
    "a": "the first map it reads",
    "b": "the second map it reads",
    "pi": "3.14159...",
    "tau": "a full turn in radians, 6.28319...",
}


def _smoothstep(low: Numeric, high: Numeric, x: Numeric) -> Numeric:
    fraction = np.clip((x - low) / (np.asarray(high) - low), 0, 1)
    return fraction * fraction * (3 - 2 * fraction)


def _noise(*args: Numeric) -> Numeric:
    raise NotImplementedError  # bound to the renderer's noise when a formula is run


FUNCTIONS: dict[str, Callable[..., Numeric]] = {
    "sin": np.sin,
    "cos": np.cos,
    "tan": np.tan,
    "sqrt": lambda x: np.sqrt(np.maximum(x, 0)),
    "exp": lambda x: np.exp(np.minimum(x, 80)),
    "log": lambda x: np.log(np.maximum(x, 1e-9)),
    "floor": np.floor,
    "ceil": np.ceil,
    "round": np.round,
    "abs": np.abs,
    "atan2": np.arctan2,
    "hypot": np.hypot,
    "sign": np.sign,
    "min": np.minimum,
    "max": np.maximum,
    "clamp": lambda x, low, high: np.minimum(np.maximum(x, low), high),
    "mix": lambda a, b, fraction: a + (np.asarray(b) - a) * fraction,
    "smoothstep": _smoothstep,
    "step": lambda edge, x: np.where(np.asarray(x) < edge, 0.0, 1.0),
    "fract": lambda x: x - np.floor(x),
    "where": lambda where, a, b: np.where(where, np.asarray(a), np.asarray(b)),
    "noise": _noise,
}

OPERATORS = {
    ast.Add: np.add,
    ast.Sub: np.subtract,
    ast.Mult: np.multiply,
    ast.Div: lambda a, b: _divided(a, b),
    ast.Mod: lambda a, b: np.mod(a, _safe(b)),
    ast.Pow: lambda a, b: _power(a, b),
    ast.USub: np.negative,
    ast.UAdd: np.positive,
    ast.Lt: np.less,
    ast.Gt: np.greater,
    ast.LtE: np.less_equal,
    ast.GtE: np.greater_equal,
    ast.Eq: np.equal,
    ast.NotEq: np.not_equal,
}


def _safe(b: Numeric) -> Numeric:
    return np.where(np.asarray(b) == 0, np.float32(np.nan), b)


def _divided(a: Numeric, b: Numeric) -> Numeric:
    return np.asarray(a) / _safe(b)


def _power(a: Numeric, b: Numeric) -> Numeric:
    base = np.asarray(a, np.float32)
    whole = np.all(np.asarray(b) == np.round(b))
    return (
        np.power(base, np.asarray(b, np.float32)) if whole else np.power(np.maximum(base, 0), np.asarray(b, np.float32))
    )


@lru_cache(maxsize=128)
def parsed(text: str) -> ast.expr:
    """Return a formula's expression. Raises FormulaError with what is wrong."""
    body = tree_of(text)
    allowed = (ast.BinOp, ast.UnaryOp, ast.Compare, ast.Call, ast.Name, ast.Constant, ast.Load, *OPERATORS)
    called = {id(node.func) for node in ast.walk(body) if isinstance(node, ast.Call)}
    for node in ast.walk(body):
        if not isinstance(node, allowed) or (isinstance(node, ast.Compare) and len(node.ops) != 1):
            raise FormulaError("the formula uses more than arithmetic", cure="use numbers, names and functions only")
        if isinstance(node, ast.Name):
            known: Any = FUNCTIONS if id(node) in called else NAMES
            if node.id not in known:
                raise FormulaError(f'the formula uses "{node.id[:40]}"', cure=f"known here: {', '.join(known)}")
        if isinstance(node, ast.Constant):
            node.value = number_of(node)
        if isinstance(node, ast.Call) and node.keywords:
            raise FormulaError("the formula uses more than arithmetic", cure="use numbers, names and functions only")
    return body


def evaluated(text: str, names: dict[str, Numeric], noise: Callable[..., Numeric]) -> Numeric:
    """Return the formula's values; where it has none (a division by zero) NaN. Raises FormulaError."""
    body = parsed(text)
    machine = simpleeval.SimpleEval(
        operators=OPERATORS, functions={**FUNCTIONS, "noise": noise}, names={**names, "pi": math.pi, "tau": math.tau}
    )
    with np.errstate(all="ignore"):
        try:
            found: Numeric = machine.eval(text, previously_parsed=body)
            return found
        except (ArithmeticError, ValueError, TypeError, RecursionError, simpleeval.InvalidExpression) as wrong:
            raise FormulaError(f"the formula {text[:40]!r} gives no values: {wrong}", cure="check its parts") from wrong
