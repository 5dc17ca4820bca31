"""Needles: small lines on the map that show where each place pushes the picture, and how far."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QLineF, QPointF
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from nimble_quake.conventions import Warp
from nimble_quake.desktop.bench.viewer import Viewer
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.errors import FormulaError
from nimble_quake.operators.base import Quake
from nimble_quake.render.bench import BenchResponse
from nimble_quake.render.job import moment_of
from nimble_quake.render.resolving import resolved
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find

APART = 26
"""Widget pixels between needles."""


def quake_now(session: Session, path: str) -> Quake | None:
    """Return the quake at a path with its numbers at the playhead."""
    node, kind = find(session.shot, path) if path else None, session.operator(path) if path else None
    if not isinstance(node, Node) or kind is None or not issubclass(kind, Quake):
        return None
    try:
        return resolved(kind, node, moment_of(session.shot, session.frame), path)
    except FormulaError:
        return None


def paint_needles(painter: QPainter, viewer: Viewer, session: Session, response: BenchResponse) -> None:
    """Draw the needles of the selected quake over the map's values."""
    values, quake = response.values, quake_now(session, session.selection.quake)
    if values is None or quake is None:
        return
    step = max(1, round(APART / viewer.zoom() * response.request.map_scale))
    picked = np.ascontiguousarray(values[step // 2 :: step, step // 2 :: step])
    moves = -quake.offsets(picked, response.rest)
    lines, heads = [], []
    larger = exaggeration(moves, viewer.zoom())
    zoom = viewer.zoom()
    if not picked.size:
        return
    for row in range(picked.shape[0]):
        for column in range(picked.shape[1]):
            x, y = ((n * step + step // 2 + 0.5) / response.request.map_scale for n in (column, row))
            at = viewer.to_widget(x, y)
            dx, dy = float(moves[0, row, column]) * zoom * larger, float(moves[1, row, column]) * zoom * larger
            far = math.hypot(dx, dy)
            if far > APART * 1.6:
                dx, dy = dx / far * APART * 1.6, dy / far * APART * 1.6
            lines.append(QLineF(at, QPointF(at.x() + dx, at.y() + dy)))
            heads.append(at)
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
