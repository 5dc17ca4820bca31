"""What tells one kernel from another: its code, its options and everything it reads."""

from __future__ import annotations

import hashlib
from types import CodeType, FunctionType, ModuleType
from typing import TYPE_CHECKING, Any

import numpy as np

if TYPE_CHECKING:
    from nimble_quake.kernels.kernel import Kernel

FORMAT = "2"
"""Raised when objects are made or called in another way."""


def digest_of(kernel: Kernel) -> str:
    """Return a digest of a kernel and of all kernels and constants it reads. Where it lies in its file is no matter."""
    found = hashlib.sha256(f"{FORMAT} {sorted(kernel.options.items())}".encode())
    for part in _parts(kernel.function, kernel):
        found.update(part)
    return found.hexdigest()[:24]


def reads(function: FunctionType) -> dict[str, Any]:
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


def _parts(function: FunctionType, kernel: Kernel) -> list[bytes]:
    parts = [*_code(function.__code__), repr(function.__defaults__).encode()]
    for name, value in reads(function).items():
        parts += [name.encode(), _constant(value, kernel)]
    return parts


def _code(code: CodeType) -> list[bytes]:
    parts = [code.co_code, repr((code.co_names, code.co_varnames, code.co_freevars)).encode()]
    for const in code.co_consts:
        parts += _code(const) if isinstance(const, CodeType) else [repr(const).encode()]
    return parts


def _constant(value: Any, kernel: Kernel) -> bytes:
    if value is kernel:
        return b"itself"
    digest = getattr(value, "digest", None)
    if isinstance(digest, str):
        return digest.encode()
    if isinstance(value, np.ndarray):
        return repr((value.dtype.str, value.shape)).encode() + value.tobytes()
    if isinstance(value, int | float | str | tuple | np.generic):
        return repr(value).encode()
    return str(getattr(value, "__qualname__", getattr(value, "__name__", type(value)))).encode()
