"""The levels bar: black, middle and white grips on the live histogram, with the rest level and the mean marked."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.marks import paint_marks
from nimble_quake.desktop.widgets.painting import painted


class LevelsBar(QWidget):
    """Emits (name, value) while a grip is dragged; names are black, middle, white."""

    began = pyqtSignal()
    changing = pyqtSignal(str, float)
    ended = pyqtSignal()

    def __init__(self, region: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._region = region
        self.bars: list[float] = []
        self.rest, self.mean, self.clipped = 0.5, 0.5, 0.0
        self.black, self.middle, self.white = 0.0, 0.5, 1.0
        self._drag = ""
        self.setFixedHeight(58)
        self.setMinimumWidth(120)
        self.setAccessibleName("Levels on the histogram")
        self.setToolTip("Values before this step. Drag black, middle and white; the dashed line is the rest level.")

    def sizeHint(self) -> QSize:
        return QSize(200, 58)

    def show_levels(self, black: float, middle: float, white: float) -> None:
        """Show the grips: black and white as values, middle as the share between them."""
        self.black, self.middle, self.white = black, middle, white
        self.update()

    def show_histogram(self, bars: list[float], rest: float = 0.5, mean: float = 0.5, clipped: float = 0.0) -> None:
        """Show the histogram of the values, with rest, mean and the clipped share."""
        self.bars, self.rest, self.mean, self.clipped = bars, rest, mean, clipped
        self.update()

    def _plot(self) -> QRectF:
        return QRectF(6, 3, self.width() - 12, 40)

    def x_of(self, value: float) -> float:
        return self._plot().left() + min(max(value, -0.02), 1.02) * self._plot().width()

    def _grips(self) -> dict[str, float]:
        return {
            "black": self.black,
            "middle": self.black + (self.white - self.black) * self.middle,
            "white": self.white,
        }

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        near = sorted((abs(self.x_of(at) - event.position().x()), name) for name, at in self._grips().items())
        if near[0][0] < 14:
            self._drag = near[0][1]
            self.began.emit()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self._drag:
            return
        value = (event.position().x() - self._plot().left()) / self._plot().width()
        if self._drag == "middle":
            span = self.white - self.black
            value = (value - self.black) / span if span else 0.5
            value = min(max(value, 0.01), 0.99)
        self.changing.emit(self._drag, round(min(max(value, -0.5), 1.5), 3))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag:
            self._drag = ""
            self.ended.emit()

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        plot = self._plot()
        painter.fillRect(plot, colour("plot"))
        if self.bars:
            wide = plot.width() / len(self.bars)
            tint = colour(self._region, 150)
            for n, fraction in enumerate(self.bars):
                painter.fillRect(
                    QRectF(plot.left() + n * wide, plot.bottom() - fraction * 38, wide + 0.4, fraction * 38), tint
                )
        paint_marks(painter, plot, self.rest, self.mean, self.clipped)
        fills = {"black": QColor("#101010"), "middle": QColor("#808080"), "white": QColor("#f4f4f4")}
        for name, at in self._grips().items():
            x, y = self.x_of(at), plot.bottom() + 1
            painter.setPen(QPen(colour(self._region if self._drag == name else "quiet"), 1.2))
            painter.setBrush(fills[name])
            painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x + 5, y + 11), QPointF(x - 5, y + 11)]))
