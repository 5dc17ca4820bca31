"""What is shown beside the picture follows a drag at a pace of its own: the next picture comes first."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QApplication

from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.session.state import Session

PACE = 50
"""Milliseconds from one telling to the next while something is dragged; numbers that run faster cannot be read."""
SHOW_THEMSELVES = (SlideField, Viewer)
"""Where one drags in these, they show it without being told."""


def shows_itself() -> bool:
    """Return whether what has the focus, and so may be dragged, shows its own value."""
    return isinstance(QApplication.focusWidget(), SHOW_THEMSELVES)


def paced(
    owner: QObject,
    session: Session,
    take: Callable[[set[str]], None],
    *,
    elsewhere: Callable[[], bool] = shows_itself,
    pace: int = PACE,
) -> Callable[[set[str]], None]:
    """Return a listener for `session.changed`: `take` is told at once, but now and then while something is dragged.

    elsewhere: whether what is dragged needs nothing of `take`. pace: milliseconds. What is added or removed is told at
    once: a row that is gone must not be asked for.
    """
    waiting: set[str] = set()
    timer = QTimer(owner)
    timer.setSingleShot(True)
    timer.setInterval(pace)

    def tell() -> None:
        timer.stop()
        found = set(waiting)
        waiting.clear()
        take(found)

    def changed(found: set[str]) -> None:
        waiting.update(found)
        if session.history.gesturing and elsewhere() and found and not found & {"shape", "settings"}:
            if not timer.isActive():
                timer.start()
            return
        if waiting:
            tell()
        if not found:  # all of it may be another
            take(found)

    timer.timeout.connect(tell)
    return changed
