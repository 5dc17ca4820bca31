"""What a command says of how far it is: nothing, plain lines, or an object a line for programs."""

from __future__ import annotations

import json
import math
import sys
import time

from nimble_quake.export.rendering import Progress
from nimble_quake.session.work import duration

PARTS = 10
"""Plain lines are written at every tenth of the work."""
SILENT = 20.0
"""Seconds after which a plain line is written in any case."""


class Said:
    """Says nothing while it works; what went wrong it says in lines."""

    def begins(self, name: str, total: int) -> None:
        """Say that something is begun, of so many frames."""

    def moves(self, done: Progress) -> None:
        """Say how far it is."""

    def machines(self, frames: dict[str, int]) -> None:
        """Say how many frames each machine has rendered."""

    def compiles(self) -> None:
        """Say that kernels are compiled."""

    def line(self, words: str) -> None:
        """Say something that is to be known in any case."""
        print(words, file=sys.stderr)


class Lines(Said):
    """Plain lines, for a log."""

    def begins(self, name: str, total: int) -> None:
        self._name, self._part, self._at = name, 0, time.monotonic()

    def moves(self, done: Progress) -> None:
        part, now = done.done * PARTS // max(done.total, 1), time.monotonic()
        if part > self._part or now > self._at + SILENT:
            self._part, self._at = part, now
            left = f", {duration(done.left)} left" if math.isfinite(done.left) and done.done < done.total else ""
            self.line(f"{self._name}: {done.done} of {done.total} frames{left}")

    def compiles(self) -> None:
        self.line("Compiling for this machine, once: the first frame takes a while")


class JsonLines(Said):
    """An object a line: {"done", "total", "seconds", "left"}; what is said besides as {"note"}."""

    def moves(self, done: Progress) -> None:
        left = round(done.left, 2) if math.isfinite(done.left) else None
        self._write({"done": done.done, "total": done.total, "seconds": round(done.seconds, 2), "left": left})

    def machines(self, frames: dict[str, int]) -> None:
        self._write({"machines": frames})

    def compiles(self) -> None:
        self._write({"note": "compiling for this machine, once"})

    def line(self, words: str) -> None:
        self._write({"note": words})

    def _write(self, found: dict[str, object]) -> None:
        print(json.dumps(found), file=sys.stderr, flush=True)
