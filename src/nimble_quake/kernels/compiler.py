"""Compiling a kernel by numba: the only module that loads it."""

from __future__ import annotations

import ctypes
import ctypes.util
from functools import cache
from types import FunctionType
from typing import Any, TypeAlias

import llvmlite.binding as llvm
import numpy as np
from llvmlite import ir

from nimble_quake.kernels.abi import ROW, axes_of, channels_of, layout_of, parts_of
from nimble_quake.kernels.digest import reads
from nimble_quake.kernels.intrinsics import Intrinsic
from nimble_quake.kernels.runtime import PROVIDED
from nimble_quake.kernels.spare import spare_linear_algebra
from nimble_quake.kernels.store import Object
from nimble_quake.kernels.unpacking import OUTER, unpacking
from nimble_quake.kernels.written import Written

spare_linear_algebra()

from numba import from_dtype, njit, types  # noqa: E402  # linear algebra is spared first
from numba.core import compiler, config  # noqa: E402
from numba.extending import intrinsic  # noqa: E402
from numba.np.arrayobj import make_array  # noqa: E402

Numba: TypeAlias = Any
"""Something of numba's, which ships no types."""


@cache
def _libraries() -> tuple[ctypes.CDLL, ...]:
    return ctypes.CDLL(None), ctypes.CDLL(ctypes.util.find_library("m"))


def _options(kernel: Written) -> dict[str, Any]:
    return {name: value for name, value in kernel.options.items() if name not in ("slp", "loops")}


@cache
def dispatcher(kernel: Written) -> Numba:
    """Return a kernel as numba knows it, for itself and for the kernels that call it."""
    function = kernel.function
    world = dict(function.__globals__)
    for name, value in reads(function).items():
        if isinstance(value, Written) and value is not kernel and name in world:
            world[name] = dispatcher(value)
        elif isinstance(value, Intrinsic):
            world[name] = INTRINSICS[value.name]
    copy = FunctionType(function.__code__, world, function.__name__, function.__defaults__, function.__closure__)
    copy.__qualname__, copy.__module__ = function.__qualname__, function.__module__
    made = njit(nogil=True, **_options(kernel))(copy)
    world[function.__name__] = made
    return made


@intrinsic
def _assume(typing_context: Numba, fact: Numba) -> Numba:
    """Tell LLVM what is so."""

    def generate(context: Numba, builder: Numba, signature: Numba, args: Numba) -> Numba:
        builder.assume(args[0])
        return context.get_dummy_value()

    return types.void(types.boolean), generate


@intrinsic
def _prefetch(typing_context: Numba, array: Numba, index: Numba) -> Numba:
    def generate(context: Numba, builder: Numba, signature: Numba, args: Numba) -> Numba:
        numba: Numba = make_array  # its types say less than it does
        place = builder.gep(numba(array)(context, builder, args[0]).data, [args[1]])
        word, anywhere = ir.IntType(32), ir.IntType(8).as_pointer()
        notify = ir.FunctionType(ir.VoidType(), [anywhere, word, word, word])
        tell = builder.module.declare_intrinsic("llvm.prefetch", [anywhere], notify)
        read, near, data = word(0), word(3), word(1)
        builder.call(tell, [builder.bitcast(place, anywhere), read, near, data])
        return context.get_dummy_value()

    return types.void(array, types.int64), generate


INTRINSICS = {"prefetch": _prefetch}


def _with_steps(kernel: Written, argument_types: tuple[str, ...]) -> Numba:
    """Return a kernel that knows the steps through its arrays.

    Where the step from pixel to pixel is a number, not something asked of the array, LLVM handles eight at once.
    """
    names = [f"a{n}" for n in range(len(argument_types))]
    facts = []
    for name, type in zip(names, argument_types, strict=True):
        if type[0] == "(" or len(type) == 1:
            continue
        size, channels, axes, gaps = (
            np.dtype(type[0]).itemsize,
            channels_of(type),
            axes_of(type),
            layout_of(type) == "A",
        )
        if channels:
            facts.append(f"{name}.shape[2] == {channels}")
        if channels and gaps:
            facts.append(f"{name}.strides[1] == {channels * size}")
        if "p" in type or (channels and gaps):
            facts.append(f"{name}.strides[{axes - 1}] == {size}")
    if not facts:
        return dispatcher(kernel)
    lines = [
        f"def {kernel.function.__name__}({', '.join(names)}):",
        *(f"    _assume({fact})" for fact in facts),
        f"    return _kernel({', '.join(names)})",
    ]
    inner = dispatcher(kernel).py_func
    world = {"_assume": _assume, "_kernel": njit(nogil=True, **{**_options(kernel), "forceinline": True})(inner)}
    exec("\n".join(lines), world)
    return njit(nogil=True)(world[kernel.function.__name__])


def compiled(kernel: Written, argument_types: tuple[str, ...]) -> Object:
    """Compile a kernel for types of arguments. Raises TypeError for what cannot be loaded without numba."""
    called = _with_steps(kernel, argument_types)
    numba: Numba = compiler  # its types say less than it does
    flags = numba.Flags()
    called.targetdescr.options.parse_as_flags(flags, called.targetoptions)
    flags.no_cpython_wrapper, flags.no_cfunc_wrapper = True, True
    called.targetdescr.typing_context.refresh()
    called.targetdescr.target_context.refresh()
    arguments = tuple(map(_numba, argument_types))
    settings: Numba = config
    settings.SLP_VECTORIZE = int(bool(kernel.options.get("slp")))
    settings.LOOP_VECTORIZE = int(bool(kernel.options.get("loops", True)))
    result = numba.compile_extra(called.typingctx, called.targetctx, called.py_func, arguments, None, flags, {})
    result.library._ensure_finalized()
    asked = [f.name for f in result.library._final_module.functions if f.is_declaration]
    strange = [name for name in asked if not _is_there(name)]
    if strange:
        raise TypeError(f"the kernel {kernel.name} asks for {', '.join(strange)}, which only numba has")
    inner, module = result.fndesc.llvm_func_name, result.library._final_module.clone()
    module.link_in(llvm.parse_assembly(unpacking(inner, "".join(argument_types))))
    code = result.library.codegen._tm.emit_object(module)
    return Object(OUTER + inner, _text(kernel, result.signature.return_type), code)


def _is_there(name: str) -> bool:
    if name.startswith("llvm.") or name in PROVIDED:
        return True
    return any(hasattr(library, name) for library in _libraries())


def _numba(type: str) -> Numba:
    known: Numba = types
    if type[0] == "(":
        return known.Tuple([_numba(part) for part in parts_of(type[1:-1])])
    if type == "n":
        return known.none
    if type == ROW:
        return known.int64
    element = from_dtype(np.dtype(type[0]))
    if len(type) == 1:
        return element
    return known.Array(element, axes_of(type), layout_of(type), readonly="r" in type[1:], aligned="u" not in type[1:])


def _text(kernel: Written, type: Numba) -> str:
    """The type of a result as text."""
    if type == types.none:
        return "n"
    if isinstance(type, types.BaseTuple):
        parts: Numba = type
        return f"({''.join(_text(kernel, part) for part in parts)})"
    for char in "dfqihbQIHB?":
        if type == from_dtype(np.dtype(char)):
            return char
    raise TypeError(f"the kernel {kernel.name} gives back {type}: let it write into an array it is handed")
