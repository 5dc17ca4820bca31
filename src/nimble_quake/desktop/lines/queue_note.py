"""The render queue in the status line: what is rendered, how far it is, and how many wait. A click opens it."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QToolButton, QWidget

from nimble_quake.session.queue.queue import Entry, Queue
from nimble_quake.session.queue.running import said
from nimble_quake.session.queue.stored import RUNNING
from nimble_quake.session.signal import Signal
from nimble_quake.session.work import duration

LOOKED_EVERY = 1000
"""Milliseconds."""
STARTED_EVERY = 30.0
"""Seconds before orders that wait with nobody to render them, because that process was killed, are taken up again."""


class QueueNote(QToolButton):
    """Hidden while there is nothing to say. An order that ends is told once."""

    def __init__(self, queue: Queue, show: Callable[[], object], notify: Signal, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._queue, self._notify = queue, notify
        self._unfinished: set[str] = set()
        self._idle_since = time.monotonic()
        self.setProperty("bare", "true")
        self.setFixedHeight(20)
        self.setAccessibleName("Render queue")
        self.setToolTip("Open the render queue")
        self.clicked.connect(lambda: show())
        self.hide()
        self._look = QTimer(self)
        self._look.setInterval(LOOKED_EVERY)
        self._look.timeout.connect(self.look)
        self._look.start()

    def look(self) -> None:
        """Show the queue as it is."""
        entries = self._queue.entries()
        for entry in entries:
            if entry.finished and entry.id in self._unfinished:
                self._notify.emit(said(entry, entry.status))
        self._unfinished = {entry.id for entry in entries if not entry.finished}
        waiting = [entry for entry in entries if not entry.finished]
        self.setVisible(bool(waiting))
        if not waiting or self._queue.at_work():
            self._idle_since = time.monotonic()
        elif time.monotonic() - self._idle_since > STARTED_EVERY:
            self._idle_since = time.monotonic()
            self._queue.start()
        if waiting:
            self.setText(note(waiting, paused=self._queue.paused))


def note(entries: list[Entry], *, paused: bool) -> str:
    """Return what is said of orders that are not finished."""
    running = next((entry for entry in entries if entry.state == RUNNING), None)
    others = len(entries) - (running is not None)
    more = f"{others} wait{'s' * (others == 1)}" if others else ""
    if running is None:
        return f"Queue: {more}{', paused' if paused or all(entry.wish.paused for entry in entries) else ''}"
    fraction, left = running.status.done / max(1, running.order.count), running.status.left
    time = f", {duration(left)} left" if left is not None else ""
    return f"{running.order.file.name} {fraction:.0%}{time}{', ' if more else ''}{more}"
