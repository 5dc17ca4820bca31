"""A frame that nobody waits for any more ends before its next step: a window that is closed waits for none."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager


class Abandoned(BaseException):
    """Nobody waits for this frame. No `Exception`: what is told of frames that fail is not told of this one."""


class _Here(threading.local):
    """What this thread computes a frame for."""

    unwanted: Callable[[], bool] | None = None


_HERE = _Here()


@contextmanager
def abandoned_when(unwanted: Callable[[], bool]) -> Iterator[None]:
    """Let frames that this thread computes meanwhile end with `Abandoned` once nobody wants them."""
    before, _HERE.unwanted = _HERE.unwanted, unwanted
    try:
        yield
    finally:
        _HERE.unwanted = before


def go_on() -> None:
    """Go on with a frame. Raises Abandoned where nobody wants it any more; asked before each step."""
    if _HERE.unwanted is not None and _HERE.unwanted():
        raise Abandoned
