"""Points of an outline, set one after the other by clicks in the picture."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QApplication

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.params.kinds import MAX_POINTS

SAID = "Click the points one after the other. Return or a click on the first one closes, Backspace takes one back"
CLOSE = 9.0
"""Screen pixels: a click so near to the first point closes the outline."""
LEAST = 3
ENDS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
KEYS = (*ENDS, Qt.Key.Key_Backspace, Qt.Key.Key_Escape)

Points = list[tuple[float, float]]


class Tracing(QObject):
    """While it is `on`, clicks in the viewer set points. Nothing is changed before the outline is closed."""

    def __init__(self, viewer: Viewer, notify: Callable[[str], None]) -> None:
        super().__init__(viewer)
        self.viewer, self._notify = viewer, notify
        self.points: Points = []
        self._done: Callable[[Points], None] | None = None
        self._pointer: QPointF | None = None
        viewer.grips.insert(0, self.take)
        viewer.overlays.append(self.paint)

    @property
    def on(self) -> bool:
        """Whether points are being set."""
        return self._done is not None

    def begin(self, done: Callable[[Points], None]) -> None:
        """Let clicks set points; `done` is given them once the outline is closed."""
        self.end()
        self._done = done
        self.viewer.setCursor(Qt.CursorShape.CrossCursor)
        self.viewer.setFocus()
        app = QApplication.instance()
        assert app is not None
        app.installEventFilter(self)
        self._notify(SAID)

    def end(self) -> None:
        """Set no more points, and forget those that were set."""
        app = QApplication.instance()
        if self.on and app is not None:
            app.removeEventFilter(self)
            self.viewer.unsetCursor()
        self._done, self.points, self._pointer = None, [], None
        self.viewer.update()

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer; True where it took it."""
        if not self.on:
            return False
        if what == "press":
            self._press(place)
        self._pointer = place
        self.viewer.update()
        return True

    def _press(self, place: QPointF) -> None:
        if self.points:
            way = QPointF(*self.points[0]) - place
            if math.hypot(way.x(), way.y()) * self.viewer.zoom() <= CLOSE:
                self._close()
                return
        if len(self.points) < MAX_POINTS:
            self.points.append((round(place.x(), 1), round(place.y(), 1)))
            count = len(self.points)
            self._notify(f"{count} {'point' if count == 1 else 'points'}. {SAID}")

    def _close(self) -> None:
        if len(self.points) < LEAST:
            self._notify(f"An outline has {LEAST} points at least. {SAID}")
            return
        done, points = self._done, self.points
        self.end()
        if done is not None:
            self._notify(f"Closed with {len(points)} points")
            done(points)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Take the keys that belong to it, before a shortcut does."""
        if not isinstance(event, QKeyEvent) or event.key() not in KEYS or not self.viewer.hasFocus():
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        if event.type() == QEvent.Type.KeyPress and watched is self.viewer:
            self._key(Qt.Key(event.key()))
            return True
        return False

    def _key(self, key: Qt.Key) -> None:
        if key in ENDS:
            self._close()
        elif key == Qt.Key.Key_Backspace:
            self.points = self.points[:-1]
            self.viewer.update()
        else:
            self.end()
            self._notify("Nothing was drawn")

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the points and the line through them, on to the pointer."""
        if not self.on or not self.points:
            return
        places = [viewer.to_widget(x, y) for x, y in self.points]
        pointer = [] if self._pointer is None else [viewer.to_widget(self._pointer.x(), self._pointer.y())]
        for pen in (QPen(colour("well"), 3), QPen(colour("brass"), 1.4)):
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF(places + pointer))
        painter.setPen(QPen(colour("well"), 1))
        for number, at in enumerate(places):
            half = 5 if number == 0 else 3
            painter.setBrush(colour("chalk" if number == 0 else "brass"))
            painter.drawRect(QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half))
