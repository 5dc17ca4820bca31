"""The priority of our threads: SVT-AV1 makes itself, and who opens it, real-time where it may (under root)."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress

REAL_TIME = (os.SCHED_FIFO, os.SCHED_RR)


@contextmanager
def steady_priority() -> Iterator[None]:
    """Take real-time priority away from all threads of the program that have it afterwards and had it not before.

    A real-time encoder would take the machine from everybody, and what is started later would inherit it.
    """
    before = real_time()
    try:
        yield
    finally:
        for thread in real_time() - before:
            with suppress(OSError):  # it has ended
                os.sched_setscheduler(thread, os.SCHED_OTHER, os.sched_param(0))


def real_time() -> set[int]:
    """The threads of this program that are real-time now."""
    found = set()
    for name in os.listdir("/proc/self/task"):
        with suppress(OSError):
            if os.sched_getscheduler(int(name)) in REAL_TIME:
                found.add(int(name))
    return found
