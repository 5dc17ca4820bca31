"""Needles: small lines on the map that show where each place pushes the picture, and how far."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from nimble_quake.conventions import Warp
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.render.shown.request import BenchResponse

APART = 26
"""Widget pixels between needles."""


def paint_needles(painter: QPainter, viewer: Viewer, response: BenchResponse) -> None:
    """Draw the needles of a response: of the selected quake, or of all the plate's effects together."""
    if response.needles is None or response.needles_on is None or not response.needles.size:
        return
    moves, grid, zoom = -response.needles, response.needles_on, viewer.zoom()
    step = max(1, round(APART / zoom * grid.scale))
    larger = exaggeration(moves, zoom)
    lines, heads = [], []
    for row in range(step // 2, moves.shape[1], step):
        for column in range(step // 2, moves.shape[2], step):
            at = viewer.to_widget((column + 0.5) / grid.scale, (row + 0.5) / grid.scale)
            dx, dy = float(moves[0, row, column]) * zoom * larger, float(moves[1, row, column]) * zoom * larger
            far = math.hypot(dx, dy)
            if far > APART * 1.6:
                dx, dy = dx / far * APART * 1.6, dy / far * APART * 1.6
            lines.append(QLineF(at, QPointF(at.x() + dx, at.y() + dy)))
            heads.append(at)
    if not lines:
        return
    for pen in (QPen(colour("well"), 3), QPen(colour("ember"), 1.4)):
        painter.setPen(pen)
        painter.drawLines(lines[0], *lines[1:])
    painter.setPen(QPen(colour("ember"), 3))
    painter.drawPoints(QPolygonF(heads))
    if larger != 1.0:
        viewer.paint_tag(painter, QPointF(8, 8), f"needles × {larger:g}")


def exaggeration(moves: Warp, zoom: float) -> float:
    """Return how many times longer needles are drawn so that small pushes can be seen: 1, 2, 5, 10, 20 or 50."""
    longest = float(np.abs(moves).max()) * zoom if moves.size else 0.0
    return next((k for k in (1.0, 2.0, 5.0, 10.0, 20.0) if longest * k >= APART * 0.7), 50.0 if longest > 0 else 1.0)


def paint_ways(painter: QPainter, viewer: Viewer, white: tuple[float, float]) -> None:
    """Paint two small signs: which way white pushes the picture, and which way black."""
    x, y = viewer.width() - 8.0, 8.0
    for (dx, dy), fill in ((white, "#f4f4f4"), ((-white[0], -white[1]), "#101010")):
        rect = QRectF(x - 40, y, 40, 18)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(18, 18, 18, 224))
        painter.drawRoundedRect(rect, 3, 3)
        middle = QPointF(rect.right() - 13, rect.center().y())
        painter.setPen(QPen(colour("rail"), 1))
        painter.setBrush(QColor(fill))
        painter.drawRect(QRectF(rect.left() + 5, rect.center().y() - 4.5, 9, 9))
        painter.setPen(QPen(colour("ember"), 1.6))
        _arrow(painter, middle, dx, dy)
        y += 21


def _arrow(painter: QPainter, at: QPointF, dx: float, dy: float) -> None:
    """A small arrow about a place; a dot where there is no way."""
    if (dx, dy) == (0, 0):
        painter.drawEllipse(at, 1.5, 1.5)
        return
    tip, tail = QPointF(at.x() + dx * 7, at.y() + dy * 7), QPointF(at.x() - dx * 7, at.y() - dy * 7)
    painter.drawLine(tail, tip)
    for side in (1, -1):
        painter.drawLine(tip, QPointF(tip.x() - dx * 4 + dy * 3.5 * side, tip.y() - dy * 4 - dx * 3.5 * side))
