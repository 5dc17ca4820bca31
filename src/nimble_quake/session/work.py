"""Work that takes a while, done aside: how far it is, how long it will still take, and a way to stop it."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Iterable, Iterator
from typing import TypeVar

Item = TypeVar("Item")


class Work:
    """What the window shows of work that is under way. The thread that does the work counts; any thread may look."""

    def __init__(self, title: str, total: int) -> None:
        self.title, self.total, self.done = title, max(1, total), 0
        self._began = time.monotonic()
        self._stop, self._ended = threading.Event(), threading.Event()

    def counted(self, items: Iterable[Item]) -> Iterator[Item]:
        """Go through items, counting each when it is done; ends early when stopped."""
        for item in items:
            if self.stopped:
                break
            yield item
            self.done += 1

    def stop(self) -> None:
        """Ask the work to stop after the item under way."""
        self._stop.set()

    def end(self) -> None:
        """Say that nothing more will come."""
        self._ended.set()

    @property
    def stopped(self) -> bool:
        """Whether it was asked to stop."""
        return self._stop.is_set()

    @property
    def ended(self) -> bool:
        """Whether it is over."""
        return self._ended.is_set()

    @property
    def left(self) -> float:
        """Estimated seconds left; infinite before the first item is done."""
        if not self.done:
            return math.inf
        return (time.monotonic() - self._began) / self.done * (self.total - self.done)


def duration(seconds: float) -> str:
    """Return a time span in words."""
    if seconds == math.inf:
        return "…"
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes} min {rest:02d} s" if minutes else f"{rest} s"
