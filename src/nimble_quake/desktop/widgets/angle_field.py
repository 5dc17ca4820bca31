"""An angle: a ring to turn and a slide-field to type."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.params.kinds import Number


class AngleRing(QWidget):
    """A ring with a hand; 0 points right, positive turns clockwise. Shift snaps to 15 degrees."""

    began = pyqtSignal()
    changing = pyqtSignal(float)
    ended = pyqtSignal()

    def __init__(self, region: str, size: int = 22, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._region, self.angle = region, 0.0
        self.setFixedSize(size, size)
        self.setToolTip("Turn the hand; Shift snaps to 15°")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        return self.size()

    def show_angle(self, angle: float) -> None:
        """Show an angle in degrees."""
        self.angle = angle
        self.update()

    def _turn_to(self, event: QMouseEvent) -> None:
        middle = QRectF(self.rect()).center()
        way = event.position() - middle
        angle = math.degrees(math.atan2(way.y(), way.x()))
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            angle = round(angle / 15) * 15
        whole = round((self.angle - angle) / 360) * 360
        self.changing.emit(round(angle + whole, 1))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.began.emit()
            self._turn_to(event)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._turn_to(event)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.ended.emit()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        painter.setPen(QPen(colour("rail"), 1))
        painter.setBrush(colour("plot"))
        painter.drawEllipse(box)
        middle, radius = box.center(), box.width() / 2
        turn = math.radians(self.angle)
        tip = QPointF(middle.x() + math.cos(turn) * (radius - 2), middle.y() + math.sin(turn) * (radius - 2))
        painter.setPen(QPen(colour(self._region), 2))
        painter.drawLine(middle, tip)
        painter.setBrush(colour(self._region))
        painter.drawEllipse(tip, 1.5, 1.5)


class AngleField(QWidget):
    """A ring and a slide-field for the same angle."""

    def __init__(self, param: Number, region: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ring, self.field = AngleRing(region), SlideField(param, region)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(self.ring)
        row.addWidget(self.field, 1)
        self.setFocusProxy(self.field)

    def show_value(self, value: float, motion: str) -> None:
        """Show an angle in degrees."""
        self.ring.show_angle(value)
        self.field.show_value(value, motion)
