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


@cache
def _pool(threads: int) -> tuple[Any, Any, Any]:
    """The functions that run a job, begin one and finish one, with this many threads to help."""
    with loader.LOCK:
        nothing = ctypes.CFUNCTYPE(None)
        nothing(loader.address_of("pool_start"))()
        help = nothing(loader.address_of("pool_help"))
        for n in range(threads):  # each sleeps in machine code until the program ends
            threading.Thread(target=help, name=f"rows-{n}", daemon=True).start()
        run = ctypes.CFUNCTYPE(ctypes.c_int64, _Job, ctypes.c_int64)(loader.address_of("pool_run"))
        begin = ctypes.CFUNCTYPE(None, _Job, ctypes.c_int64)(loader.address_of("pool_begin"))
        return run, begin, ctypes.CFUNCTYPE(ctypes.c_int64, _Job)(loader.address_of("pool_finish"))


class Edges:
    """Where bands of rows begin, and where the last one ends."""

    def __init__(self, rows: list[int]) -> None:
        self.rows, self.count = rows, len(rows) - 1
        self._array = (ctypes.c_int64 * len(rows))(*rows)
        self.address = ctypes.addressof(self._array)


def _job(kernel: Bound, edges: Edges) -> Any:
    return _Job(kernel.native.address, kernel.address, edges.address, edges.count)


def run_bands(kernel: Bound, edges: Edges, helpers: int, threads: int) -> None:
    """Run a kernel over bands that this thread and `helpers` others of `threads` take one after the other."""
    run, _, _ = _pool(threads)
    kernel.native.check_status(run(_job(kernel, edges), helpers))


class Begun:
    """A kernel that others have begun to run while this thread does something else."""

    def __init__(self, kernel: Bound, edges: Edges, helpers: int, threads: int) -> None:
        self._kernel, self._edges, self._job = kernel, edges, _job(kernel, edges)
        _, begin, self._finish = _pool(threads)  # kept: `__del__` may come when the module is gone
        begin(self._job, helpers)

    def finish(self) -> None:
        """Do what is left, and wait for the others."""
        if self._job is not None:
            job, self._job = self._job, None
            self._kernel.native.check_status(self._finish(job))

    def __del__(self) -> None:
        if getattr(self, "_job", None) is not None:  # an error came between: its memory must not go while others write
            self.finish()
