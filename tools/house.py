"""What a newcomer meets in the house: how full its rooms are, how long its functions, what is asked by name.

    python tools/house.py            print, and fail where something has become worse than `tools/house.json` allows
    python tools/house.py --keep     write what is now as what is allowed

Two things are absolute: nothing in render/ and export/ asks by name (`getattr`, `hasattr`), and no modules import one
another in a circle. All else may fall, never rise.
"""

from __future__ import annotations

import ast
import json
import re
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "nimble_quake"
KEPT = Path(__file__).with_suffix(".json")
OPERATORS = ("sources", "shapers", "quakes", "finishes", "plates", "sounds", "motion/drivers", "motion/kinds",
             "export/kinds", "cli")  # fmt: skip
"""Rooms of one file an operator, a format or a subcommand, however many there are."""
MOST_FILES, MOST_LINES, MOST_CLASS, MOST_FUNCTION, MOST_PARAMETERS = 15, 400, 300, 60, 7
ABSOLUTE = ("asked by name in render/ and export/", "circles", "functions without types that are no kernels")
PRIVATE = ("share", "held", "told", "lies", "chance", "farthest", "complain", "drift", "veil", "feed", "floors")
"""Words of ours where the field has one (the left column of the table in docs/glossary.md), as names in code."""


def modules() -> dict[str, Path]:
    """Return every module by its dotted name."""
    found = {}
    for path in sorted(SOURCE.rglob("*.py")):
        parts = path.relative_to(SOURCE.parent).with_suffix("").parts
        found[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return found


def imports(tree: ast.AST, known: dict[str, Path]) -> Iterator[str]:
    """The modules of ours that a module imports, wherever it does."""
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names if alias.name in known)
        if isinstance(node, ast.ImportFrom) and node.module and node.level == 0:
            for alias in node.names:
                whole = f"{node.module}.{alias.name}"
                yield whole if whole in known else node.module


def circles(graph: dict[str, set[str]]) -> list[list[str]]:
    """Return the groups of modules that import one another (Tarjan, 1972)."""
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[list[str]] = []

    def visit(name: str) -> None:
        index[name] = low[name] = len(index)
        stack.append(name)
        for other in graph.get(name, ()):
            if other not in index:
                visit(other)
                low[name] = min(low[name], low[other])
            elif other in stack:
                low[name] = min(low[name], index[other])
        if low[name] == index[name]:
            group = []
            while True:
                group.append(stack.pop())
                if group[-1] == name:
                    break
            if len(group) > 1:
                found.append(sorted(group))

    for name in sorted(graph):
        if name not in index:
            visit(name)
    return found


def kinds() -> dict[str, str]:
    """Return the operators' kinds with their room."""
    return {path.stem: room for room in OPERATORS for path in (SOURCE / room).glob("*.py") if path.stem != "__init__"}


def named_kinds(trees: dict[str, ast.Module], files: dict[str, Path]) -> list[str]:
    """Return where a kind is compared with, by its name in quotes, outside its own file."""
    of, found = kinds(), []
    for name, tree in trees.items():
        path = files[name]
        for node in ast.walk(tree):
            if not isinstance(node, ast.Compare) or not _is_kind(node.left):
                continue
            for part in node.comparators:
                if isinstance(part, ast.Constant) and part.value in of and path.stem != part.value:
                    found.append(f"{path.relative_to(ROOT)}:{node.lineno} {part.value}")
    return found


def untyped(trees: dict[str, ast.Module], files: dict[str, Path]) -> list[str]:
    """Return the functions of which not all is annotated; kernels, and what lies in them, need not be."""
    found = []
    for name, tree in trees.items():
        inner = {
            part
            for node in ast.walk(tree)
            if isinstance(node, ast.FunctionDef) and _is_kernel(node)
            for part in ast.walk(node)
        }
        for node in ast.walk(tree):
            if not isinstance(node, ast.FunctionDef) or node in inner:
                continue
            given = [
                arg
                for arg in node.args.posonlyargs + node.args.args + node.args.kwonlyargs
                if arg.arg not in ("self", "cls", "_")
            ]
            if node.returns is None or any(arg.annotation is None for arg in given):
                found.append(f"{files[name].relative_to(ROOT)}:{node.lineno} {node.name}")
    return found


def _is_kind(node: ast.expr) -> bool:
    return isinstance(node, ast.Attribute) and node.attr == "kind"


