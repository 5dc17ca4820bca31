"""How the arguments of a kernel are handed to machine code.

A type is a short text. Arrays: NumPy's character of the element, the number of axes and the layout (C, F or A: any), as
in "f2C"; then the number of channels where there are three axes, the last one short, and all of a row lies without
gaps, as in "f3C4" (what is known of a step through memory can be done for eight pixels at once); then "r" where it
cannot be written, "u" where it is not aligned. Single numbers: "d" (float), "q" (int), "?"
(bool) and NumPy's characters for its own scalars. Tuples: "(dd)". None: "n". "R": a number of a row, which is not
known when the arguments are packed.

Numba's convention (numba.core.callconv): status = f(result*, error**, leaves...). An array is handed over as its
leaves: owner, parent (both null: the caller keeps it), count of elements, bytes of one, data, shape..., strides...;
a tuple as the leaves of its parts. Ours: status = f(packed*, first, last). Packed are, in 8 bytes each, the place of
the result and the leaves; of an array its data, shape and strides, the others follow from them.
"""

from __future__ import annotations

import builtins
import ctypes
import re
from collections.abc import Iterator
from functools import cache
from typing import Any, TypeAlias, cast

import numpy as np

from nimble_quake.kernels.fitting import DATA_AT

SCALARS = {
    "d": ctypes.c_double,
    "f": ctypes.c_float,
    "q": ctypes.c_int64,
    "i": ctypes.c_int32,
    "h": ctypes.c_int16,
    "b": ctypes.c_int8,
    "Q": ctypes.c_uint64,
    "I": ctypes.c_uint32,
    "H": ctypes.c_uint16,
    "B": ctypes.c_uint8,
    "?": ctypes.c_int8,
}
"""The C type of each kind of number; a bool is handed over as a byte."""
ROW = "R"
PACKED = dict.fromkeys("qihbB?HI", "q") | {"d": "d", "f": "f4x", "Q": "Q"}
"""How `struct` packs each kind of number."""
_address = ctypes.c_void_p
Leaf: TypeAlias = int | float | None
"""A number that is packed: an argument, or what is known of an array."""
SAME = {"l": "q", "L": "Q"}
"""NumPy's second characters for the same numbers (64-bit Linux)."""


MOST_CHANNELS = 4


@cache
def _array_type(char: str, axes: int, layout: str, known: str, writable: bool, aligned: bool) -> str:
    return f"{SAME.get(char, char)}{axes}{layout}{known}{'' if writable else 'r'}{'' if aligned else 'u'}"


def axes_of(type: str) -> int:
    """Return how many axes an array of a type has."""
    return int(re.split("[CFA]", type[1:])[0])


def layout_of(type: str) -> str:
    """Return how an array of a type lies in memory: C, F or A."""
    return next(letter for letter in type[1:] if letter in "CFA")


def channels_of(type: str) -> int:
    """Return how many channels the arrays of a type have, 0 where that is not known."""
    found = re.fullmatch(r".3[CA](\d)[ru]*", type)
    return int(found[1]) if found else 0


def _known(array: np.ndarray, layout: str) -> str:
    """What is known of the steps through an array: its channels, "p" for an axis without gaps, or nothing."""
    axes, size = array.ndim, array.itemsize
    if axes == 3 and layout != "F":
        channels = array.shape[2]
        if 1 <= channels <= MOST_CHANNELS and (layout == "C" or array.strides[1:] == (channels * size, size)):
            return str(channels)
    return "p" if layout == "A" and array.strides[-1] == size else ""


