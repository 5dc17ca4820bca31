"""How far a command is, as bars on a terminal."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from rich.console import Console
from rich.progress import BarColumn, TaskID, TextColumn, TimeRemainingColumn
from rich.progress import Progress as RichProgress

from nimble_quake.cli.said import Said
from nimble_quake.export.rendering import Progress


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


@contextmanager
def bars_shown() -> Iterator[Bars]:
    """Bars on stderr, until the block is left."""
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.completed}/{task.total}"))
    with RichProgress(*columns, TimeRemainingColumn(), console=Console(stderr=True), transient=True) as bar:
        yield Bars(bar)
