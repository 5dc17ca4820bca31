"""Being told that a kernel is compiled: on a new machine that takes a while, once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

from numba.core import event


class _First(event.Listener):  # type: ignore[misc]  # numba ships no types
    """Tells of the first kernel that is compiled."""

    def __init__(self, told: Callable[[], None]) -> None:
        self._told, self._said = told, False

    def on_start(self, event: Any) -> None:
        if not self._said:
            self._said = True
            self._told()

    def on_end(self, event: Any) -> None:
        """Nothing is told of its end."""


@contextmanager
def told_when_compiling(told: Callable[[], None]) -> Iterator[None]:
    """Call `told`, on the thread that compiles, when a first kernel has to be compiled."""
    listener = _First(told)
    event.register("numba:compile", listener)
    try:
        yield
    finally:
        event.unregister("numba:compile", listener)
