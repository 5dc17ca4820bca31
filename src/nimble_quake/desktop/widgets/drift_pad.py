"""The drift pad: the dot's distance from the middle is a speed, its bearing a direction."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.slide_field import paint_tremor
from nimble_quake.params.kinds import Velocity

WAYS = ("right", "right down", "down", "left down", "left", "left up", "up", "right up")


def bearing_word(x: float, y: float) -> str:
    """Return the direction of a velocity in words."""
    return WAYS[round(math.degrees(math.atan2(y, x)) / 45) % 8]


class DriftPad(SpokenPicture):
    """A square pad; the middle is still, the border the usual fastest. Double-click stops it."""

    began = pyqtSignal()
    changing = pyqtSignal(tuple)
    ended = pyqtSignal()
    mark_clicked = pyqtSignal()

    def __init__(self, param: Velocity, region: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.param, self._region = param, region
        self.value, self._motion = (0.0, 0.0), "still"
        self.setFixedSize(64, 64)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(param.label)
        self.setToolTip(f"{param.help} (px/s). Double-click stops it; arrow keys nudge it.")
        self.setCursor(Qt.CursorShape.CrossCursor)

    def sizeHint(self) -> QSize:
        return QSize(64, 64)

    def show_value(self, value: tuple[float, float], motion: str) -> None:
        """Show a velocity in px/s."""
        self.value, self._motion = value, motion
        self.setAccessibleDescription(f"{math.hypot(*value):.0f} px/s {bearing_word(*value)}")
        self.update()

    def _radius(self) -> float:
        return self.width() / 2 - 4

    def _set_from(self, event: QMouseEvent) -> None:
        way = event.position() - QRectF(self.rect()).center()
        far = math.hypot(way.x(), way.y())
        fraction = max(0.0, far - 2) / self._radius()
        # Slow speeds get more room: the speed grows with the square of the distance.
        speed = fraction * fraction * self.param.usual
        angle = math.atan2(way.y(), way.x())
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            angle = round(angle / (math.pi / 4)) * (math.pi / 4)
        x, y = round(math.cos(angle) * speed, 1), round(math.sin(angle) * speed, 1)
        self.changing.emit((x + 0.0, y + 0.0))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if event.position().x() < 16 and event.position().y() < 16:
            self.mark_clicked.emit()
            return
        self.began.emit()
        self._set_from(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._set_from(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.began.emit()
        self.changing.emit((0.0, 0.0))
        self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        ways = {Qt.Key.Key_Up: (0, -5), Qt.Key.Key_Down: (0, 5), Qt.Key.Key_Left: (-5, 0), Qt.Key.Key_Right: (5, 0)}
        if event is None or event.key() not in ways:
            super().keyPressEvent(event)
            return
        dx, dy = ways[Qt.Key(event.key())]
        self.began.emit()
        self.changing.emit((self.value[0] + dx, self.value[1] + dy))
        self.ended.emit()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setBrush(colour("plot"))
        painter.setPen(colour("chalk") if self.hasFocus() else colour("line"))
        painter.drawRoundedRect(box, 3, 3)
        middle, radius = box.center(), self._radius()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour("line"), 1))
        for fraction in (0.5, 1.0):
            painter.drawEllipse(middle, radius * fraction, radius * fraction)
        speed = math.hypot(*self.value)
        tip = middle
        if speed > 0:
            far = radius * min(1.0, math.sqrt(speed / self.param.usual)) + 2
            tip = QPointF(middle.x() + self.value[0] / speed * far, middle.y() + self.value[1] / speed * far)
        painter.setPen(QPen(colour(self._region), 2))
        painter.drawLine(middle, tip)
        painter.setBrush(colour(self._region))
        painter.drawEllipse(tip, 3.4, 3.4)
        paint_tremor(painter, QPointF(9, 9), self._motion, colour(self._region))
