"""Compiled kernels: plain functions over arrays, compiled once and loaded as machine code ever after.

Numba compiles a kernel the first time it meets a new set of argument types. What it makes is kept as an object file
and loaded by LLVM alone, so that a program in daily use never loads the compiler: that saves half a second at every
start, and 20 ms for each kernel. `kernel.py` is what the rest of the program sees; `abi.py` says how arguments are
handed over; `compiler.py` is the only module that loads numba; `store.py` keeps the files; `loader.py` loads them.
"""

from nimble_quake.kernels.intrinsics import prefetch
from nimble_quake.kernels.kernel import Kernel, compile_elsewhere, kernel, notified_when_compiling

__all__ = ["Kernel", "compile_elsewhere", "kernel", "notified_when_compiling", "prefetch"]
