"""The thumbnails of a board, grouped by what they look like."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QDrag, QFontMetricsF, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap

from nimble_quake.desktop.access.bases import SpokenList
from nimble_quake.desktop.boards.entries import Entry
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted

THUMB = QSize(118, 66)
CELL = QSize(128, 92)
NAMES, GAP = 92, 10
"""The width of the groups' names, and what lies between two thumbnails."""
CLEAR = 14
"""How far above the mouse a dragged picture hangs."""
FEW = 12
"""Up to so many choices are shown larger."""


class Cells(SpokenList):
    """The thumbnails, grouped by what they look like."""

    hovered = pyqtSignal(object)
    taken = pyqtSignal(object)
    asked = pyqtSignal(object, QPoint)
    """What it is was asked for, or what can be done with it: a menu is wanted there."""
    stepped = pyqtSignal()
    """A key went on to another choice."""
    carried = pyqtSignal(object)
    """It was dragged off the board, and taken there."""

    def __init__(self) -> None:
        super().__init__()
        self.entries: list[Entry] = []
        self.current: Entry | None = None
        self.empty_text = ""
        self._pressed: tuple[Entry, QPointF] | None = None
        self.images: dict[str, QImage] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Choices")

    def show_entries(self, entries: list[Entry]) -> None:
        """Show choices."""
        self.entries = entries
        keys = {entry.key: entry for entry in entries}
        self.current = keys.get(self.current.key if self.current else "", entries[0] if entries else None)
        self._say()
        self.setFixedHeight(int(max((box.bottom() for _, box, _ in self.boxes()), default=90.0)) + 10)
        self.update()

    def _say(self) -> None:
        keys = [entry.key for entry in self.entries]
        now = keys.index(self.current.key) if self.current is not None and self.current.key in keys else -1
        self.say_items([f"{entry.title}: {entry.help}" for entry in self.entries], now)

    def _times(self) -> float:
        return 1.45 if len(self.entries) <= FEW else 1.0

    def boxes(self) -> list[tuple[Entry, QRectF, str]]:
        """Return each choice with its box; the first of a group has the group's name."""
        found: list[tuple[Entry, QRectF, str]] = []
        y, group = 6.0, ""
        wide, tall = int(CELL.width() * self._times()), int(CELL.height() * self._times() - 8 * (self._times() - 1))
        column, columns = 0, max(1, int((self.width() - NAMES + GAP) // wide))
        for entry in self.entries:
            name = entry.group
            if name != group or column >= columns:
                y += tall if found else 0
                column = 0
            found.append(
                (entry, QRectF(NAMES - 4 + column * wide, y, wide - GAP, tall - 6), name if name != group else "")
            )
            group, column = name, column + 1
        return found

    def resizeEvent(self, event: object) -> None:
        self.show_entries(self.entries)

    def _at(self, event: QMouseEvent) -> Entry | None:
        return next((entry for entry, box, _ in self.boxes() if box.contains(event.position())), None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._pressed is not None and event.buttons():
            self._drag_out(event)
            return
        entry = self._at(event) if event else None
        if entry is not None and (self.current is None or entry.key != self.current.key):
            self.choose(entry)

    def choose(self, entry: Entry) -> None:
        """Make a choice the current one, and try it."""
        self.current = entry
        self.setAccessibleDescription(entry.title)
        self._say()
        self.hovered.emit(entry)
        self.update()

    def current_box(self) -> QRectF | None:
        """Return where the current choice lies."""
        current = "" if self.current is None else self.current.key
        return next((box for entry, box, _ in self.boxes() if entry.key == current), None)

    def _in_next_row(self, way: int) -> Entry:
        """The choice above (-1) or below (1) the current one; past the last row it goes on at the other end."""
        boxes, own = self.boxes(), self.current_box()
        assert own is not None
        tops = sorted({box.top() for _, box, _ in boxes})
        top = tops[(tops.index(own.top()) + way) % len(tops)]
        row = [(abs(box.left() - own.left()), n) for n, (_, box, _) in enumerate(boxes) if box.top() == top]
        return self.entries[min(row)[1]]

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        entry = self._at(event) if event else None
        if event is None or entry is None:
            return
        self.choose(entry)
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = (entry, event.position())

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """The menu of the choice under the pointer, or of the current one where a key asks."""
        if event is None or self.current is None:
            return
        box = self.current_box()
        if box is not None and (event.reason() != QContextMenuEvent.Reason.Mouse or box.contains(QPointF(event.pos()))):
            self.asked.emit(self.current, self.mapToGlobal(box.center().toPoint()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        pressed, self._pressed = self._pressed, None
        if event is not None and pressed is not None and self._at(event) is not None:
            self.taken.emit(pressed[0])

    def _drag_out(self, event: QMouseEvent) -> None:
        """Drag a crossing onto the time strip, or a recipe's file off the board, into a folder or another window."""
        assert self._pressed is not None
        entry, start = self._pressed
        if entry.carried is None or (event.position() - start).manhattanLength() < 12:
            return
        self._pressed = None
        drag = QDrag(self)
        drag.setMimeData(entry.carried())
        if entry.key in self.images:
            picture = QPixmap.fromImage(self.images[entry.key].copy())
            drag.setPixmap(picture)
            drag.setHotSpot(QPoint(picture.width() // 2, picture.height() + CLEAR))  # what it is dragged onto is seen
        if drag.exec(Qt.DropAction.CopyAction) != Qt.DropAction.IgnoreAction:
            self.carried.emit(entry)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.entries or self.current is None:
            return
        index = next(n for n, entry in enumerate(self.entries) if entry.key == self.current.key)
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        rows = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in ways:
            self.choose(self.entries[(index + ways[Qt.Key(event.key())]) % len(self.entries)])
            self.stepped.emit()
        elif event.key() in rows:
            self.choose(self._in_next_row(rows[Qt.Key(event.key())]))
            self.stepped.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit(self.current)
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if not self.entries and self.empty_text:
            painter.setFont(font())
            painter.setPen(colour("quiet"))
            painter.drawText(QRectF(20, 20, self.width() - 40, 60), int(Qt.TextFlag.TextWordWrap), self.empty_text)
        for entry, box, group in self.boxes():
            if group:
                painter.setFont(font(12, strong=True))
                painter.setPen(colour("text"))
                painter.drawText(QRectF(8, box.top() + 2, 84, 60), int(Qt.TextFlag.TextWordWrap), group)
            on = self.current is not None and entry.key == self.current.key
            if on:
                painter.fillRect(box.adjusted(-3, -3, 3, 3), colour("brass", 66))
                painter.setPen(QPen(colour("brass"), 2))
                painter.drawRect(box.adjusted(-3, -3, 3, 3))
            picture = QRectF(box.left(), box.top(), box.width(), box.width() * 9 / 16)
            painter.fillRect(picture, colour("well"))
            if entry.key in self.images:
                painter.drawImage(picture, self.images[entry.key])
            else:
                painter.setFont(font(11))
                painter.setPen(colour("quiet"))
                painter.drawText(picture, int(Qt.AlignmentFlag.AlignCenter), "being made")
            painter.setFont(font(12))
            painter.setPen(colour("text"))
            name = QFontMetricsF(font(12)).elidedText(entry.title, Qt.TextElideMode.ElideRight, box.width())
            painter.drawText(
                QRectF(box.left(), picture.bottom(), box.width(), 19), int(Qt.AlignmentFlag.AlignVCenter), name
            )
