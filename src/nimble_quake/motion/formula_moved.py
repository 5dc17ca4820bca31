"""A formula for another shot: of another size or rate it reads what it read and its result is scaled; names change."""

from __future__ import annotations

import ast
from collections.abc import Mapping

from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import MOST_CHARACTERS, tree_of
from nimble_quake.params.base import Rename
from nimble_quake.params.refit import Refit, Scaling


def refitted_formula(text: str, scaling: Scaling, by: Refit, size: int) -> str:
    """Return a formula that gives in the new shot what it gave in the old one, scaled.

    One that cannot be read, or becomes longer than we evaluate, stays as it is.
    """
    try:
        body = _Rewriter(names_then(by), by).visit(tree_of(text))
    except FormulaError:
        return text
    parts = list(body.elts) if isinstance(body, ast.Tuple) else [body] * (size if scaling.changes else 1)
    scaled = [_scaled(ast.unparse(part), scaling.factor(n), scaling.offset(n)) for n, part in enumerate(parts)]
    found = ", ".join(dict.fromkeys(scaled) if len(set(scaled)) == 1 and not isinstance(body, ast.Tuple) else scaled)
    return found if len(found) <= MOST_CHARACTERS else text


def rewritten(text: str, names: Mapping[str, str]) -> str:
    """Return a formula with some names replaced by expressions. Raises FormulaError where it cannot be read."""
    return ast.unparse(_Rewriter(names, None).visit(tree_of(text)))


def names_then(by: Refit) -> dict[str, str]:
    """Return what the names that tell of the shot's measures were in the old shot."""
    found: dict[str, str] = {}
    if by.scale != 1 or by.old != by.new:
        found |= {"width": f"{by.old[0]:.10g}", "height": f"{by.old[1]:.10g}"}
    if by.frames != 1:
        found |= {"frame": f"(frame / {by.frames:.10g})", "fps": f"(fps / {by.frames:.10g})"}
    return found


def _scaled(text: str, factor: float, offset: float) -> str:
    found = text if factor == 1 else f"({text}) * {factor:.10g}"
    return found if offset == 0 else f"{found} + {offset:.10g}"


class _Rewriter(ast.NodeTransformer):
    """Replaces names by expressions, and other values that it reads by what they were."""

    def __init__(self, names: Mapping[str, str], by: Refit | None) -> None:
        self.names = {name: ast.parse(text, mode="eval").body for name, text in names.items()}
        self.by = by

    def visit_Name(self, node: ast.Name) -> ast.expr:
        return self.names.get(node.id, node)

    def visit_Call(self, node: ast.Call) -> ast.expr:
        arguments = [self.visit(argument) for argument in node.args]
        call = ast.Call(node.func, arguments, [])
        if self.by is None or not isinstance(node.func, ast.Name) or not node.args:
            return call
        first = node.args[0]
        if node.func.id == "track":
            return _back(call, self.by.length(), 0)
        if node.func.id != "value" or not isinstance(first, ast.Constant):
            return call
        part = node.args[1] if len(node.args) > 1 else None
        if len(arguments) > 2 and self.by.frames != 1:
            arguments[2] = ast.parse(f"({ast.unparse(arguments[2])}) * {self.by.frames:.10g}", mode="eval").body
        number = int(part.value) if isinstance(part, ast.Constant) and isinstance(part.value, int | float) else 0
        return _back(call, self.by.scaling_of(str(first.value)), number)


def _back(call: ast.Call, scaling: Scaling, number: int) -> ast.expr:
    """What a value was that is scaled now."""
    factor, offset = scaling.factor(number), scaling.offset(number)
    if (factor, offset) == (1, 0):
        return call
    text = ast.unparse(call) if offset == 0 else f"({ast.unparse(call)} - {offset:.10g})"
    return ast.parse(f"({text} / {factor:.10g})", mode="eval").body


ROWS = {"value": "", "level": "bands/", "track": "plates/"}
"""What the first argument of the functions that look at the shot names: a path, or an id of a row."""


def renamed_formula(text: str, rename: Rename) -> str:
    """Return a formula that reads the same under new names; one that cannot be read stays as it is."""
    try:
        body = tree_of(text)
    except FormulaError:
        return text
    renaming = _Renaming(rename)
    found = renaming.visit(body)
    return ast.unparse(found) if renaming.changed else text


class _Renaming(ast.NodeTransformer):
    def __init__(self, rename: Rename) -> None:
        self.rename, self.changed = rename, False

    def visit_Call(self, node: ast.Call) -> ast.expr:
        self.generic_visit(node)
        row = ROWS.get(node.func.id) if isinstance(node.func, ast.Name) else None
        first = node.args[0] if node.args else None
        if row is not None and isinstance(first, ast.Constant) and isinstance(first.value, str):
            new = self.rename(row + first.value)
            new = new.removeprefix(row)
            self.changed = self.changed or new != first.value
            node.args[0] = ast.Constant(new)
        return node
