"""The course of a value over the shot, drawn small."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.arithmetic import shown_number
from nimble_quake.desktop.widgets.painting import painted

FOOT = 16
STYLES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)


class CoursePlot(QWidget):
    """Shows lists of values over time, with the now-line, the highest and the lowest value."""

    def __init__(self, region: str) -> None:
        super().__init__()
        self.region = region
        self._lists: list[list[float]] = []
        self._bounds, self._now, self._factor, self._unit = (0.0, 1.0), 0.0, 1.0, ""
        self.setMinimumHeight(110)
        self.setAccessibleName("Its course over the shot")

    def sizeHint(self) -> QSize:
        return QSize(420, 120)

    def show_course(
        self, lists: list[list[float]], bounds: tuple[float, float], now: float, factor: float, unit: str
    ) -> None:
        """Show values over the shot. now: the share of the shot that is gone."""
        self._lists, self._bounds, self._now, self._factor, self._unit = lists, bounds, now, factor, unit
        self.update()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        rect = QRectF(0.5, 0.5, self.width() - 1, self.height() - 1)
        painter.setPen(QPen(colour("line"), 1))
        painter.setBrush(colour("plot"))
        painter.drawRoundedRect(rect, 3, 3)
        painter.setFont(font(11))
        if not self._lists:
            painter.setPen(colour("quiet"))
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), "No course to show")
            return
        low, high = self._bounds
        bounds = [f"{shown_number(value * self._factor, 1)} {self._unit}".strip() for value in (high, low)]
        left = max(QFontMetricsF(font(11)).horizontalAdvance(words) for words in bounds) + 12  # no curve runs there
        across = self.width() - 1 - left
        top, room = 6.0, self.height() - 12.0
        zero = top + room - (0 - low) / (high - low) * room
        if top < zero < top + room:
            painter.setPen(QPen(colour("rail"), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(left, zero), QPointF(self.width() - 1, zero))
        x = left + self._now * across
        painter.setPen(QPen(colour("chalk"), 1))
        painter.drawLine(QPointF(x, 1), QPointF(x, self.height() - 1))
        for number, values in enumerate(self._lists):
            step = across / max(1, len(values) - 1)
            points = [
                QPointF(left + n * step, top + room - (v - low) / (high - low) * room) for n, v in enumerate(values)
            ]
            painter.setPen(QPen(colour(self.region), 1.6, STYLES[number % 4]))
            painter.drawPolyline(QPolygonF(points))
        painter.setPen(colour("quiet"))
        for words, y, place in zip(
            bounds, (2.0, 0.0), (Qt.AlignmentFlag.AlignTop, Qt.AlignmentFlag.AlignBottom), strict=True
        ):
            painter.drawText(rect.adjusted(5, y, -5, -2), int(place | Qt.AlignmentFlag.AlignLeft), words)
