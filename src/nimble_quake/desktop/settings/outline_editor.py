"""Editors of outlines: a curve over values on the live histogram, and the points of a free shape."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF

from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.marks import paint_marks
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.params.kinds import MAX_POINTS
from nimble_quake.raster.geometry.curves import monotone
from nimble_quake.raster.geometry.figures import smooth_line, smooth_outline

Points = tuple[tuple[float, float], ...]
GRAB = 9.0


class OutlinePad(SpokenPicture):
    """Points to drag. A click beside them adds one; Delete or a double-click takes one away.

    As a curve (`curve`), values go across and up, 0...1, over the histogram; else the points are those of a shape in a
    box of -0.5...0.5.
    """

    began = pyqtSignal()
    changing = pyqtSignal(object)
    ended = pyqtSignal()

    def __init__(self, region: str, *, curve: bool, least: int) -> None:
        super().__init__()
        self._region, self._curve, self._least = region, curve, least
        self.points: Points = ()
        self._smooth = self._closed = True
        self.bars: list[float] = []
        self.rest, self.mean, self.clipped = 0.5, 0.5, 0.0
        self._grabbed = -1
        self._dragging = False
        self.setFixedHeight(118)
        self.setMinimumWidth(120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Curve" if curve else "Points")
        self.setToolTip(
            "Old value across, new value up. Drag points; click to add one; double-click or Delete takes one away."
            if curve
            else "Drag points, here or in the viewers; click to add one; double-click or Delete takes one away."
        )

    def sizeHint(self) -> QSize:
        return QSize(220, 118)

    def show_points(self, points: Points, *, smooth: bool = True, closed: bool = True) -> None:
        """Show points; smooth: their line runs smoothly through them, not straight from one to the next."""
        self.points, self._smooth, self._closed = points, smooth, closed
        self._grabbed = min(self._grabbed, len(points) - 1)
        self.setAccessibleDescription(f"{len(points)} points")
        self.update()

    def show_histogram(self, bars: list[float], rest: float, mean: float, clipped: float) -> None:
        """Show the histogram of the values, with rest, mean and the clipped share."""
        self.bars, self.rest, self.mean, self.clipped = bars, rest, mean, clipped
        self.update()

    def _plot(self) -> QRectF:
        return QRectF(5, 5, self.width() - 10, self.height() - 10)

    def place_of(self, point: tuple[float, float]) -> QPointF:
        plot, (x, y) = self._plot(), point
        if self._curve:
            return QPointF(plot.left() + x * plot.width(), plot.bottom() - y * plot.height())
        side = min(plot.width(), plot.height() * 2)
        return QPointF(plot.center().x() + x * side * 0.9, plot.center().y() + y * plot.height() * 0.9)

    def _point(self, at: QPointF) -> tuple[float, float]:
        plot = self._plot()
        if self._curve:
            x, y = (at.x() - plot.left()) / plot.width(), (plot.bottom() - at.y()) / plot.height()
            return round(min(max(x, 0.0), 1.0), 4), round(min(max(y, 0.0), 1.0), 4)
        side = min(plot.width(), plot.height() * 2)
        x, y = (at.x() - plot.center().x()) / side / 0.9, (at.y() - plot.center().y()) / plot.height() / 0.9
        return round(min(max(x, -0.5), 0.5), 4), round(min(max(y, -0.5), 0.5), 4)

    def _near(self, at: QPointF) -> int:
        ways = [(self.place_of(point) - at).manhattanLength() for point in self.points]
        best = min(range(len(ways)), key=ways.__getitem__, default=-1)
        return best if best >= 0 and ways[best] <= GRAB else -1

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        self._grabbed = self._near(event.position())
        self.began.emit()
        self._dragging = True
        if self._grabbed < 0 and len(self.points) < MAX_POINTS:
            self._add(self._point(event.position()))
        self.update()

    def _add(self, point: tuple[float, float]) -> None:
        points = list(self.points)
        if self._curve:
            place = sum(1 for old in points if old[0] < point[0])
        else:
            place = _nearest_edge(points, point, closed=self._closed)
        points.insert(place, point)
        self._grabbed = place
        self._send(points)

    def _send(self, points: list[tuple[float, float]]) -> None:
        self.points = tuple(points)
        self.changing.emit(self.points)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._dragging or self._grabbed < 0:
            return
        self._move(*self._point(event.position()))

    def _move(self, x: float, y: float) -> None:
        """Put the held point elsewhere, in its range; one of a curve stays between its neighbours."""
        points, low, high = list(self.points), -0.5, 0.5
        if self._curve:
            low = points[self._grabbed - 1][0] + 0.005 if self._grabbed else 0.0
            high = points[self._grabbed + 1][0] - 0.005 if self._grabbed + 1 < len(points) else 1.0
            y = min(max(y, 0.0), 1.0)
        else:
            y = min(max(y, -0.5), 0.5)
        points[self._grabbed] = (round(min(max(x, low), max(low, high)), 4), round(y, 4))
        self._send(points)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._dragging:
            self._dragging = False
            self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None:
            self._grabbed = self._near(event.position())
            self._remove()

    def _remove(self) -> None:
        if self._grabbed >= 0 and len(self.points) > self._least:
            self.began.emit()
            self._send([point for n, point in enumerate(self.points) if n != self._grabbed])
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, step = event.key(), 0.05 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        ways = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._remove()
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight) and self.points:
            self._grabbed = (self._grabbed + (1 if key == Qt.Key.Key_BracketRight else -1)) % len(self.points)
            self.update()
        elif key in ways and self._grabbed >= 0:
            dx, dy = ways[Qt.Key(key)]
            x, y = self.points[self._grabbed]
            self.began.emit()
            self._move(x + dx, y + dy * step * (1 if self._curve else -1))
            self.ended.emit()
        else:
            super().keyPressEvent(event)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        plot = self._plot()
        painter.fillRect(plot, colour("plot"))
        if self._curve:
            self._paint_values(painter, plot)
            xs = np.linspace(0, 1, 100)
            ys = monotone(list(self.points), xs) if self.points else xs
            line = [self.place_of((float(x), float(y))) for x, y in zip(xs, ys, strict=True)]
        else:
            own = np.array(self.points, np.float64).reshape(-1, 2)
            around = (smooth_outline if self._closed else smooth_line)(own) if self._smooth else own
            whole = (*around, *around[:1]) if self._closed else around
            line = [self.place_of((float(x), float(y))) for x, y in whole]
        painter.setPen(QPen(colour(self._region), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(line))
        for n, point in enumerate(self.points):
            painter.setPen(QPen(colour("chalk" if n == self._grabbed else "plot"), 1.5))
            painter.setBrush(colour(self._region))
            painter.drawEllipse(self.place_of(point), 4.5, 4.5)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour("chalk", 150), 1))
            painter.drawRect(plot.adjusted(-2, -2, 2, 2))

    def _paint_values(self, painter: QPainter, plot: QRectF) -> None:
        wide = plot.width() / max(1, len(self.bars))
        for n, fraction in enumerate(self.bars):
            tall = fraction * plot.height() * 0.6
            painter.fillRect(
                QRectF(plot.left() + n * wide, plot.bottom() - tall, wide + 0.4, tall), colour("brass", 70)
            )
        paint_marks(painter, plot, self.rest, self.mean, self.clipped)
        painter.setPen(QPen(colour("line"), 1))
        painter.drawLine(plot.bottomLeft(), plot.topRight())


def _nearest_edge(points: list[tuple[float, float]], at: tuple[float, float], *, closed: bool) -> int:
    """Where in an outline a new point belongs: after the edge it lies nearest to; an open one goes on at its ends."""
    edges = list(zip(points, (*points[1:], points[0]), strict=True))[: None if closed else -1]
    ways = [_way_to_edge(at, *edge) for edge in edges]
    nearest = min(range(len(ways)), key=ways.__getitem__, default=-1)
    if not closed and points:
        to_start, to_end = math.dist(at, points[0]), math.dist(at, points[-1])
        if min(to_start, to_end) <= (ways[nearest] + 1e-9 if ways else math.inf):
            return 0 if to_start < to_end else len(points)
    return nearest + 1


def _way_to_edge(at: tuple[float, float], start: tuple[float, float], end: tuple[float, float]) -> float:
    ex, ey = end[0] - start[0], end[1] - start[1]
    wx, wy = at[0] - start[0], at[1] - start[1]
    t = min(max((wx * ex + wy * ey) / max(ex * ex + ey * ey, 1e-9), 0.0), 1.0)
    return math.hypot(wx - ex * t, wy - ey * t)
