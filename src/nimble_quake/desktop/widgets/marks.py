"""Marks on a histogram."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour


def paint_marks(painter: QPainter, plot: QRectF, rest: float, mean: float, clipped: float) -> None:
    """Mark the rest level (dashed), the mean (short, from below) and the clipped share on a histogram."""
    x = plot.left() + min(max(rest, 0.0), 1.0) * plot.width()
    painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
    painter.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()))
    x = plot.left() + min(max(mean, 0.0), 1.0) * plot.width()
    painter.setPen(QPen(colour("ember"), 2))
    painter.drawLine(QPointF(x, plot.bottom() - 9), QPointF(x, plot.bottom()))
    if clipped >= 0.005:
        painter.setFont(font(10))
        painter.setPen(colour("fault_text"))
        painter.drawText(plot.adjusted(4, 1, -4, 0), int(Qt.AlignmentFlag.AlignRight), f"{clipped:.0%} clipped")
