"""The shot's maps as tabs with live pictures."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import QSizePolicy

from nimble_quake.desktop.access.bases import SpokenList
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.typed_entry import TypedEntry

THUMB = QSize(32, 18)
BADGE = 22
"""Room for the number of quakes that read a map."""


class MapTabs(SpokenList):
    """One tab a map; the selected one is underlined. Left and right choose, a double-click or F2 renames."""

    chosen = pyqtSignal(str)
    menu_asked = pyqtSignal(str, object)
    renamed = pyqtSignal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.items: list[tuple[str, str]] = []
        self.selected = ""
        self.thumbs: dict[str, QImage] = {}
        self.readers: dict[str, int] = {}
        """How many quakes read a map, by its path."""
        self.setFixedHeight(28)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Maps")
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._ask)

    def show_items(self, items: list[tuple[str, str]], selected: str, readers: dict[str, int]) -> None:
        """Show maps as (path, name); those that several quakes read say by how many."""
        self.items, self.selected = items, selected
        self.readers = {path: count for path, count in readers.items() if count > 1}
        self.setAccessibleDescription(dict(items).get(selected, ""))
        paths = [path for path, _ in items]
        self.say_items([self._tip(*item) for item in items], paths.index(selected) if selected in paths else -1)
        self.setToolTip("\n".join(self._tip(path, name) for path, name in items))
        self.update()

    def _tip(self, path: str, name: str) -> str:
        return f"{name}: used by {self.readers[path]} quakes" if path in self.readers else name

    def boxes(self) -> list[tuple[str, str, QRectF]]:
        metrics = QFontMetricsF(font())
        wanted = [
            THUMB.width() + 20 + metrics.horizontalAdvance(name) + BADGE * (path in self.readers)
            for path, name in self.items
        ]
        if sum(wanted) > self.width():  # the selected one can be read, the others share what is left
            own = [
                min(w, self.width() / 2) if path == self.selected else 0.0
                for w, (path, _) in zip(wanted, self.items, strict=True)
            ]
            spare = max((self.width() - sum(own)) / max(1, len(wanted) - 1), THUMB.width() + 12.0)
            wanted = [kept or min(w, spare) for w, kept in zip(wanted, own, strict=True)]
        boxes, x = [], 0.0
        for (path, name), wide in zip(self.items, wanted, strict=True):
            boxes.append((path, name, QRectF(x, 0, wide, self.height())))
            x += wide + 2
        return boxes

    def _at(self, x: float) -> str:
        return next((path for path, _, box in self.boxes() if box.left() <= x < box.right()), "")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and self._at(event.position().x()):
            self.chosen.emit(self._at(event.position().x()))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event and self._at(event.position().x()):
            self.rename(self._at(event.position().x()))

    def rename(self, path: str) -> None:
        """Let a map's name be typed on its tab."""
        name, box = next(((name, box) for own, name, box in self.boxes() if own == path), ("", QRectF()))
        if box.isEmpty():
            return
        entry = TypedEntry(self, name, lambda text: self._renamed(path, text))
        entry.setAccessibleName("New name")
        left = min(box.left(), max(0.0, self.width() - 140.0))
        entry.setGeometry(round(left), 3, max(140, round(box.width())), self.height() - 6)
        entry.open()

    def _renamed(self, path: str, text: str) -> str:
        if text.strip():
            self.renamed.emit(path, text.strip())
        return ""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        paths = [path for path, _ in self.items]
        if event and self.selected in paths and event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self.chosen.emit(paths[(paths.index(self.selected) + step) % len(paths)])
        elif event and self.selected in paths and event.key() == Qt.Key.Key_F2:
            self.rename(self.selected)
        else:
            super().keyPressEvent(event)

    def _ask(self, at: QPoint) -> None:
        path = self._at(float(at.x()))
        if path:
            self.menu_asked.emit(path, self.mapToGlobal(at))

    @staticmethod
    def _paint_badge(painter: QPainter, rect: QRectF, count: int) -> None:
        pen = painter.pen()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("brass"))
        painter.drawEllipse(rect.center(), 8.0, 8.0)
        painter.setPen(colour("ink"))
        painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), str(count))
        painter.setPen(pen)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setFont(font())
        for path, name, box in self.boxes():
            on = path == self.selected
            if on:
                painter.fillRect(box.adjusted(0, 3, 0, -3), colour("brass", 50))
                painter.fillRect(QRectF(box.left(), box.bottom() - 4, box.width(), 2), colour("brass"))
            rect = QRectF(box.left() + 5, (box.height() - THUMB.height()) / 2, THUMB.width(), THUMB.height())
            painter.fillRect(rect, colour("well"))
            if path in self.thumbs:
                painter.drawImage(rect, self.thumbs[path])
            painter.setPen(colour("text" if on else "quiet"))
            badge = BADGE if path in self.readers else 0
            room = QRectF(rect.right() + 7, 0, box.right() - rect.right() - 9 - badge, box.height())
            if badge:
                self._paint_badge(painter, QRectF(box.right() - badge, 6, badge - 4, 16), self.readers[path])
            text = QFontMetricsF(font()).elidedText(name, Qt.TextElideMode.ElideRight, room.width())
            painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter), text)
        if self.hasFocus():
            painter.setPen(colour("chalk"))
            painter.drawRect(self.rect().adjusted(0, 2, -1, -3))
