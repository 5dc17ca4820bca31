"""Running a kernel over bands of rows, on several threads at once."""

from __future__ import annotations

import ctypes
import threading
from functools import cache
from typing import TYPE_CHECKING, Any

from nimble_quake.kernels import loader

if TYPE_CHECKING:
    from nimble_quake.kernels.kernel import Bound

_Job = ctypes.c_int64 * 16
BYTES_AT = bytes.__basicsize__ - 1
"""Where a bytes object holds its first byte (CPython's PyBytesObject: a closing 0 is counted in its size)."""
_witness = b"packed"
if ctypes.string_at(id(_witness) + BYTES_AT, len(_witness)) != _witness:
    raise ImportError("bytes of this Python do not lie where they are looked for")


@cache
def _run(threads: int) -> Any:
    """The function that runs a job, with this many threads to help it."""
    with loader.LOCK:
        return _started(threads)


def _started(threads: int) -> Any:
    nothing = ctypes.CFUNCTYPE(None)
    nothing(loader.address_of("pool_start"))()
    help = nothing(loader.address_of("pool_help"))
    for n in range(threads):  # each sleeps in machine code until the program ends
        threading.Thread(target=help, name=f"rows-{n}", daemon=True).start()
    return ctypes.CFUNCTYPE(ctypes.c_int64, _Job, ctypes.c_int64)(loader.address_of("pool_run"))


class Edges:
    """Where bands of rows begin, and where the last one ends."""

    def __init__(self, rows: list[int]) -> None:
        self.rows, self.count = rows, len(rows) - 1
        self._held = (ctypes.c_int64 * len(rows))(*rows)
        self.address = ctypes.addressof(self._held)


def run_bands(kernel: Bound, edges: Edges, helpers: int, threads: int) -> None:
    """Run a kernel over bands that this thread and `helpers` others of `threads` take one after the other."""
    packed = id(kernel.packed) + BYTES_AT
    kernel.native.told(_run(threads)(_Job(kernel.native.address, packed, edges.address, edges.count), helpers))
