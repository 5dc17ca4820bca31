"""An ease as a curve in a box, with its two handles to be dragged."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen

from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.motion.kinds import EASE_IN_OUT, Ease

LOW, HIGH = -0.5, 1.5
"""What the plot shows of the way in value: as much overshoot on either side."""
STEP, WIDE_STEP = 0.01, 0.1
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class EasePlot(SpokenPicture):
    """Time goes right, the value up. Arrow keys move the handle in hand, Space takes the other one."""

    began = pyqtSignal()
    changing = pyqtSignal(tuple)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.ease: Ease = EASE_IN_OUT
        self.grabbed = 0
        """The handle in hand: 0 that of the start, 1 that of the end."""
        self._drag = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Ease curve")
        self.setToolTip("Drag the two handles. Arrow keys move one by 0.01, with Shift by 0.1; Space takes the other")

    def sizeHint(self) -> QSize:
        return QSize(210, 210)

    def show_ease(self, ease: Ease) -> None:
        """Show an ease; does not count as a change."""
        self.ease = ease
        self.update()

    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(10, 6, -10, -6)

    def at(self, x: float, y: float) -> QPointF:
        """Return where a share of the way in time and in value is drawn."""
        room = self._room()
        return QPointF(room.left() + x * room.width(), room.bottom() - (y - LOW) / (HIGH - LOW) * room.height())

    def handle(self, number: int) -> QPointF:
        """Return where a handle is drawn; one that lies beyond the plot stands at its border."""
        at = self.at(*self.ease[2 * number : 2 * number + 2])
        room = self._room()
        return QPointF(at.x(), min(max(at.y(), room.top()), room.bottom()))

    def _moved(self, x: float, y: float) -> None:
        place = (round(min(max(x, 0.0), 1.0), 3), round(y, 3))
        self.ease = (*place, *self.ease[2:]) if self.grabbed == 0 else (*self.ease[:2], *place)
        self.update()
        self.changing.emit(self.ease)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        far = [(self.handle(n) - event.position()).manhattanLength() for n in (0, 1)]
        self.grabbed, self._drag = far.index(min(far)), True
        self.began.emit()
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._drag:
            return
        room, at = self._room(), event.position()
        y = LOW + (room.bottom() - at.y()) / room.height() * (HIGH - LOW)
        self._moved((at.x() - room.left()) / room.width(), min(max(y, LOW), HIGH))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag:
            self._drag = False
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        way = ARROWS.get(Qt.Key(event.key()))
        if way is not None:
            step = WIDE_STEP if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP
            x, y = self.ease[2 * self.grabbed : 2 * self.grabbed + 2]
            self.began.emit()
            self._moved(x + way[0] * step, y + way[1] * step)
            self.ended.emit()
        elif event.key() == Qt.Key.Key_Space:
            self.grabbed = 1 - self.grabbed
            self.update()
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(colour("chalk" if self.hasFocus() else "line"), 1))
        painter.setBrush(colour("plot"))
        painter.drawRoundedRect(whole, 3, 3)
        painter.setPen(QPen(colour("rail"), 1, Qt.PenStyle.DotLine))
        for y in (0.0, 1.0):
            painter.drawLine(self.at(0, y), self.at(1, y))
        curve = QPainterPath(self.at(0, 0))
        curve.cubicTo(self.at(*self.ease[:2]), self.at(*self.ease[2:]), self.at(1, 1))
        painter.setClipRect(whole)
        painter.setPen(QPen(colour("text"), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(curve)
        for number, pin in enumerate((self.at(0, 0), self.at(1, 1))):
            at = self.handle(number)
            painter.setPen(QPen(colour("chalk"), 1.2))
            painter.drawLine(pin, at)
            painter.setBrush(colour("chalk" if number == self.grabbed else "window"))
            painter.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
            painter.setBrush(colour("text"))
            painter.drawEllipse(pin, 3.4, 3.4)
