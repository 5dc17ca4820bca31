"""Picking a value to follow: the next click on any value, in a panel or in the time strip, names it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QEvent, QObject, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

FOLLOW = "Click on the value to follow, in a panel or in the time strip. Escape leaves all as it is"


def value_under(widget: QWidget | None, at: QPointF) -> str:
    """Return the path of the value a widget shows at a place of its own; empty for none."""
    inner: Any = widget
    there = widget.mapToGlobal(at) if widget is not None else at
    while inner is not None:
        asked = getattr(inner, "value_at_place", None)
        path = asked(inner.mapFromGlobal(there)) if asked is not None else getattr(inner, "path", "")
        if (isinstance(path, str) and path and getattr(inner, "param", None) is not None) or (asked and path):
            return str(path)
        inner = inner.parentWidget()
    return ""


class Picking(QObject):
    """Waits for one click. Escape, or a click on what is no value, ends it without one."""

    def __init__(
        self,
        window: QWidget,
        taken: Callable[[str], None],
        notify: Callable[[str], None],
        said: str = FOLLOW,
        so_far: str = "",
    ) -> None:
        """said: at its beginning. so_far: what was picked before, said at its end; else nothing was."""
        super().__init__(window)
        self._taken, self._notify, self._so_far = taken, notify, so_far
        notify(said)
        QApplication.setOverrideCursor(Qt.CursorShape.CrossCursor)
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Escape:
            self._end("", self._so_far or "Nothing was picked")
            return True
        pressed = isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseButtonPress
        if not pressed or not isinstance(watched, QWidget):
            return False
        assert isinstance(event, QMouseEvent)
        path = value_under(watched, event.position())
        self._end(path, "" if path else f"That is no value. {self._so_far or 'Nothing was picked'}")
        return True

    def _end(self, path: str, said: str) -> None:
        app = QApplication.instance()
        assert app is not None
        app.removeEventFilter(self)
        QApplication.restoreOverrideCursor()
        if said:
            self._notify(said)
        if path:
            self._taken(path)
        self.deleteLater()
