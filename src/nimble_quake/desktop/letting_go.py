"""Escape while something is dragged: the value is as it was before, and the drag is over, whatever is dragged.

One place for all editors, handles and strips: while a gesture is under way it looks at the events of the program.
"""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication

from nimble_quake.session.state import Session


class LettingGo(QObject):
    """Takes the gesture of a session back when Escape is pressed in mid-drag."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._dragging = self._let_go = False
        session.gestured.connect(self._watch)

    def _watch(self, under_way: bool) -> None:
        app = QApplication.instance()
        if app is None:
            return
        if under_way:
            self._dragging = self._let_go = False
            app.installEventFilter(self)
        elif not self._let_go:
            app.removeEventFilter(self)

    def eventFilter(self, of: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QMouseEvent):
            return self._mouse(event)
        if not isinstance(event, QKeyEvent) or event.key() != Qt.Key.Key_Escape:
            return False
        if not self._is_drag() or QApplication.activeModalWidget() is not None:
            return False
        if event.type() == QEvent.Type.KeyPress and not self._let_go:
            self._let_go = True
            self._session.abort()
        return True

    def _mouse(self, event: QMouseEvent) -> bool:
        """What is moved after Escape, before the button is released, moves nothing."""
        if event.type() == QEvent.Type.MouseMove and event.buttons() != Qt.MouseButton.NoButton:
            self._dragging = True
            return self._let_go
        if event.type() == QEvent.Type.MouseButtonRelease:
            if self._let_go:
                app = QApplication.instance()
                if app is not None:
                    app.removeEventFilter(self)
            self._dragging = self._let_go = False
        return False

    def _is_drag(self) -> bool:
        return self._dragging or QApplication.mouseButtons() != Qt.MouseButton.NoButton
