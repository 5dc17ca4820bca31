"""Whether machine code can be called our way here; else numba's own functions and plain threads take over.

The short way hands packed arguments to code that was compiled before (`abi`, `loader`, `pool`). It rests on this
processor and system, on LLVM's loader, and on where NumPy keeps the address of an array's data. Where any of it does
not hold, every kernel is compiled by numba at its first call and called as numba has it: slower to begin, and right.
NIMBLE_QUAKE_PLAIN_KERNELS=1 asks for that; it is how it is tested.
"""

from __future__ import annotations

import ctypes
import logging
import os
import platform
import sys
from functools import cache

import numpy as np

ASKED = "NIMBLE_QUAKE_PLAIN_KERNELS"
DATA_AT = object.__basicsize__
"""Where an array object holds the address of its data: first thing behind the object's own head (NumPy's C API,
PyArrayObject). Reading it there takes a fifth of the time of asking the array, for each array of each call."""
_log = logging.getLogger("nimble_quake.kernels")


@cache
def plain() -> bool:
    """Return whether kernels are run by numba's own functions here."""
    why = _why()
    if why:
        _log.warning("kernels are compiled and run by numba itself: %s", why)
    return bool(why)


def _why() -> str:
    if os.environ.get(ASKED):
        return f"{ASKED} asks for it"
    if not sys.platform.startswith("linux") or platform.machine() != "x86_64":
        return f"{sys.platform} on {platform.machine()} was never tried"
    witness = np.zeros(1)
    if ctypes.c_void_p.from_address(id(witness) + DATA_AT).value != witness.ctypes.data:
        return f"arrays of NumPy {np.__version__} do not begin with the address of their data"
    return _unloadable()


def _unloadable() -> str:
    """Why LLVM cannot load what it is given; empty where it can."""
    from nimble_quake.kernels import loader  # it starts LLVM

    try:
        with loader.LOCK:
            loader.address_of("pool_run")
    except Exception as wrong:  # whatever is wrong with it, there is another way
        return f"LLVM cannot load machine code ({type(wrong).__name__}: {wrong})"
    return ""
