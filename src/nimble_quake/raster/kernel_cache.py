"""One process at a time writes compiled kernels.

Numba picks the next free file name from an index it has read before; two programs that compile the same kernel for
different arrays at once would both take that name, and whoever reads it next would call the wrong machine code.
"""

from __future__ import annotations

import fcntl
from collections.abc import Callable
from pathlib import Path
from typing import Any

from numba.core import caching

LOCK = ".writing"


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
