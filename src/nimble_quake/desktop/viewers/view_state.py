"""Zoom and place of a viewer; both viewers share one while they are linked."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QPointF, QRectF, pyqtSignal


class ViewState(QObject):
    """`zoom`: widget pixels per shot pixel. `fit`: the whole frame is shown and zoom follows the widget's size."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.fit = True
        self.zoom = 1.0
        self.middle = QPointF(0.5, 0.5)
        """The shot place, as shares of the frame, in the viewer's middle."""
        self.around = 0.0
        """What of the frame's longer side is shown round it, where the whole frame is shown."""

    def frame_rect(self, box: QRectF, width: int, height: int) -> QRectF:
        """Return where the frame lies in a viewer's box."""
        zoom = self.zoom_in(box, width, height)
        middle = QPointF(0.5, 0.5) if self.fit else self.middle
        left = box.center().x() - middle.x() * width * zoom
        top = box.center().y() - middle.y() * height * zoom
        return QRectF(left, top, width * zoom, height * zoom)

    def zoom_in(self, box: QRectF, width: int, height: int) -> float:
        """Return the zoom in a box."""
        room = 2 * self.around * max(width, height)
        return min(box.width() / (width + room), box.height() / (height + room)) if self.fit else self.zoom

    def show_all(self) -> None:
        """Show the whole frame."""
        self.fit, self.middle = True, QPointF(0.5, 0.5)
        self.changed.emit()

    def show_around(self, around: float) -> None:
        """Leave room round the whole frame, as a fraction of its longer side."""
        self.around = around
        self.changed.emit()

    def show_pixels(self, zoom: float) -> None:
        """Show shot pixels at this many widget pixels, about the middle."""
        self.fit, self.zoom = False, zoom
        self.changed.emit()

    def zoom_about(self, at: QPointF, factor: float, box: QRectF, width: int, height: int) -> None:
        """Zoom so that the shot place under `at` stays there."""
        frame = self.frame_rect(box, width, height)
        zoom = min(max(frame.width() / width * factor, 0.02), 64.0)
        fraction = QPointF((at.x() - frame.left()) / frame.width(), (at.y() - frame.top()) / frame.height())
        self.fit, self.zoom = False, zoom
        self.middle = QPointF(
            fraction.x() + (box.center().x() - at.x()) / (width * zoom),
            fraction.y() + (box.center().y() - at.y()) / (height * zoom),
        )
        self.changed.emit()

    def pan(self, way: QPointF, box: QRectF, width: int, height: int) -> None:
        """Move the frame by widget pixels."""
        zoom = self.zoom_in(box, width, height)
        self.fit, self.zoom = False, zoom
        self.middle -= QPointF(way.x() / (width * zoom), way.y() / (height * zoom))
        self.changed.emit()
