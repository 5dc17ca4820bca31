"""How a command says how far it is, on stderr: with bars, in plain lines, as JSON for programs, or not at all."""

from __future__ import annotations

import json
import math
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import BarColumn, TaskID, TextColumn, TimeRemainingColumn
from rich.progress import Progress as RichProgress

from nimble_quake.errors import BadInput, one_of
from nimble_quake.export.rendering import Progress
from nimble_quake.kernels import notified_when_compiling
from nimble_quake.session.work import duration

HELP = "bars, plain, json (a line a frame) or none; left out, bars on a terminal and plain lines elsewhere"
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


class Bars(Said):
    """Bars that go when all is done, one for each machine."""

    def __init__(self, bar: RichProgress) -> None:
        self._bar = bar
        self._task: TaskID | None = None
        self._tasks: dict[str, TaskID] = {}

    def begins(self, name: str, total: int) -> None:
        self._task = self._bar.add_task(f"Rendering {name}", total=total)

    def moves(self, done: Progress) -> None:
        if self._task is not None:
            self._bar.update(self._task, completed=done.done)

    def machines(self, frames: dict[str, int]) -> None:
        for machine, count in frames.items():
            if machine not in self._tasks:
                self._tasks[machine] = self._bar.add_task(f"  {machine}", total=None)
            self._bar.update(self._tasks[machine], completed=count)

    def compiles(self) -> None:
        self._bar.add_task("Compiling for this machine, once", total=None)

    def line(self, words: str) -> None:
        self._bar.console.print(words, highlight=False, markup=False, soft_wrap=True)


LINES = {"plain": Lines, "json": JsonLines, "none": Said}
WAYS = ("bars", *LINES)


@contextmanager
def progress_shown(way: str = "") -> Iterator[Said]:
    """What says how far a command is, in a way of `WAYS`; without one bars on a terminal and lines elsewhere.

    Raises BadInput.
    """
    console = Console(stderr=True)
    way = way or ("bars" if console.is_terminal else "plain")
    if way not in WAYS:
        raise BadInput(f'"{way}" is no way to say it', where="--progress", cure=one_of(WAYS, way))
    if way == "bars":
        columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.completed}/{task.total}"))
        with RichProgress(*columns, TimeRemainingColumn(), console=console, transient=True) as bar:
            bars = Bars(bar)
            with notified_when_compiling(bars.compiles):
                yield bars
        return
    said = LINES[way]()
    with notified_when_compiling(said.compiles):
        yield said
