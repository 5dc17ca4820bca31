"""A kernel, as the rest of the program sees it: a function that is compiled for the types it is called with."""

from __future__ import annotations

import ctypes
import struct
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import update_wrapper
from types import FunctionType
from typing import Any

from nimble_quake.kernels import fitting, loader, store
from nimble_quake.kernels.abi import ROW, Leaf, described, packing, result_of, result_type
from nimble_quake.kernels.digest import digest_of
from nimble_quake.kernels.written import Option, Written

_nowhere = ctypes.create_string_buffer(64)
NOWHERE = ctypes.addressof(_nowhere)
"""Where a kernel may write a result that is none."""
_waiting: list[Callable[[], None]] = []
_elsewhere: list[Callable[[str], None]] = []
_prototype = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_char_p, ctypes.c_int64, ctypes.c_int64)


class Native:
    """Machine code for one set of argument types."""

    def __init__(self, name: str, address: int, types: str, result: str) -> None:
        self.name, self.address, self.run, self.result = name, address, _prototype(address), result
        self.pack = struct.Struct(packing(types)).pack

    def __call__(self, leaves: list[Leaf]) -> Any:
        """Run it, without the interpreter's lock, and return what it gives back."""
        cell = None if self.result == "n" else result_type(self.result)()
        place = NOWHERE if cell is None else ctypes.addressof(cell)
        self.check_status(self.run(self.pack(place, *leaves), 0, 0))
        return None if cell is None else result_of(self.result, cell)

    def check_status(self, status: int) -> None:
        """Raise MemoryError where it failed."""
        if status:
            raise MemoryError(f"the kernel {self.name} found no memory, or no number ({status})")


class Bound:
    """A kernel with all its arguments but the rows. It holds them: their arrays live as long as it does."""

    def __init__(self, native: Native, args: tuple[object, ...], leaves: list[Leaf]) -> None:
        self.native, self.args, self.code = native, args, native.address
        self.packed = native.pack(NOWHERE, *leaves)
        self._buffer = ctypes.c_char.from_buffer(bytearray(self.packed))  # a type for each length would be garbage
        self.address = ctypes.addressof(self._buffer)
        """Where the packed arguments lie, as long as this does."""
        self.check_status = native.check_status

    def __call__(self, first: int, last: int) -> None:
        """Run it over rows, on this thread."""
        self.check_status(self.native.run(self.packed, first, last))


class Kernel(Written):
    """A function that is compiled. Equal types of arguments run the same code; new types compile it again."""

    def __init__(self, function: FunctionType, options: dict[str, Option]) -> None:
        update_wrapper(self, function)
        super().__init__(function, options)
        self._native: dict[tuple[str, ...], Native] = {}
        self._digest = ""
        self._source_digest: str | None = None

    def __call__(self, *args: object) -> Any:
        if fitting.plain():
            return self.by_numba()(*args)
        types, leaves = described(args + self._left_out(len(args)))
        return self.native(tuple(types))(leaves)

    def by_numba(self) -> Callable[..., Any]:
        """Return it as numba has it, compiled at its first call: for where our own way does not fit."""
        from nimble_quake.kernels import compiler  # loads numba, half a second

        made: Callable[..., Any] = compiler.dispatcher(self)
        return made

    def bound(self, *args: object) -> Bound:
        """Return it with all arguments set but the next two, which are numbers of rows. It must give nothing back."""
        types, leaves = described(args)
        rest = self._left_out(len(args) + 2)
        if rest:
            more, leaves_more = described(rest)
            types, leaves = [*types, ROW, ROW, *more], leaves + leaves_more
        else:
            types += (ROW, ROW)
        return Bound(self.native(tuple(types)), args, leaves)

    def _left_out(self, given: int) -> tuple[object, ...]:
        """The defaults of arguments that are not given."""
        missing = self.function.__code__.co_argcount - given
        return (self.function.__defaults__ or ())[-missing:] if missing > 0 else ()

    @property
    def digest(self) -> str:
        """What its code, its options and all that it reads come to: another digest is another kernel."""
        if not self._digest:
            self._digest = digest_of(self)
        return self._digest

    @property
    def source_digest(self) -> str:
        """The same, alike for every Python, for kernels that came along; empty where their lines did not."""
        if self._source_digest is None:
            self._source_digest = digest_of(self, by_source=True)
        return self._source_digest

    def native(self, types: tuple[str, ...]) -> Native:
        """Return its machine code for types, compiled if need be."""
        found = self._native.get(types)
        return found if found is not None else self._made(types)

    def line(self, types: tuple[str, ...]) -> str:
        """Return its name and the types of its arguments, as `known.txt` lists them."""
        return " ".join((self.name, *types))

    def _kept_as(self) -> str:
        """The digest under which what is compiled now is kept."""
        return self.source_digest if store.to_ship() else self.digest

    def _made(self, types: tuple[str, ...]) -> Native:
        with loader.LOCK:
            if types in self._native:
                return self._native[types]
            row = "".join(types)
            kept = store.read_shipped(self.name, self.source_digest, row) if store.shipped() else None
            kept = kept or store.read(self.name, self._kept_as(), row)
            if kept is None:
                for notify in _waiting:
                    notify()
                for elsewhere in _elsewhere:
                    elsewhere(self.line(types))
                with store.claimed(self.name, self._kept_as(), row):  # two processes do not compile the same
                    kept = store.read(self.name, self._kept_as(), row) or self._compiled(types, row)
            address = loader.loaded(kept)
            self._native[types] = Native(self.name, address, row, kept.result)
            return self._native[types]

    def _compiled(self, types: tuple[str, ...], row: str) -> store.Object:
        from nimble_quake.kernels import compiler  # loads numba, half a second

        made = compiler.compiled(self, types)
        store.write(self.name, self._kept_as(), row, made)
        return made


def kernel(**options: Option) -> Callable[[Callable[..., Any]], Kernel]:
    """Make a function a kernel.

    options: numba's, such as error_model, fastmath, inline, forceinline; slp: join neighbouring numbers of one pixel
    into one instruction, for kernels that handle the four channels one by one (others become slower by it); loops:
    False where several pixels are not to be joined as well, which would gather and scatter their numbers one by one.
    """

    def made(function: Callable[..., Any]) -> Kernel:
        assert isinstance(function, FunctionType)
        return Kernel(function, options)

    return made


def compile_elsewhere(by: Callable[[str], None]) -> None:
    """Let `by` have what a line of `known.txt` names compiled and stored; what it does not store is compiled here."""
    _elsewhere[:] = [by]


@contextmanager
def notified_when_compiling(notify: Callable[[], None]) -> Iterator[None]:
    """Call `notify`, on the thread that compiles, when a first kernel has to be compiled: that takes a while, once."""

    def once() -> None:
        if once in _waiting:
            _waiting.remove(once)
            notify()

    _waiting.append(once)
    try:
        yield
    finally:
        if once in _waiting:
            _waiting.remove(once)
