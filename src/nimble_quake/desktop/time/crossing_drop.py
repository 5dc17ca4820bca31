"""A crossing dragged from its board onto the time strip: the cut nearest to the mouse is marked, and takes it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QMimeData, QObject, QPointF, QRect, Qt
from PyQt6.QtGui import QDragMoveEvent, QDropEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.view import TimeView
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.crossings import laying, meetings
from nimble_quake.session.starting.finding import find_starter
from nimble_quake.shot.crossings import span_of
from nimble_quake.shot.paths import id_of, kind_of, node_path, plate_path

MIME = "application/x-nimble-quake-crossing"
"""What is dragged: the name of a starter."""
LEAST = 24
"""Pixels: a mark is no narrower."""


def packed(name: str) -> QMimeData:
    """Return what is dragged for a crossing's starter."""
    data = QMimeData()
    data.setData(MIME, name.encode())
    return data


class CrossingDrop(QObject):
    """Takes crossings that are dropped on the lanes."""

    def __init__(self, lanes: TimeView) -> None:
        super().__init__(lanes)
        self._lanes, self._mark = lanes, _Mark(lanes)
        lanes.setAcceptDrops(True)
        lanes.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Files are left to the window."""
        if isinstance(event, QDropEvent):
            data = event.mimeData()
            if data is None or not data.hasFormat(MIME):
                event.ignore()
                return True
            pair = self._pair(event.position())
            if not any(pair):
                self._mark.hide()
                event.ignore()
            elif isinstance(event, QDragMoveEvent):
                self._show(pair)
                event.acceptProposedAction()
            else:
                self._mark.hide()
                event.acceptProposedAction()
                self._lay(bytes(data.data(MIME).data()).decode("utf-8", "replace"), pair)
            return True
        if event is not None and event.type() == QEvent.Type.DragLeave:
            self._mark.hide()
        return False

    def _pair(self, at: QPointF) -> meetings.Sides:
        """What would be crossed there: by the plate whose row it is, else any."""
        hit = self._lanes.row_at(at.y())
        path = node_path(hit[0].path) if hit is not None and not hit[0].sort else ""
        while path and kind_of(path) != "plate":
            path = path.rpartition("/")[0]
        return meetings.nearest(self._lanes.session.shot, self._lanes.frame_at(at.x()), id_of(path) if path else "")

    def _show(self, pair: meetings.Sides) -> None:
        lanes, shot = self._lanes, self._lanes.session.shot
        there = meetings.crossed_by(shot).get(pair)
        _, start, end = meetings.meeting(shot, pair, meetings.SECONDS * float(shot.rate))
        start, end = span_of(there) if there is not None else (start, end)
        tops = {row.path: (top, row.height) for row, top in lanes.tops() if row.bar}
        rows = [tops[plate_path(id)] for id in pair if plate_path(id) in tops]
        if not rows:
            return
        left, wide = lanes.x_of(start), max(LEAST, (end - start) * lanes.zoom)
        top, bottom = min(top for top, _ in rows), max(top + tall for top, tall in rows)
        names = [lanes.session.name_of(plate_path(id)) if id else "" for id in pair]
        words = " → ".join(names) if all(names) else f"{names[1]} arrives" if names[1] else f"{names[0]} leaves"
        self._mark.show_at(QRect(round(left), round(top), round(wide), round(bottom - top)), words)

    def _lay(self, name: str, pair: meetings.Sides) -> None:
        session = self._lanes.session
        try:
            starter = find_starter(name)
            laying.lay_crossing(session, starter.shot, starter.title, pair)
        except NimbleQuakeError as wrong:
            session.message.emit(wrong.line())


class _Mark(QWidget):
    """Where the crossing would lie, and between what."""

    def __init__(self, lanes: QWidget) -> None:
        super().__init__(lanes)
        self._words = ""
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hide()

    def show_at(self, place: QRect, words: str) -> None:
        self._words = words
        self.setGeometry(place)
        self.setAccessibleName(words)
        self.show()
        self.raise_()
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), colour("lagoon", 90))
        painter.setPen(QPen(colour("lagoon"), 2))
        painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.setFont(font(12, strong=True))
        words = painter.boundingRect(self.rect(), int(Qt.AlignmentFlag.AlignCenter), self._words).adjusted(-6, -2, 6, 2)
        painter.fillRect(words, colour("well"))
        painter.setPen(colour("text"))
        painter.drawText(words, int(Qt.AlignmentFlag.AlignCenter), self._words)
