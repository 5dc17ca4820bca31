"""Compiling a kernel by numba: the only module that loads it."""

from __future__ import annotations

import ctypes
import ctypes.util
from functools import cache
from types import FunctionType
from typing import Any

import numpy as np

from nimble_quake.kernels.abi import parts_of
from nimble_quake.kernels.digest import reads
from nimble_quake.kernels.kernel import Kernel
from nimble_quake.kernels.runtime import PROVIDED
from nimble_quake.kernels.spare import spare_linear_algebra
from nimble_quake.kernels.store import Object

spare_linear_algebra()

from numba import from_dtype, njit, types  # noqa: E402  # linear algebra is spared first
from numba.core import compiler, config  # noqa: E402


@cache
def _libraries() -> tuple[ctypes.CDLL, ...]:
    return ctypes.CDLL(None), ctypes.CDLL(ctypes.util.find_library("m"))


@cache
def dispatcher(kernel: Kernel) -> Any:
    """Return a kernel as numba knows it, for itself and for the kernels that call it."""
    function = kernel.function
    world = dict(function.__globals__)
    for name, value in reads(function).items():
        if isinstance(value, Kernel) and value is not kernel and name in world:
            world[name] = dispatcher(value)
    copy = FunctionType(function.__code__, world, function.__name__, function.__defaults__, function.__closure__)
    copy.__qualname__, copy.__module__ = function.__qualname__, function.__module__
    options = {name: value for name, value in kernel.options.items() if name != "slp"}
    made = njit(nogil=True, **options)(copy)
    world[function.__name__] = made
    return made


def compiled(kernel: Kernel, argument_types: tuple[str, ...]) -> Object:
    """Compile a kernel for types of arguments. Raises TypeError for what cannot be loaded without numba."""
    called = dispatcher(kernel)
    numba: Any = compiler  # its types say less than it does
    flags = numba.Flags()
    called.targetdescr.options.parse_as_flags(flags, called.targetoptions)
    flags.no_cpython_wrapper, flags.no_cfunc_wrapper = True, True
    called.targetdescr.typing_context.refresh()
    called.targetdescr.target_context.refresh()
    arguments = tuple(map(_numba, argument_types))
    settings: Any = config
    settings.SLP_VECTORIZE = int(bool(kernel.options.get("slp")))
    result = numba.compile_extra(called.typingctx, called.targetctx, called.py_func, arguments, None, flags, {})
    result.library._ensure_finalized()
    asked = [f.name for f in result.library._final_module.functions if f.is_declaration]
    strange = [name for name in asked if not _is_there(name)]
    if strange:
        raise TypeError(f"the kernel {kernel.name} asks for {', '.join(strange)}, which only numba has")
    code = result.library._get_compiled_object()
    return Object(result.fndesc.llvm_func_name, _text(kernel, result.signature.return_type), code)


def _is_there(name: str) -> bool:
    if name.startswith("llvm.") or name in PROVIDED:
        return True
    return any(hasattr(library, name) for library in _libraries())


def _numba(type: str) -> Any:
    known: Any = types
    if type[0] == "(":
        return known.Tuple([_numba(part) for part in parts_of(type[1:-1])])
    if type == "n":
        return known.none
    element = from_dtype(np.dtype(type[0]))
    if len(type) == 1:
        return element
    axes = int("".join(filter(str.isdigit, type)))
    layout = next(letter for letter in type[1:] if letter in "CFA")
    return known.Array(element, axes, layout, readonly="r" in type[1:], aligned="u" not in type[1:])


def _text(kernel: Kernel, type: Any) -> str:
    """The type of a result as text."""
    if type == types.none:
        return "n"
    if isinstance(type, types.BaseTuple):
        parts: Any = type
        return f"({''.join(_text(kernel, part) for part in parts)})"
    for char in "dfqihbQIHB?":
        if type == from_dtype(np.dtype(char)):
            return char
    raise TypeError(f"the kernel {kernel.name} gives back {type}: let it write into an array it is handed")
