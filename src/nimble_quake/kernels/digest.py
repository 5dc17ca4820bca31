"""What tells one kernel from another: its code, its options and everything it reads."""

from __future__ import annotations

import ast
import hashlib
from functools import lru_cache
from pathlib import Path
from types import CodeType, FunctionType, ModuleType

import numpy as np

from nimble_quake.kernels.written import Written

FORMAT = "3"
"""Raised when objects are made or called in another way."""


def digest_of(kernel: Written, *, by_source: bool = False) -> str:
    """Return a digest of a kernel and of all kernels and constants it reads. Where it lies in its file is no matter.

    by_source: of its lines, which every Python reads alike, for kernels that are handed on; else of what this Python
    made of them, which is what runs, even if the file was edited meanwhile. Empty where the lines are not to be had.
    """
    found = hashlib.sha256(f"{FORMAT} {sorted(kernel.options.items())}".encode())
    for part in _parts(kernel.function, kernel, by_source):
        if part is None:
            return ""
        found.update(part)
    return found.hexdigest()[:24]


def reads(function: FunctionType) -> dict[str, object]:
    """Return what a function reads from outside: globals, what its closure holds, and parts of our own modules."""
    names = set(_names(function.__code__))
    found = {name: function.__globals__[name] for name in names if name in function.__globals__}
    for name, cell in zip(function.__code__.co_freevars, function.__closure__ or (), strict=True):
        found[name] = cell.cell_contents
    for module in [value for value in found.values() if isinstance(value, ModuleType)]:
        if module.__name__.startswith("nimble_quake"):
            found |= {f"{module.__name__}.{name}": vars(module)[name] for name in names if name in vars(module)}
    return dict(sorted(found.items()))


def _names(code: CodeType) -> list[str]:
    inner = [name for const in code.co_consts if isinstance(const, CodeType) for name in _names(const)]
    return [*code.co_names, *inner]


def _parts(function: FunctionType, kernel: Written, by_source: bool) -> list[bytes | None]:
    text = source_of(function.__code__) if by_source else None
    if by_source and text is None:
        return [None]
    code: list[bytes | None] = [*_code(function.__code__)] if text is None else [text.encode()]
    parts = [*code, repr(function.__defaults__).encode()]
    for name, value in reads(function).items():
        parts += [name.encode(), _constant(value, kernel, by_source)]
    return parts


def source_of(code: CodeType) -> str | None:
    """Return the lines of a function without remarks that have a line of their own; None where there are none."""
    lines = _lines(code.co_filename)[code.co_firstlineno - 1 :]
    start = next((n for n, line in enumerate(lines) if line.lstrip().startswith("def ")), None)
    if start is None or code.co_name == "<lambda>":
        return None
    depth = _depth(lines[start])
    own = [line[depth:].rstrip() for line in lines[start:]]
    return "\n".join(line for line in own[: _end_of(own)] if line and not line.lstrip().startswith("#"))


def _end_of(lines: list[str]) -> int:
    """How many lines the function takes that begins with the first one.

    Python is asked, up to the next line that begins no deeper: where that lies inside a string or a bracket, up to
    the one after it. Reading whole files so would take longer than all else at a start.
    """
    for n in range(1, len(lines) + 1):
        if n < len(lines) and (not lines[n] or lines[n][0] in " \t#)"):
            continue
        try:
            return ast.parse("\n".join(lines[:n])).body[0].end_lineno or n
        except SyntaxError:
            continue
    return len(lines)


def _depth(line: str) -> int:
    return len(line) - len(line.lstrip())


@lru_cache(maxsize=256)
def _lines(file: str) -> tuple[str, ...]:
    try:
        return tuple(Path(file).read_text(encoding="utf-8").splitlines())
    except (OSError, UnicodeDecodeError):
        return ()


def _code(code: CodeType) -> list[bytes]:
    parts = [code.co_code, repr((code.co_names, code.co_varnames, code.co_freevars)).encode()]
    for const in code.co_consts:
        parts += _code(const) if isinstance(const, CodeType) else [repr(const).encode()]
    return parts


def _constant(value: object, kernel: Written, by_source: bool) -> bytes | None:
    if value is kernel:
        return b"itself"
    digest = getattr(value, "source_digest" if by_source else "digest", None)
    if isinstance(digest, str):
        return digest.encode() if digest else None
    if isinstance(value, np.ndarray):
        return repr((value.dtype.str, value.shape)).encode() + value.tobytes()
    if isinstance(value, ModuleType) or callable(value):  # a library's own: named, and told apart by its version
        return str(getattr(value, "__qualname__", getattr(value, "__name__", type(value)))).encode()
    return repr(value).encode()
