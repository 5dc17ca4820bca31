"""How handles look: squares and circles, the boxes and lines they belong to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.operators.base import Operator
from nimble_quake.operators.steps import Step
from nimble_quake.render.values.placement import Matrix
from nimble_quake.session.state import Session
from nimble_quake.shot.paths import value_name


@dataclass(frozen=True, eq=False)
class Grip:
    """Something to drag: what it changes and where it is (shot pixels)."""

    sort: str
    path: str
    at: QPointF


class Shown(Protocol):
    """The handles that are painted."""

    @property
    def session(self) -> Session: ...
    @property
    def viewer(self) -> Viewer: ...
    @property
    def region(self) -> str: ...
    @property
    def last(self) -> str: ...
    @property
    def travel(self) -> Matrix | None: ...
    @property
    def node(self) -> Callable[[], str]: ...
    def grips(self) -> list[Grip]: ...
    def seen(self, at: QPointF) -> QPointF: ...
    def drawn(self, at: QPointF) -> QPointF: ...


class HandleMarks:
    """Paints the handles of one viewer."""

    def __init__(self, handles: Shown) -> None:
        self.handles = handles

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the handles."""
        grips = self.handles.grips()
        if not grips:
            return
        points = {grip: viewer.to_widget(grip.at.x(), grip.at.y()) for grip in grips}
        corners = [points[grip] for grip in grips if grip.sort == "scale"]
        named = {value_name(grip.path): at for grip, at in points.items() if grip.sort == "place"}
        operator = self.handles.session.operator(self.handles.node())
        pairs = operator.handles() if operator is not None else ()
        for pen in (QPen(colour("well"), 3), QPen(colour(self.handles.region), 1.4)):
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if corners:
                painter.drawPolygon(QPolygonF(corners))
            for first, second in pairs:
                if first in named and second in named:
                    painter.drawLine(named[first], named[second])
            self._paint_boxes(painter, operator, named, points)
            self._paint_lines(painter, viewer)
            own = [at for grip, at in points.items() if grip.path == self.handles.last]
            for grip, at in points.items():
                if grip.sort == "tied" and own:
                    painter.drawLine(own[0], at)
        for grip, at in points.items():
            painter.setPen(QPen(colour("well"), 1))
            painter.setBrush(colour("chalk" if grip.sort == "turn" else self.handles.region))
            if grip.sort in ("scale", "box", "listed"):
                half = 3 if grip.sort == "listed" else 4
                painter.drawRect(QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half))
            else:
                radius = 4 if grip.sort == "tied" else 5
                painter.drawEllipse(at, radius, radius)

    def _paint_lines(self, painter: QPainter, viewer: Viewer) -> None:
        """The lines of a net or an outline."""
        operator = self.handles.session.operator_now(self.handles.node())
        if isinstance(operator, Step):
            for line in operator.drawn_lines(self.handles.session.moment):
                seen = (self.handles.seen(QPointF(x, y)) for x, y in line)
                painter.drawPolyline(QPolygonF([viewer.to_widget(at.x(), at.y()) for at in seen]))

    def _paint_boxes(
        self, painter: QPainter, operator: type[Operator] | None, named: dict[str, QPointF], points: dict[Grip, QPointF]
    ) -> None:
        """The box round a place that has a width and a height, drawn through its corner grip."""
        corners = [at for grip, at in points.items() if grip.sort == "box"]
        for (place, _, _), corner in zip(operator.boxes() if operator is not None else (), corners, strict=False):
            if place in named:
                painter.drawPolygon(QPolygonF(self._box_round(named[place], corner)))

    def _box_round(self, middle: QPointF, corner: QPointF) -> list[QPointF]:
        """The corners of the box with a middle and a corner, on the screen, as it is seen."""
        if self.handles.travel is None:
            way = corner - middle
            box = QRectF(middle - way, middle + way)
            return [box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft()]
        x, y = (self.handles.drawn(self.handles.viewer.to_shot(at)) for at in (middle, corner))
        way = y - x
        signs = ((-1, -1), (1, -1), (1, 1), (-1, 1))
        seen = (self.handles.seen(QPointF(x.x() + way.x() * u, x.y() + way.y() * v)) for u, v in signs)
        return [self.handles.viewer.to_widget(at.x(), at.y()) for at in seen]
