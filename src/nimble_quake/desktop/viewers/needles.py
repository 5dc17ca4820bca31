"""Needles: small lines on the map that show where each place pushes the picture, and how far."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from nimble_quake.conventions import Warp
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.render.shown.bench import BenchResponse

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
