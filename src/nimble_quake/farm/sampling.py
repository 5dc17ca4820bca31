"""Which frames that other machines sent are rendered here again, to be compared: chosen once they are here."""

from __future__ import annotations

import secrets
import threading
from collections.abc import Sequence

SHARE = 0.02
"""Of all frames so many are compared, one at least. Decoding what comes is the rest of what the one who asks pays."""


class Sampling:
    """A budget of frames, spent on machines that have not been looked at first, else at random."""

    def __init__(self, frames: int) -> None:
        self._left = max(1, int(frames * SHARE))
        self._to_come = max(1, frames)
        self._random = secrets.SystemRandom()  # nobody may know beforehand
        self._known: set[str] = set()
        self._lock = threading.Lock()

    def chosen(self, machine: str, frames: Sequence[int]) -> int | None:
        """Return which of the frames that a machine has just sent is to be compared; None for none of them."""
        with self._lock:
            chance = self._left * len(frames) / self._to_come
            self._to_come = max(1, self._to_come - len(frames))
            if not frames or self._left <= 0 or (machine in self._known and self._random.random() >= chance):
                return None
            self._left -= 1
            self._known.add(machine)
            return self._random.choice(list(frames))
