"""Where the map of the selected quake is laid on its plate, drawn in the picture."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.render.shown.request import BenchResponse


class MapBox:
    """A dashed outline in the colour of maps. `corners`: shot pixels; none where the map lies on the frame."""

    def __init__(self, viewer: Viewer) -> None:
        self.corners: tuple[tuple[float, float], ...] = ()
        viewer.overlays.append(self.paint)

    def show_response(self, response: BenchResponse) -> None:
        """Take where it lies from a computed frame; a frame of playback does not say, and none is drawn."""
        if not response.partial:
            self.corners = response.map_box

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Paint the outline, named at the map's own upper left corner."""
        if not self.corners:
            return
        places = QPolygonF([viewer.to_widget(x, y) for x, y in self.corners])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(colour("well"), 3), QPen(colour("brass"), 1.5, Qt.PenStyle.DashLine)):
            painter.setPen(pen)
            painter.drawPolygon(places)
        viewer.paint_tag(painter, QPointF(places[0].x() + 4, places[0].y() + 4), "Map")
