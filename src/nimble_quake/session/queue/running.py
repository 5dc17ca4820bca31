"""Working through the queue: one order after the other, each as it is wished when it begins."""

from __future__ import annotations

import contextlib
import os
import shutil
import subprocess
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from nimble_quake.errors import Cancelled, NimbleQuakeError, SaveFailed
from nimble_quake.export.order import Stamp
from nimble_quake.export.rendering import Progress, Rendered, render_on
from nimble_quake.farm.where import Where
from nimble_quake.render.engine import Engine
from nimble_quake.session.queue.queue import Entry, Queue
from nimble_quake.session.queue.stored import DONE, FAILED, INCOMPLETE, RUNNING, WAITING, Status, put, take, wish_of
from nimble_quake.session.verbs.tracking import look_beside
from nimble_quake.shotfile.names import name_of_text

LOW_PRIORITY = 10
"""Added to the process's niceness: whoever works at the machine comes first."""
SAID_EVERY = 0.25
"""Seconds between two looks at what is wished, and two words on how far it is."""


def run_queue(queue: Queue, notify: Callable[[str], None] = lambda line: None) -> int:
    """Render all orders that wait, those too that come meanwhile. Returns how many ended well."""
    good = 0
    with queue.lock() as locked:
        if not locked:
            notify("another process renders the queue")
            return 0
        while True:
            queue.remove_cancelled()
            entry = queue.next()
            if entry is None:
                return good
            status = _Worker(queue, entry).run()
            if status.state == WAITING:
                continue
            good += status.state == DONE
            line = said(entry, status)
            notify(line)
            tell_desktop(line)


def lower_priority() -> None:
    """Give way to everything else on the machine."""
    with contextlib.suppress(OSError):
        os.nice(LOW_PRIORITY)


def said(entry: Entry, status: Status) -> str:
    """Return what is told at an order's end, in one line."""
    name = entry.order.file.name
    if status.state == DONE:
        notes = f"; {len(status.problems)} notes: {status.problems[0]}" if status.problems else ""
        return f"{name} is rendered{notes}"
    if status.state == INCOMPLETE:
        frame, why = next(iter(sorted(status.failures.items())))
        count = len(status.failures)
        return f"{name}: {count} frame{'s' * (count > 1)} failed, frame {frame}: {why}"
    return f"{name} failed: {status.line}"


def tell_desktop(line: str) -> None:
    """Show a message on the desktop, where there is one that shows messages."""
    program = shutil.which("notify-send")
    if program is not None:
        with contextlib.suppress(OSError, subprocess.TimeoutExpired):
            words = [program, "--app-name=Nimble Quake", "Nimble Quake", line]
            subprocess.run(words, timeout=10, check=False, capture_output=True)


class _Worker:
    """Renders one order, and looks now and then at what is wished of it."""

    def __init__(self, queue: Queue, entry: Entry) -> None:
        self._queue, self._entry = queue, entry
        self._status = Status(RUNNING, answered=entry.wish.again)
        self._looked, self._stop = 0.0, False

    def run(self) -> Status:
        """Render; returns how it ended, waiting where it was stopped."""
        entry, again = self._entry, self._entry.wish.again
        self._keep(self._status)
        try:
            found = self._rendered()
        except Cancelled:
            return self._keep(Status(WAITING, self._status.done, answered=again))
        except NimbleQuakeError as wrong:
            return self._keep(Status(FAILED, self._status.done, line=wrong.line(), answered=again))
        except Exception as wrong:  # the queue goes on with the next one
            line = f"something went wrong in Nimble Quake itself ({type(wrong).__name__}: {wrong})"
            return self._keep(Status(FAILED, self._status.done, line=line, answered=again))
        problems = tuple(problem.line() for problem in found.problems)
        files = tuple(str(file) for file in found.files)
        state, done = (INCOMPLETE if found.failures else DONE), entry.order.count - len(found.failures)
        return self._keep(Status(state, done, 0.0, "", found.failures, problems, files, again))

    def _rendered(self) -> Rendered:
        entry = self._entry
        engine = Engine()
        look_beside(engine, Path(name_of_text(entry.order.home)) if entry.order.home else None)
        stamps: tuple[Stamp, ...] = tuple((name_of_text(path), at, size) for path, at, size in entry.order.stamps)
        rendered = partial(render_on, entry.order.order(), engine, entry.parts, stamps, self._progress, self._stopped)
        others = take(entry.folder / "machines.json", Where)
        if others is None:
            return rendered()
        from nimble_quake.farm.connecting import connected  # an extra, and slow to import

        with connected(others, engine) as farm:
            return rendered(by=farm)

    def _keep(self, status: Status) -> Status:
        self._status = status
        with contextlib.suppress(SaveFailed):  # a full disk must not end the queue; it is said again soon
            put(self._entry.folder / "status.json", status, flush=status.state != RUNNING)
        return status

    def _progress(self, now: Progress) -> None:
        left = None if now.left == float("inf") else now.left
        self._status = Status(RUNNING, now.done, left, answered=self._entry.wish.again)
        self._look()

    def _stopped(self) -> bool:
        self._look()
        return self._stop

    def _look(self) -> None:
        if time.monotonic() - self._looked < SAID_EVERY:
            return
        self._looked = time.monotonic()
        wish = wish_of(self._entry.folder)
        self._stop = wish is None or wish.paused or wish.cancelled or self._queue.paused
        self._keep(self._status)
