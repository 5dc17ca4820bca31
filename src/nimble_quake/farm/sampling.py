"""Which frames that other machines sent are rendered here again, to be compared: chosen once they are here."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Sequence

FRACTION = 1 / 64
"""Of all frames so many are compared, and one of each machine. Decoding what comes is the rest of what it costs."""


class Sampling:
    """One frame of each machine's first load, however short the clip is; beside that a budget, spent at random."""

    def __init__(self, frames: int) -> None:
        self._left = int(frames * FRACTION)
        self._to_come = max(1, frames)
        self._random = secrets.SystemRandom()  # nobody may know beforehand
        self._known: set[str] = set()
        self._lock = threading.Lock()

    def chosen(self, machine: str, frames: Sequence[int]) -> int | None:
        """Return which of the frames that a machine has just sent is to be compared; None for none of them."""
        with self._lock:
            probability = self._left * len(frames) / self._to_come
            self._to_come = max(1, self._to_come - len(frames))
            if not frames or (machine in self._known and (self._left <= 0 or self._random.random() >= probability)):
                return None
            self._left -= 1
            self._known.add(machine)
            return self._random.choice(list(frames))
