"""A row of choices of which one is chosen."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from nimble_quake.desktop.access.bases import SpokenChoice
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour, ink_on
from nimble_quake.desktop.widgets.painting import painted


class Segments(SpokenChoice):
    """Named choices side by side; the chosen one is filled with the region's colour."""

    chosen = pyqtSignal(str)

    def __init__(
        self,
        items: Sequence[tuple[str, str]],
        region: str,
        name: str,
        parent: QWidget | None = None,
        *,
        boxed: bool = True,
    ) -> None:
        super().__init__(parent)
        self.items, self.region, self._boxed = list(items), region, boxed
        self.value = self.items[0][0]
        self._motion = "still"
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        wide = QSizePolicy.Policy.Expanding if boxed else QSizePolicy.Policy.Fixed
        self.setSizePolicy(wide, QSizePolicy.Policy.Fixed)
        self.say_choice(self.items[0][1])

    def widths(self) -> list[float]:
        metrics = QFontMetrics(font())
        own = [metrics.horizontalAdvance(label) + (8 if self._boxed else 14) for _, label in self.items]
        if not self._boxed:
            return [float(width) for width in own]
        spare = max(0.0, self.width() - sum(own))
        return [width + spare / len(own) for width in own]

    def sizeHint(self) -> QSize:
        metrics = QFontMetrics(font())
        gap = 8 if self._boxed else 14
        return QSize(sum(metrics.horizontalAdvance(label) + gap for _, label in self.items), 20 if self._boxed else 22)

    def minimumSizeHint(self) -> QSize:
        return QSize(60, 20) if self._boxed else self.sizeHint()

    def show_value(self, value: str) -> None:
        """Show a choice; does not count as choosing."""
        if value != self.value:
            self.value = value
            self.update()
        self.setAccessibleDescription(dict(self.items).get(value, value))
        self.say_choice(dict(self.items).get(value, value))

    def word(self, words: dict[str, str]) -> None:
        """Give choices other words."""
        self.items = [(value, words.get(value, label)) for value, label in self.items]
        self.updateGeometry()
        self.update()

    def show_motion(self, motion: str) -> None:
        """Show whether the choice moves: a zigzag runs along its foot then, with a dot where a pin stands."""
        if motion != self._motion:
            self._motion = motion
            self.update()

    def _choose(self, index: int) -> None:
        value = self.items[index % len(self.items)][0]
        if value != self.value:
            self.show_value(value)
            self.chosen.emit(value)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = event.position().x()
        for index, width in enumerate(self.widths()):
            if x < width:
                self._choose(index)
                return
            x -= width

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        index = [value for value, _ in self.items].index(self.value) if self.value in dict(self.items) else 0
        if event.key() in (Qt.Key.Key_Right, Qt.Key.Key_Down):
            self._choose(index + 1)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Up):
            self._choose(index - 1)
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font())
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        if self._boxed:
            painter.setBrush(colour("raised"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(box, 3, 3)
        x, height = 0.0, float(self.height())
        for number, ((value, label), width) in enumerate(zip(self.items, self.widths(), strict=True)):
            rect = QRectF(x, 0, width, height)
            on = value == self.value
            if on:
                painter.setBrush(colour(self.region))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.drawRoundedRect(rect, 3, 3)
            elif number and self.items[number - 1][0] != self.value:
                painter.setPen(QPen(colour("line"), 1))
                painter.drawLine(int(x), 5, int(x), int(height) - 6)
            painter.setPen(ink_on(self.region) if on else colour("text" if self.isEnabled() else "dim"))
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), label)
            x += width
        if self._motion != "still":
            self._paint_motion(painter)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk"), 1))
            painter.drawRoundedRect(box, 3, 3)

    def _paint_motion(self, painter: QPainter) -> None:
        foot = self.height() - 2.5
        teeth = [QPointF(4 + 4 * n, foot + (1.5 if n % 2 else -1.5)) for n in range((self.width() - 16) // 4)]
        for pen in (QPen(colour("well"), 2.5), QPen(colour("chalk"), 1.1)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF(teeth))
        if self._motion == "pinned":
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("chalk"))
            painter.drawEllipse(QPointF(self.width() - 6.0, foot - 1), 2.5, 2.5)
