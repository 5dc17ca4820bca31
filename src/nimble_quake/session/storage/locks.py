"""Locks that the system lets go of however a program ends (flock(2)): files that are held while it runs."""

from __future__ import annotations

import contextlib
import fcntl
import os
import time
from pathlib import Path

PATIENCE = 1.0
"""Seconds in which a lock is tried for: who only looks whether it is held, holds it for a moment itself."""


def take_lock(path: Path) -> int | None:
    """Return the handle of a lock that is held from now on, until it is closed; None where another has it."""
    handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
    until = time.monotonic() + PATIENCE
    while True:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            return handle
        except OSError:
            if time.monotonic() > until:
                os.close(handle)
                return None
            time.sleep(0.02)


def is_locked(path: Path) -> bool:
    """Return whether a running program holds a lock."""
    with contextlib.suppress(OSError):
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
        try:
            fcntl.flock(handle, fcntl.LOCK_SH | fcntl.LOCK_NB)
        except OSError:
            return True
        finally:
            os.close(handle)
    return False
