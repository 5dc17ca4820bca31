"""Running a kernel, or a function of Python, over bands of rows, on several threads at once."""

from __future__ import annotations

import ctypes
import threading
from collections.abc import Callable
from functools import cache
from typing import TYPE_CHECKING

from nimble_quake.kernels import loader

if TYPE_CHECKING:
    from nimble_quake.kernels.kernel import Bound

_Job = ctypes.c_int64 * 16
_Band = ctypes.CFUNCTYPE(ctypes.c_int32, ctypes.c_void_p, ctypes.c_int64, ctypes.c_int64)


class _Pool:
    """The functions that run a job, begin one and finish one, with this many threads to help."""

    def __init__(self, threads: int) -> None:
        nothing = ctypes.CFUNCTYPE(None)
        nothing(loader.address_of("pool_start"))()
        help = nothing(loader.address_of("pool_help"))
        for n in range(threads):  # each sleeps in machine code until the program ends
            threading.Thread(target=help, name=f"rows-{n}", daemon=True).start()
        self.run = ctypes.CFUNCTYPE(ctypes.c_int64, _Job, ctypes.c_int64)(loader.address_of("pool_run"))
        self.begin = ctypes.CFUNCTYPE(None, _Job, ctypes.c_int64)(loader.address_of("pool_begin"))
        self.finish = ctypes.CFUNCTYPE(ctypes.c_int64, _Job)(loader.address_of("pool_finish"))


@cache
def _pool(threads: int) -> _Pool:
    with loader.LOCK:
        return _Pool(threads)


class Edges:
    """Where bands of rows begin, and where the last one ends."""

    def __init__(self, rows: list[int]) -> None:
        self.rows, self.count = rows, len(rows) - 1
        self._array = (ctypes.c_int64 * len(rows))(*rows)
        self.address = ctypes.addressof(self._array)


class Called:
    """A function of Python, called from the pool's threads with the first and the last row of a band.

    Nothing here refers to itself: the pictures that the function works on go as soon as it does.
    """

    def __init__(self, run: Callable[[int, int], None]) -> None:
        wrong: list[tuple[int, BaseException]] = []

        def band(_packed: int, first: int, last: int) -> int:
            try:
                run(first, last)
            except BaseException as raised:  # handed to the one that asked: nothing may be raised through machine code
                wrong.append((first, raised))
                return 1
            return 0

        self._wrong = wrong
        self._entry = _Band(band)  # its machine code goes with it
        self.code = ctypes.c_void_p.from_buffer(self._entry).value or 0  # `cast` would let it refer to itself
        self.address = 0

    def check_status(self, status: int) -> None:
        """Raise what the uppermost band raised."""
        if status:
            raise min(self._wrong, key=lambda each: each[0])[1]


def _job(work: Bound | Called, edges: Edges) -> ctypes.Array[ctypes.c_int64]:
    return _Job(work.code, work.address, edges.address, edges.count)


def run_bands(work: Bound | Called, edges: Edges, helpers: int, threads: int) -> None:
    """Run a kernel or a function over bands that this thread and `helpers` others of `threads` take one by one."""
    work.check_status(_pool(threads).run(_job(work, edges), helpers))


class Begun:
    """A kernel that others have begun to run while this thread does something else."""

    def __init__(self, kernel: Bound, edges: Edges, helpers: int, threads: int) -> None:
        self._kernel, self._edges = kernel, edges
        self._job: ctypes.Array[ctypes.c_int64] | None = None  # set last: `__del__` comes after an error, too
        pool = _pool(threads)
        self._finish = pool.finish  # kept: `__del__` may come when the module is gone
        job = _job(kernel, edges)
        pool.begin(job, helpers)
        self._job = job

    def finish(self) -> None:
        """Do what is left, and wait for the others."""
        if self._job is not None:
            job, self._job = self._job, None
            self._kernel.check_status(self._finish(job))

    def __del__(self) -> None:
        self.finish()  # where an error came between: its memory must not go while others write