def measured() -> tuple[dict[str, int], dict[str, list[str]]]:
    """Return the counts, and the worst of each by name."""
    files = modules()
    texts = {name: path.read_text(encoding="utf-8") for name, path in files.items()}
    trees = {name: ast.parse(text) for name, text in texts.items()}
    lists: dict[str, list[str]] = {}
    asked, long_functions, long_classes, many = [], [], [], []
    for name, tree in trees.items():
        where = files[name].relative_to(ROOT)
        for node in ast.walk(tree):
            if (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Name)
                and node.func.id in ("getattr", "hasattr")
            ):
                asked.append(f"{where}:{node.lineno}")
            if isinstance(node, ast.ClassDef) and _length(node) > MOST_CLASS:
                long_classes.append(f"{where}:{node.lineno} {node.name}, {_length(node)} lines")
            if isinstance(node, ast.FunctionDef):
                if _length(node) > MOST_FUNCTION:
                    long_functions.append(f"{where}:{node.lineno} {node.name}, {_length(node)} lines")
                count = len(node.args.posonlyargs + node.args.args + node.args.kwonlyargs)
                if count > MOST_PARAMETERS and not _is_kernel(node) and not _is_command(node):
                    many.append(f"{where}:{node.lineno} {node.name}, {count}")
    rooms = Counter(path.parent.relative_to(SOURCE).as_posix() for path in files.values() if path.stem != "__init__")
    graph = {name: {other for other in imports(tree, files) if other != name} for name, tree in trees.items()}
    core = ("src/nimble_quake/render/", "src/nimble_quake/export/")
    words = Counter(word for tree in trees.values() for word in _names(tree) if word in PRIVATE)
    lists["asked by name in render/ and export/"] = [place for place in asked if place.startswith(core)]
    lists["circles"] = [" <-> ".join(group) for group in circles(graph)]
    lists["asked by name elsewhere"] = [place for place in asked if not place.startswith(core)]
    lists[f"rooms of more than {MOST_FILES} files"] = [
        f"{room}, {count}" for room, count in sorted(rooms.items()) if count > MOST_FILES and room not in OPERATORS
    ]
    lists[f"files of more than {MOST_LINES} lines"] = [
        f"{files[name].relative_to(ROOT)}, {text.count(chr(10))}"
        for name, text in texts.items()
        if text.count("\n") > MOST_LINES
    ]
    lists[f"classes of more than {MOST_CLASS} lines"] = long_classes
    lists[f"functions of more than {MOST_FUNCTION} lines"] = long_functions
    lists[f"functions of more than {MOST_PARAMETERS} parameters"] = many
    lists["functions without types that are no kernels"] = untyped(trees, files)
    lists["kinds named outside their file"] = named_kinds(trees, files)
    whole = "\n".join(texts.values())
    counts = {name: len(found) for name, found in lists.items()}
    counts["Any"] = len(re.findall(r"\bAny\b", whole))
    counts["type: ignore"] = whole.count("# type: ignore")
    counts["fmt: skip, fmt: off"] = len(re.findall(r"# fmt: (?:skip|off)", whole))
    counts["private words"] = words.total()
    lists["private words"] = [f"{word} {count}" for word, count in words.most_common()]
    return counts, lists


def _length(node: ast.ClassDef | ast.FunctionDef) -> int:
    return (node.end_lineno or node.lineno) - node.lineno + 1


def _is_command(node: ast.FunctionDef) -> bool:
    """Whether its parameters are the options of a shell command, which are declared so."""
    asked = [ast.unparse(each.annotation) for each in node.args.args if each.annotation is not None]
    return bool(asked) and all(annotation.startswith(("Annotated[", "take.")) for annotation in asked)


def _is_kernel(node: ast.FunctionDef) -> bool:
    """Kernels may have more: they are called with arrays, and their numbers, by name."""
    return any(
        "kernel" in ast.unparse(decorator) or "jit" in ast.unparse(decorator) for decorator in node.decorator_list
    )


def _names(tree: ast.Module) -> Iterator[str]:
    """The words of the names that a module gives."""
    for node in ast.walk(tree):
        given: list[str] = []
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            given = [node.name]
        elif isinstance(node, ast.arg):
            given = [node.arg]
        elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
            given = [node.id]
        for name in given:
            yield from re.findall(r"[a-z]+", name.lower())


def main(words: list[str]) -> int:
    """Print the house; return 1 where something is worse than it was."""
    counts, lists = measured()
    allowed: dict[str, int] = json.loads(KEPT.read_text()) if KEPT.exists() else {}
    if "--keep" in words:
        KEPT.write_text(json.dumps(counts, indent=1) + "\n")
        allowed = counts
    worse = 0
    for name, count in counts.items():
        most = 0 if name in ABSOLUTE else allowed.get(name, count)
        mark = "  worse than " + str(most) if count > most else ""
        worse += count > most
        print(f"{count:6} {name}{mark}")
        if "--all" in words or mark:
            print("".join(f"         {line}\n" for line in lists.get(name, [])), end="")
    return 1 if worse else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
