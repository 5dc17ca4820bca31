"""Loading object files by LLVM, with the little that they ask of a runtime."""

from __future__ import annotations

import hashlib
import threading
from functools import cache
from typing import Any

import llvmlite.binding as llvm

from nimble_quake.kernels import store
from nimble_quake.kernels.pools.native_code import POOL
from nimble_quake.kernels.runtime import RUNTIME
from nimble_quake.kernels.store import Object

LOCK = threading.RLock()
"""LLVM loads for one thread at a time."""


@cache
def _engine() -> Any:
    llvm.initialize_native_target()
    llvm.initialize_native_asmprinter()
    machine = llvm.Target.from_default_triple().create_target_machine(jit=True)
    engine = llvm.create_mcjit_compiler(llvm.parse_assembly(""), machine)
    engine.add_object_file(llvm.ObjectFileRef.from_data(_runtime(machine).code))
    engine.finalize_object()
    return engine


def _runtime(machine: Any) -> Object:
    """The runtime in machine code that any processor of its sort runs; compiled once, which takes 40 ms."""
    name = "runtime", hashlib.sha256((RUNTIME + POOL).encode()).hexdigest(), machine.triple
    found = store.read_shipped(*name) or store.read(*name)
    if found is None:
        found = Object("runtime", "none", machine.emit_object(llvm.parse_assembly(RUNTIME + POOL)))
        store.write(*name, found)
    return found


def loaded(object: Object) -> int:
    """Load an object file and return the address of its function. One thread at a time."""
    engine = _engine()
    engine.add_object_file(llvm.ObjectFileRef.from_data(object.code))
    engine.finalize_object()
    return address_of(object.symbol)


def address_of(symbol: str) -> int:
    """Return the address of a function that was loaded. One thread at a time."""
    address = int(_engine().get_function_address(symbol))
    if not address:
        raise RuntimeError(f"nothing that was loaded holds {symbol}")
    return address
