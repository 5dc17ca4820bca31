"""Run a compiled kernel over bands of rows, on as many threads as there are cores.

Numba's own thread layers either refuse or abort when two Python threads enter them at once; render threads do. So
kernels here are plain functions of (..., first row, last row), and this module splits the rows. Every row is
computed the same way whatever the split, so results do not depend on the number of threads.
"""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache, partial

import cv2
import numpy as np

from nimble_quake.kernels import Kernel, kernel
from nimble_quake.kernels.fitting import plain
from nimble_quake.kernels.pools.native import Begun, Called, Edges, run_bands
from nimble_quake.kernels.pools.plain import run_plainly

MOST_THREADS = 8
THREADS = min(MOST_THREADS, os.cpu_count() or 1)
"""How many threads rows are split among: a setting of the process, changed by `use_threads`."""
MIN_ROWS = 32
"""Fewer rows than this are not worth handing to another thread."""
MIN_BYTES = 200_000
"""A kernel over arrays that are all smaller than this is done before another thread is awake."""
BANDS = 3
"""How many bands there are for each thread."""

cv2.setNumThreads(1)
"""OpenCV's own threads spin while they wait, which takes the cores from ours; we split its work by rows instead."""


cv2.utils.logging.setLogLevel(cv2.utils.logging.LOG_LEVEL_SILENT)
"""What it would print on a damaged picture is told by our own errors."""


@kernel(inline="always")
def clamped(v, low, high):
    """Hold a number to a range; what is no number becomes `low`. For places in tables: a wild index is a crash."""
    v = v if v > low else low
    return v if v < high else high


_here = threading.local()


@contextmanager
def on_one_thread() -> Iterator[None]:
    """Do not split rows in this thread: where several frames are made at once, each on a core of its own is faster."""
    before, _here.alone = getattr(_here, "alone", False), True
    try:
        yield
    finally:
        _here.alone = before


def use_threads(count: int) -> None:
    """Split rows among so many threads from now on."""
    global THREADS
    THREADS = max(1, min(count, MOST_THREADS))


def helped() -> bool:
    """Return whether other threads help this one with rows."""
    return THREADS > 1 and not getattr(_here, "alone", False)


def _small(args: tuple[object, ...]) -> bool:
    """Whether all arrays that are handed on are small; a function that holds its own may be anything."""
    arrays = False
    for arg in args:
        if type(arg) is np.ndarray:
            if arg.nbytes >= MIN_BYTES:
                return False
            arrays = True
    return arrays


@cache
def _edges(height: int, bands: int) -> Edges:
    """Where bands begin and end: each a little smaller than the one before, so that no thread waits long at the end."""
    sizes = np.arange(bands + 1, 1, -1)
    return Edges([0, *(int(height * upto) for upto in np.cumsum(sizes) / sizes.sum())])


def _shared(height: int, least: int, args: tuple[object, ...]) -> tuple[int, int]:
    """How many threads help with rows, and how many bands they are split into."""
    helpers = 0 if not helped() or _small(args) else min(THREADS, height // least) - 1
    return helpers, min(BANDS * (helpers + 1), height // max(1, least // 2))


def run_rows(kernel: Callable[..., None], height: int, *args: object, least: int = MIN_ROWS) -> None:
    """Call `kernel(*args, first, last)` for bands that cover rows 0...height; least: rows worth another thread.

    The bands lie in a heap that all threads take from, so a thread that wakes late costs nothing.
    """
    helpers, bands = _shared(height, least, args)
    if isinstance(kernel, Kernel) and plain():
        kernel = kernel.by_numba()
    if isinstance(kernel, Kernel):
        run = kernel.bound(*args)
        if helpers > 0:
            run_bands(run, _edges(height, bands), helpers, THREADS)
        else:
            run(0, height)
    elif helpers > 0:
        call, edges = partial(kernel, *args), _edges(height, bands)
        if plain():
            run_plainly(call, edges.rows, helpers, THREADS)
        else:
            run_bands(Called(call), edges, helpers, THREADS)
    else:
        kernel(*args, 0, height)


def begin_rows(kernel: Kernel, height: int, *args: object) -> Begun | None:
    """As `run_rows`, done by other threads until `finish` is called on what is returned; None where all is done."""
    if plain():
        run_rows(kernel, height, *args)
        return None
    helpers, bands = _shared(height, MIN_ROWS, args)
    if helpers > 0:
        return Begun(kernel.bound(*args), _edges(height, bands), helpers, THREADS)
    kernel.bound(*args)(0, height)
    return None


BAND_BYTES = 200_000
"""A band of this size stays in a core's cache through all steps of what is made of it."""


def in_bands(make: Callable[..., np.ndarray], *arrays: np.ndarray) -> np.ndarray:
    """Return `make(*arrays)`, made in bands of rows: for what NumPy does to each sample by itself.

    make: takes rows of each array and returns as many; alike whatever the split.
    """
    height = len(arrays[0])
    each = max(1, BAND_BYTES * height // max(1, arrays[0].nbytes))
    if each >= height:
        return make(*arrays)
    start = make(*(array[:each] for array in arrays))
    out = np.empty((height, *start.shape[1:]), start.dtype)
    out[:each] = start

    def band(first: int, last: int) -> None:
        for top in range((first + 1) * each, min((last + 1) * each, height), each):
            low = min(top + each, height)
            out[top:low] = make(*(array[top:low] for array in arrays))

    run_rows(band, -(-height // each) - 1, least=2)
    return out
