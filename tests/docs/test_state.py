"""What a process remembers in modules stands in the architecture page: nothing is kept that is not named there."""

from __future__ import annotations

import ast
import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "nimble_quake"
MUTABLE = ("dict", "list", "set", "OrderedDict", "deque", "local")


def kept(tree: ast.Module) -> set[str]:
    """Names of a module that begin as something empty that can be filled, or that a function declares global."""
    found = set()
    for node in tree.body:
        if not isinstance(node, ast.AnnAssign | ast.Assign) or node.value is None:
            continue
        target, value = node.target if isinstance(node, ast.AnnAssign) else node.targets[0], node.value
        if not isinstance(target, ast.Name):
            continue
        empty = isinstance(value, ast.Dict | ast.List | ast.Set) and not ast.unparse(value).strip("{}[]")
        made = ast.unparse(value.func).rpartition(".")[2] if isinstance(value, ast.Call) and not value.args else ""
        if empty or made in MUTABLE:
            found.add(target.id)
    changed = (node for node in ast.walk(tree) if isinstance(node, ast.Global))
    return found.union(*(node.names for node in changed))


def test_what_modules_keep_is_named_with_its_owner():
    page = (ROOT / "docs" / "architecture.md").read_text(encoding="utf-8")
    named = {
        (path, name)
        for path, names in re.findall(r"^\| `([a-z_/]+\.py)` ((?:`\w+`(?:, )?)+) \|", page, re.MULTILINE)
        for name in re.findall(r"`(\w+)`", names)
    }
    assert len(named) >= 10
    there = {
        (path.relative_to(SOURCE).as_posix(), name)
        for path in SOURCE.rglob("*.py")
        for name in kept(ast.parse(path.read_text(encoding="utf-8")))
    }
    assert there <= named, there - named
    for path, name in named:
        assert re.search(rf"^{name}\b", (SOURCE / path).read_text(encoding="utf-8"), re.MULTILINE), (path, name)
