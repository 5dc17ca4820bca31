"""One process at a time writes compiled kernels.

Numba picks the next free file name from an index it has read before; two programs that compile the same kernel for
different arrays at once would both take that name, and whoever reads it next would call the wrong machine code.
"""

from __future__ import annotations

import fcntl
import sys
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import Any

from numba.core import caching

LOCK = ".writing"
BLAS = "scipy.linalg"


def spare_linear_algebra() -> None:
    """Let numba do without SciPy's linear algebra: an eighth of a second to load, and no kernel of ours uses it.

    It looks for it when the first kernel is loaded; where it finds none, it goes on without.
    """
    if BLAS in sys.modules or "numba.np.arraymath" in sys.modules:
        return
    sys.modules[BLAS] = None  # type: ignore[assignment]
    try:
        import_module("numba.np.arraymath")
    finally:
        del sys.modules[BLAS]


def guard_writing() -> None:
    """Put a lock round numba's writing; where the folder cannot be written, nothing is."""
    plain: Callable[..., None] = caching.Cache.save_overload
    if getattr(plain, "guarded", False):
        return

    def save(self: Any, signature: object, data: object) -> None:
        try:
            lock = (Path(self.cache_path) / LOCK).open("w")
        except OSError:
            return
        with lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            plain(self, signature, data)

    save.guarded = True  # type: ignore[attr-defined]
    caching.Cache.save_overload = save  # type: ignore[method-assign]
