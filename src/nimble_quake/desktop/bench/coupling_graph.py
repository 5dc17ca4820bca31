"""The coupling graph: map value up the side, push along the foot; the line is the reach, the dashed line the rest."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QLinearGradient, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.bench.needles import quake_now
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.session import verbs
from nimble_quake.session.state import Session


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
        self._drag = ""
        self._scale = 100.0
        self.setMinimumHeight(80)
        self.setMaximumHeight(124)
        self.setMouseTracking(True)
        self.setAccessibleName("Coupling graph")
        self.setToolTip(
            "Map value up the side, push along the foot. Solid: across. Dashed: down. "
            "Drag a line's end to set the reach, the triangle to set the rest level."
        )

    def sizeHint(self) -> QSize:
        return QSize(196, 124)

    def show_map(self, bars: list[float], rest: float) -> None:
        """Show the histogram of the map, and its rest level for this quake."""
        self.bars, self.rest = bars, rest
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

    def _plot(self) -> QRectF:
        return QRectF(70, 10, self.width() - 80, self.height() - 30)

    def _y(self, value: float) -> float:
        plot = self._plot()
        return plot.bottom() - min(max(value, -0.05), 1.05) * plot.height()

    def _x(self, push: float) -> float:
        plot = self._plot()
        return plot.center().x() + push / self._scale * plot.width() / 2

    def _reaches(self) -> tuple[float, float]:
        path = self.session.selection.quake
        quake = quake_now(self.session, path)
        if quake is None:
            return 0.0, 0.0
        strength = float(self.session.shown(f"{path}/strength"))
        x = float(self.session.shown(f"{path}/reach_x")) * strength
        if self.session.shown(f"{path}/mode") == "bearing":
            return -x, 0.0
        linked = self.session.shown(f"{path}/linked")
        y = x if linked else float(self.session.shown(f"{path}/reach_y")) * strength
        x = 0.0 if self.session.shown(f"{path}/x_from") == "none" else x
        return x, 0.0 if self.session.shown(f"{path}/y_from") == "none" else y

    def _end(self, reach: float, value: float) -> QPointF:
        """Where a line stands at a map value: what moves left lies left."""
        return QPointF(self._x(-2 * reach * (value - self.rest)), self._y(value))

    # Mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        path = self.session.selection.quake
        if event is None or not path:
            return
        at, (x, y) = event.position(), self._reaches()
        ends = [("reach_x", self._end(x, v)) for v in (1.0, 0.0)] + [("reach_y", self._end(y, v)) for v in (1.0, 0.0)]
        near = sorted(((p - at).manhattanLength(), name, p.y()) for name, p in ends)
        if near[0][0] < 12:
            self._drag = f"{near[0][1]} {'top' if near[0][2] < self._plot().center().y() else 'low'}"
        elif at.x() < self._plot().left() + 4 and abs(at.y() - self._y(self.rest)) < 10:
            self._drag = "rest"
        if self._drag:
            self.session.begin("Pick the rest level" if self._drag == "rest" else "Change the reach")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        path, at, plot = self.session.selection.quake, event.position(), self._plot()
        if not self._drag:
            near_rest = at.x() < plot.left() + 4 and abs(at.y() - self._y(self.rest)) < 10
            self.setCursor(Qt.CursorShape.SizeVerCursor if near_rest else Qt.CursorShape.ArrowCursor)
            return
        if self._drag == "rest":
            level = (plot.bottom() - at.y()) / plot.height()
            verbs.pick_rest(self.session, path, min(max(level, 0.0), 1.0))
            self.rest = min(max(level, 0.0), 1.0)
        else:
            name, end = self._drag.split()
            span = 2 * ((1.0 if end == "top" else 0.0) - self.rest)
            strength = float(self.session.shown(f"{path}/strength")) or 1.0
            push = (at.x() - plot.center().x()) / plot.width() * 2 * self._scale
            if abs(span) > 0.05:
                self.session.set(f"{path}/{name}", round(-push / span / strength))
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag:
            self._drag = ""
            self.session.commit()
            self.update()

    # Painting

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("well"))
        painter.drawRoundedRect(QRectF(self.rect()), 3, 3)
        x, y = self._reaches()
        largest = max(abs(x), abs(y), 1.0) * 2 * max(self.rest, 1 - self.rest)
        if not self._drag:
            self._scale = largest * 1.15
        self._paint_side(painter)
        self._paint_foot(painter, largest)
        if not self.session.selection.quake:
            return
        self._paint_rest(painter)
        if self.two_axes:
            self._paint_axes(painter)
        for name, reach, style in (("down", y, Qt.PenStyle.DashLine), ("across", x, Qt.PenStyle.SolidLine)):
            if name == "down" and not y:
                continue
            painter.setPen(QPen(colour("ember"), 1.8, style))
            top, low = self._end(reach, 1.0), self._end(reach, 0.0)
            painter.drawLine(top, low)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour("ember"))
            for end in (top, low):
                painter.drawEllipse(end, 3.6, 3.6)
        if self.value is not None:
            self._paint_probe(painter, x)

    def _paint_side(self, painter: QPainter) -> None:
        plot = self._plot()
        if self.bars:
            tall = plot.height() / len(self.bars)
            tint = colour("brass", 190)
            for n, share in enumerate(self.bars):
                wide = share * 38
                painter.fillRect(
                    QRectF(plot.left() - 16 - wide, plot.bottom() - (n + 1) * tall, wide, tall + 0.4), tint
                )
        ramp = QLinearGradient(0, plot.top(), 0, plot.bottom())
        ramp.setColorAt(0, QColor("#ffffff"))
        ramp.setColorAt(1, QColor("#000000"))
        painter.fillRect(QRectF(plot.left() - 13, plot.top(), 7, plot.height()), ramp)

    def _paint_foot(self, painter: QPainter, largest: float) -> None:
        plot = self._plot()
        painter.setPen(QPen(colour("line"), 1))
        painter.drawLine(plot.bottomLeft(), plot.bottomRight())
        painter.drawLine(QPointF(plot.center().x(), plot.top()), QPointF(plot.center().x(), plot.bottom()))
        painter.setFont(font(10))
        painter.setPen(colour("quiet") if colour("well").lightness() < 100 else colour("text"))
        y, middle = plot.bottom() + 3, plot.center().x()
        flags = int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        reach = f"{largest:.0f}" if largest >= 10 else f"{largest:.1f}"
        painter.drawText(QRectF(middle - 20, y, 40, 14), flags, "0")
        left, right = int(Qt.AlignmentFlag.AlignLeft), int(Qt.AlignmentFlag.AlignRight)
        painter.drawText(QRectF(plot.left(), y, 60, 14), left, f"−{reach}")
        painter.drawText(QRectF(plot.right() - 60, y, 62, 14), right, f"+{reach} px")
        painter.drawText(QRectF(8, y, 50, 14), left, "map")

    def _paint_rest(self, painter: QPainter) -> None:
        plot, y = self._plot(), self._y(self.rest)
        painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(plot.left() - 4, y), QPointF(plot.right(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("chalk"))
        x = plot.left() - 15
        painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x - 8, y - 5), QPointF(x - 8, y + 5)]))
        painter.setPen(colour("chalk"))
        painter.setFont(font(10))
        up = y - 14 if y > plot.top() + 14 else y + 1
        painter.drawText(
            QRectF(plot.right() - 50, up, 50, 13), int(Qt.AlignmentFlag.AlignRight), f"rest {self.rest:.2f}"
        )

    def _paint_axes(self, painter: QPainter) -> None:
        """Which channel moves which axis, for a map with two."""
        path = self.session.selection.quake
        words = [
            f"{channel} {axis}"
            for channel, axis, name in (("red", "across", "x_from"), ("green", "down", "y_from"))
            if self.session.shown(f"{path}/{name}") == "value"
        ]
        painter.setFont(font(10))
        painter.setPen(colour("brass"))
        plot = self._plot()
        room = QRectF(plot.left(), plot.top() - 9, plot.width(), 13)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignHCenter), ", ".join(words))

    def _paint_probe(self, painter: QPainter, reach: float) -> None:
        """Brass in, ember across, lagoon out."""
        assert self.value is not None
        plot, at = self._plot(), self._end(reach, self.value[0])
        painter.setPen(QPen(colour("brass"), 1.6))
        painter.drawLine(QPointF(plot.left() - 13, at.y()), at)
        painter.setPen(QPen(colour("lagoon"), 1.8))
        painter.drawLine(at, QPointF(at.x(), plot.bottom()))
        painter.setPen(QPen(colour("well"), 1))
        for place, role in ((at, "ember"), (QPointF(at.x(), plot.bottom()), "lagoon")):
            painter.setBrush(colour(role))
            painter.drawEllipse(place, 4.2, 4.2)
