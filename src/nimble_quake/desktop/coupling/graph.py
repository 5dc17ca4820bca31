"""The coupling graph: map value up the side, push along the foot; the line is the reach, the dashed line the rest."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QLinearGradient, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import Quake
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects

LEAST_TALL = 48
"""Of which the lines themselves have 18 pixels."""
REST_LEVEL = "rest level"
"""What is dragged when it is no curve."""


def _along(curve: Curve, side: float) -> float:
    """Where a curve lies along the foot at a height; straight between its points."""
    points = sorted(curve.points, key=lambda point: point[1])
    for (x0, y0), (x1, y1) in zip(points, points[1:], strict=False):
        if y0 <= side <= y1:
            return x0 + (x1 - x0) * (side - y0) / (y1 - y0 or 1.0)
    return points[0][0] if side < points[0][1] else points[-1][0]


def _finely(points: tuple[tuple[float, float], ...]) -> list[tuple[float, float]]:
    """Return points along a line so close together that no word fits between two."""
    parts = [n / 16 for n in range(17)]
    return [(a + (c - a) * t, b + (d - b) * t) for (a, b), (c, d) in pairwise(points) for t in parts]


def _by_map_value(quake: Quake, rest: float) -> Graph:
    """What a quake does, beside the values of its map: its own curves are of what these count as."""
    graph = quake.graph(rest)
    if graph.side != "map" or quake.white == 1:
        return graph
    curves = (
        replace(curve, points=tuple((x, quake.level_of(side, rest)) for x, side in curve.points))
        for curve in graph.curves
    )
    return replace(graph, curves=tuple(curves))


class CouplingGraph(QWidget):
    """Drag the ends of the lines to set the reach, the dashed line's triangle to set the rest level."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.bars: list[float] = []
        self.rest = 0.5
        self.value: tuple[float, float] | None = None
        """The map's values (across, down) under the pointer."""
        self.two_axes = False
        self.graph = Graph()
        self.above = 0
        """Pixels at its top that something else lies over: the graph is drawn beneath."""
        self._drag = ""
        self._grabbed: tuple[Curve, float] | None = None
        self._scale = 100.0
        self.setMinimumHeight(66)
        self.setMaximumHeight(92)
        self.setMouseTracking(True)
        self.setAccessibleName("Coupling graph")
        self.setToolTip(
            "What the quake does: map value, or strength, up the side; how far along the foot. Dashed: down. "
            "Drag a line's end to set the reach, the triangle to set the rest level."
        )

    def sizeHint(self) -> QSize:
        return QSize(196, 92)

    def show_map(self, bars: list[float], rest: float) -> None:
        """Show the histogram of the map, and its rest level for this quake."""
        self.bars, self.rest = bars, rest
        self.update()

    def leave_room(self, above: int) -> None:
        """Draw beneath so many pixels at the top."""
        if above != self.above:
            self.above = above
            self.update()

    def show_axes(self, two: bool | None) -> None:
        """Say whether the map holds a value for each axis (red across, green down); None: not known now."""
        if two is not None and two != self.two_axes:
            self.two_axes = two
            self.update()

    def show_value(self, value: tuple[float, float] | None) -> None:
        """Show the value under the pointer as one path through the graph."""
        if value != self.value:
            self.value = value
            self.update()

    # Geometry

    def plot(self) -> QRectF:
        above = min(self.above, max(0, self.height() - LEAST_TALL))
        return QRectF(70, 10 + above, self.width() - 80, self.height() - 30 - above)

    def y_of(self, value: float) -> float:
        plot = self.plot()
        return plot.bottom() - min(max(value, -0.05), 1.05) * plot.height()

    def x_of(self, along: float) -> float:
        plot, fraction = self.plot(), min(max(along / self._scale, -1.05), 1.05)
        return (
            plot.left() + fraction * plot.width()
            if self.graph.one_way
            else plot.center().x() + fraction * plot.width() / 2
        )

    def place_of(self, point: tuple[float, float]) -> QPointF:
        return QPointF(self.x_of(point[0]), self.y_of(point[1]))

    def _take_graph(self) -> None:
        """Ask the quake what it does, as it is now."""
        quake = self.session.operator_now(self.session.selection.quake)
        self.graph = _by_map_value(quake, self.rest) if isinstance(quake, Quake) else Graph()
        if not self._drag:
            self._scale = max(self.graph.reach, 1e-6) * 1.15

    # Mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.session.selection.quake:
            return
        at = event.position()
        ends = [
            ((self.place_of(end) - at).manhattanLength(), curve, end)
            for curve in reversed(self.graph.curves)
            for end in (curve.points[0], curve.points[-1])
            if curve.sets
        ]
        near = min(ends, key=lambda found: found[0], default=None)
        if near is not None and near[0] < 12:
            self._drag, self._grabbed = near[1].sets, (near[1], near[2][1])
        elif self._near_rest(at):
            self._drag = REST_LEVEL
        if self._drag:
            self.session.begin("Pick the rest level" if self._drag == REST_LEVEL else "Change the reach")

    def _near_rest(self, at: QPointF) -> bool:
        shown = self.graph.side == "map" and bool(self.graph.curves)
        return shown and at.x() < self.plot().left() + 4 and abs(at.y() - self.y_of(self.rest)) < 10

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        path, at, plot = self.session.selection.quake, event.position(), self.plot()
        if not self._drag:
            near = self._near_rest(at)
            self.setCursor(Qt.CursorShape.SizeVerCursor if near else Qt.CursorShape.ArrowCursor)
            return
        if self._drag == REST_LEVEL:
            level = min(max((plot.bottom() - at.y()) / plot.height(), 0.0), 1.0)
            effects.pick_rest(self.session, path, level)
            self.rest = level
        elif self._grabbed is not None:
            curve, side = self._grabbed
            quake = self.session.operator_now(path)
            span = curve.per * ((quake.counted(side, self.rest) if isinstance(quake, Quake) else side) - self.rest)
            along = (at.x() - plot.center().x()) / plot.width() * 2 * self._scale
            if abs(span) > 0.05:
                self.session.set(f"{path}/{self._drag}", round(along / span))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag:
            self._drag, self._grabbed = "", None
            self.session.commit()
            self.update()

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("plot"))
        painter.drawRoundedRect(QRectF(self.rect()), 3, 3)
        self._take_graph()
        if not self.session.selection.quake:
            return
        self._paint_side(painter)
        self._paint_foot(painter, self.graph.reach)
        if not self.graph.curves:
            return
        if self.graph.side == "map":
            self._paint_rest(painter)
            if self.two_axes:
                self._paint_notes(painter)
        for curve in self.graph.curves:
            self._paint_curve(painter, curve)
        if self.value is not None and self.graph.side == "map":
            self._paint_probe(painter, self.graph.curves[-1])

    def _paint_curve(self, painter: QPainter, curve: Curve) -> None:
        style = Qt.PenStyle.DashLine if curve.dashed else Qt.PenStyle.SolidLine
        painter.setPen(QPen(colour("ember"), 1.8, style))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF([self.place_of(point) for point in curve.points]))
        if curve.sets:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("ember"))
            for end in (curve.points[0], curve.points[-1]):
                painter.drawEllipse(self.place_of(end), 3.6, 3.6)

    def _paint_side(self, painter: QPainter) -> None:
        plot = self.plot()
        if self.graph.side != "map":
            painter.setPen(QPen(colour("line"), 1))
            painter.drawLine(plot.bottomLeft(), plot.topLeft())
            painter.setFont(font(10))
            painter.setPen(colour("quiet"))
            right = int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            for value, words in ((1.0, "1"), (0.0, "0"), (0.5, self.graph.side)):
                painter.drawText(QRectF(2, self.y_of(value) - 8, plot.left() - 8, 16), right, words)
            return
        if self.bars:
            tall = plot.height() / len(self.bars)
            tint = colour("brass", 190)
            for n, fraction in enumerate(self.bars):
                wide = fraction * 38
                painter.fillRect(
                    QRectF(plot.left() - 16 - wide, plot.bottom() - (n + 1) * tall, wide, tall + 0.4), tint
                )
        ramp = QLinearGradient(0, plot.top(), 0, plot.bottom())
        ramp.setColorAt(0, QColor("#ffffff"))
        ramp.setColorAt(1, QColor("#000000"))
        painter.fillRect(QRectF(plot.left() - 13, plot.top(), 7, plot.height()), ramp)

    def _paint_foot(self, painter: QPainter, largest: float) -> None:
        plot = self.plot()
        painter.setPen(QPen(colour("line"), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        one = self.graph.one_way
        if not one:
            painter.drawLine(QPointF(plot.center().x(), plot.top()), QPointF(plot.center().x(), plot.bottom()))
        painter.setFont(font(10))
        painter.setPen(colour("quiet"))
        y, middle = plot.bottom() + 3, plot.center().x()
        flags = int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        reach = f"{largest:.0f}" if largest >= 10 else f"{largest:.2g}"
        left, right = int(Qt.AlignmentFlag.AlignLeft), int(Qt.AlignmentFlag.AlignRight)
        painter.drawText(QRectF(middle - 30, y, 60, 14), flags, self.graph.foot if one else "0")
        painter.drawText(QRectF(plot.left(), y, 60, 14), left, "0" if one else f"−{reach}")
        last = f"{reach} {self.graph.unit}" if one else f"+{reach} {self.graph.unit}"
        painter.drawText(QRectF(plot.right() - 60, y, 62, 14), right, last)
        if self.graph.side == "map":
            painter.drawText(QRectF(8, y, 50, 14), left, "map")

    def _paint_rest(self, painter: QPainter) -> None:
        plot, y = self.plot(), self.y_of(self.rest)
        painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(plot.left() - 4, y), QPointF(plot.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("chalk"))
        x = plot.left() - 15
        painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x - 8, y - 5), QPointF(x - 8, y + 5)]))
        painter.setPen(colour("chalk"))
        painter.setFont(font(10))
        painter.drawText(self._rest_word(), int(Qt.AlignmentFlag.AlignRight), f"rest {self.rest:.2f}")

    def _paint_notes(self, painter: QPainter) -> None:
        """Which channel moves which axis, for a map with two: in a corner that no curve goes through."""
        painter.setFont(font(10))
        painter.setPen(colour("brass"))
        wide, tall = self.plot().width() / 2 - 2, 11 * len(self.graph.notes)
        box = self._free_box(wide, tall)
        side = Qt.AlignmentFlag.AlignLeft if box.left() == self.plot().left() else Qt.AlignmentFlag.AlignRight
        for n, note in enumerate(self.graph.notes):
            painter.drawText(box.translated(0, 11 * n), int(side | Qt.AlignmentFlag.AlignTop), note)

    def _free_box(self, wide: float, tall: float) -> QRectF:
        """Return a box in a corner of the plot, where neither a curve nor the word on the rest level is."""
        plot, rest = self.plot(), self._rest_word()
        corners = [
            QRectF(x, y, wide, tall)
            for y in (plot.bottom() - tall, plot.top() - 4)
            for x in (plot.left(), plot.right() - wide)
        ]
        drawn = [self.place_of(point) for curve in self.graph.curves for point in _finely(curve.points)]
        free = (
            box
            for box in corners
            if not box.intersects(rest) and not any(box.adjusted(0, -3, 0, 3).contains(place) for place in drawn)
        )
        return next(free, corners[0])

    def _rest_word(self) -> QRectF:
        """Where the rest level is written."""
        plot, y = self.plot(), self.y_of(self.rest)
        return QRectF(plot.right() - 50, y - 14 if y > plot.top() + 14 else y + 1, 50, 13)

    def _paint_probe(self, painter: QPainter, curve: Curve) -> None:
        """Brass in, ember across, lagoon out."""
        assert self.value is not None
        plot, at = self.plot(), self.place_of((_along(curve, self.value[0]), self.value[0]))
        painter.setPen(QPen(colour("brass"), 1.6))
        painter.drawLine(QPointF(plot.left() - 13, at.y()), at)
        painter.setPen(QPen(colour("lagoon"), 1.8))
        painter.drawLine(at, QPointF(at.x(), plot.bottom()))
        painter.setPen(QPen(colour("plot"), 1))
        for place, role in ((at, "ember"), (QPointF(at.x(), plot.bottom()), "lagoon")):
            painter.setBrush(colour(role))
            painter.drawEllipse(place, 4.2, 4.2)
