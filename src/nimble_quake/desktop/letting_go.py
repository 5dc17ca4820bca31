"""Escape while something is dragged: the value is as it was before, and the drag is over, whatever is dragged.

One place for all editors, handles and strips: no one that is dragged takes Escape, so it comes to the window.
"""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent

from nimble_quake.session.state import Session


def lets_go(session: Session, event: QKeyEvent) -> bool:
    """Take the gesture under way back where Escape was pressed. Returns whether it was so.

    What is dragged on after that, before its button is released, changes nothing (`Session.let_go`).
    """
    if event.key() != Qt.Key.Key_Escape or not session.history.gesturing:
        return False
    session.let_go()
    return True