def type_of(value: object) -> str:
    """Return the type of an argument. Raises TypeError for what no kernel takes."""
    if isinstance(value, np.ndarray):
        flags = value.flags
        layout = "C" if flags.c_contiguous else "F" if flags.f_contiguous else "A"
        known = _known(value, layout)
        return _array_type(value.dtype.char, value.ndim, layout, known, flags.writeable, flags.aligned)
    kind = type(value)
    if kind is float:
        return "d"
    if kind is int:
        return "q"
    if kind is bool:
        return "?"
    if isinstance(value, np.generic) and (char := SAME.get(value.dtype.char, value.dtype.char)) in SCALARS:
        return char
    if isinstance(value, tuple):
        return f"({''.join(map(type_of, value))})"
    if value is None:
        return "n"
    raise TypeError(f"a kernel takes arrays, numbers and tuples of them, not {kind.__name__}")


def leaves_of(args: tuple[object, ...]) -> list[Leaf]:
    """Return the leaves of arguments that are packed, in order. Whoever calls keeps the arrays alive."""
    leaves: list[Leaf] = []
    for value in args:
        if isinstance(value, np.ndarray):
            leaves += (_address.from_address(id(value) + DATA_AT).value, *value.shape, *value.strides)
        elif isinstance(value, tuple):
            leaves += leaves_of(value)
        elif value is not None:
            leaves.append(value.item() if isinstance(value, np.generic) else cast(Leaf, value))
    return leaves


_types: dict[tuple[object, ...], str] = {}
"""Types of arrays, by what they depend on."""
MOST_TYPES = 4096


def described(args: tuple[object, ...]) -> tuple[list[str], list[Leaf]]:
    """Return what `type_of` says of each argument, and `leaves_of` all of them; made for each call of a kernel."""
    types: list[str] = []
    leaves: list[Leaf] = []
    for value in args:
        if type(value) is np.ndarray:
            shape, strides, flags, char = value.shape, value.strides, value.flags.num, value.dtype.char
            key = (char, flags, len(shape), shape[2:], None if flags & 1 else strides[1:] or strides)
            found = _types.get(key)
            if found is None:
                found = type_of(value)
                if len(_types) < MOST_TYPES:
                    _types[key] = found
            types.append(found)
            leaves += (_address.from_address(id(value) + DATA_AT).value, *shape, *strides)
        elif type(value) is float:
            types.append("d")
            leaves.append(value)
        else:
            types.append(type_of(value))
            leaves += leaves_of((value,))
    return types, leaves


def parts_of(type: str) -> Iterator[str]:
    """Yield the types that a row of types holds: "f3Cd(qq)" is f3C, d and (qq)."""
    at = 0
    while at < len(type):
        end = at + 1
        if type[at] == "(":
            depth = 1
            while depth:
                depth += {"(": 1, ")": -1}.get(type[end], 0)
                end += 1
        elif end < len(type) and type[end].isdigit():
            while end < len(type) and (type[end].isdigit() or type[end] in "CFApru"):
                end += 1
        yield type[at:end]
        at = end


def packing(types: str) -> str:
    """Return how `struct` packs the place of the result and the leaves of a row of types."""
    return "=q" + "".join(_packing(types))


def _packing(types: str) -> Iterator[str]:
    for part in parts_of(types):
        if part[0] == "(":
            yield from _packing(part[1:-1])
        elif len(part) > 1:
            yield "q" * (1 + 2 * axes_of(part))
        elif part not in ("n", ROW):
            yield PACKED[part]


@cache
def result_type(type: str) -> Any:
    """Return the C type of what a kernel gives back; None for nothing."""
    if type == "n":
        return None
    if len(type) == 1:
        return SCALARS[type]
    fields = [(f"part{n}", result_type(part)) for n, part in enumerate(parts_of(type[1:-1]))]
    return builtins.type("Result", (ctypes.Structure,), {"_fields_": fields})


def result_of(type: str, cell: Any) -> Any:
    """Return what a kernel gave back as Python numbers."""
    if len(type) == 1:
        return bool(cell.value) if type == "?" else cell.value
    values = [getattr(cell, name) for name, _ in cell._fields_]
    return tuple(bool(v) if part == "?" else v for part, v in zip(parts_of(type[1:-1]), values, strict=True))
