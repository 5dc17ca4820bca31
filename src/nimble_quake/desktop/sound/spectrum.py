"""A sound's spectrum, with the edges of a band to be dragged, and its level now."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen

from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted

LOWEST, HIGHEST = 20.0, 20_000.0
BARS = 60
FLOOR = -66.0
"""The level at the foot, dB."""
GRIP = 7.0
FOOT, METER = 14, 12
NARROWEST = 1.05


def edges() -> NDArray[np.float64]:
    """Return the frequencies between the bars, Hz: evenly spaced by ear."""
    return np.geomspace(LOWEST, HIGHEST, BARS + 1)


class Spectrum(SpokenPicture):
    """Bars by frequency; the band's are filled. Drag its edges or the whole of it; arrow keys move it."""

    began = pyqtSignal()
    changing = pyqtSignal(float, float)
    ended = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._bars = np.zeros(BARS, np.float32)
        self._low, self._high, self._level = 40.0, 120.0, 0.0
        self._drag: tuple[str, float, float, float] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(84)
        self.setAccessibleName("Spectrum, with the band's edges")
        self.setToolTip("Drag the edges of the band, or all of it; arrow keys move it, with Shift its upper edge (Hz)")

    def sizeHint(self) -> QSize:
        return QSize(270, 96)

    def show_band(self, low: float, high: float) -> None:
        """Show where the band lies, Hz."""
        self._low, self._high = low, high
        self.setAccessibleDescription(f"{low:.0f} to {high:.0f} Hz")
        self.update()

    def show_sound(self, bars: NDArray[np.float32], level: float) -> None:
        """Show what is heard now: the amplitude of each bar, and the band's level 0...1."""
        self._bars, self._level = bars, level
        self.update()

    def x_of(self, hertz: float) -> float:
        """Return the x of a frequency."""
        room = self.width() - METER - 6
        return math.log(max(hertz, LOWEST) / LOWEST) / math.log(HIGHEST / LOWEST) * room

    def hertz_at(self, x: float) -> float:
        """Return the frequency at an x."""
        room = self.width() - METER - 6
        return float(LOWEST * (HIGHEST / LOWEST) ** (min(max(x / room, 0.0), 1.0)))

    def _grip(self, x: float) -> str:
        left, right = self.x_of(self._low), self.x_of(self._high)
        if abs(x - left) < GRIP and x <= (left + right) / 2:
            return "low"
        if abs(x - right) < GRIP:
            return "high"
        return "both" if left < x < right else ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        x = event.position().x()
        grip = self._grip(x)
        self.began.emit()
        if not grip:  # a new place for the band, as wide as it is
            ratio = math.sqrt(self._high / self._low)
            middle = self.hertz_at(x)
            self._set(middle / ratio, middle * ratio)
            grip = "both"
        self._drag = (grip, x, self._low, self._high)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        x = event.position().x()
        if self._drag is None:
            shapes = {
                "low": Qt.CursorShape.SizeHorCursor,
                "high": Qt.CursorShape.SizeHorCursor,
                "both": Qt.CursorShape.OpenHandCursor,
            }
            self.setCursor(shapes.get(self._grip(x), Qt.CursorShape.ArrowCursor))
            return
        grip, start, low, high = self._drag
        times = self.hertz_at(x) / self.hertz_at(start)
        if grip == "low":
            self._set(min(low * times, high / NARROWEST), high)
        elif grip == "high":
            self._set(low, max(high * times, low * NARROWEST))
        else:
            times = min(max(times, LOWEST / low), HIGHEST / high)
            self._set(low * times, high * times)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            self._drag = None
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or event.key() not in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            super().keyPressEvent(event)
            return
        times = 2 ** ((1 if event.key() == Qt.Key.Key_Right else -1) / 12)
        upper = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.began.emit()
        low, high = (self._low, self._high * times) if upper else (self._low * times, self._high * times)
        self._set(low, max(high, low * NARROWEST))
        self.ended.emit()

    def _set(self, low: float, high: float) -> None:
        low, high = (float(round(min(max(n, LOWEST), HIGHEST), 1)) for n in (low, high))
        self.show_band(low, high)
        self.changing.emit(low, high)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        room, tall = self.width() - METER - 6, self.height() - FOOT
        painter.fillRect(QRectF(0, 0, room, tall), colour("plot"))
        left, right = self.x_of(self._low), self.x_of(self._high)
        painter.fillRect(QRectF(left, 0, right - left, tall), colour("brass", 46))
        wide, bounds = room / BARS, edges()
        for number, amplitude in enumerate(self._bars.tolist()):
            fraction = 1 - 20 * math.log10(max(amplitude, 1e-6)) / FLOOR
            high = max(1.0, min(1.0, max(0.0, fraction)) * (tall - 4))
            inside = bounds[number + 1] > self._low and bounds[number] < self._high
            tint = colour("brass") if inside else colour("dim")
            painter.fillRect(QRectF(number * wide + 0.5, tall - high, max(1.0, wide - 1), high), tint)
        painter.setPen(QPen(colour("brass"), 1.2))
        for x in (left, right):
            painter.drawLine(QPointF(x, 0), QPointF(x, tall))
            painter.fillRect(QRectF(x - 3, tall / 2 - 7, 6, 14), colour("brass"))
        self._paint_meter(painter, room + 6, tall)
        painter.setFont(font(10))
        painter.setPen(colour("quiet"))
        for hertz, words in ((20, "20"), (100, "100"), (500, "500"), (2000, "2k"), (8000, "8k")):
            painter.drawText(QRectF(self.x_of(hertz), tall, 40, FOOT), int(Qt.AlignmentFlag.AlignVCenter), words)
        painter.drawText(QRectF(room - 40, tall, 40, FOOT), int(Qt.AlignmentFlag.AlignRight), "Hz")
        if self.hasFocus():
            painter.setPen(QPen(colour("chalk"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, room - 1, tall - 1))

    def _paint_meter(self, painter: QPainter, x: float, tall: float) -> None:
        painter.fillRect(QRectF(x, 0, METER, tall), colour("plot"))
        high = self._level * tall
        painter.fillRect(QRectF(x, tall - high, METER, high), colour("brass"))
