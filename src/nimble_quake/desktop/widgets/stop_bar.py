"""The stop bar: a gradient's stops and midpoints, dragged along it."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.access.bases import SpokenPicture
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.colour_dialog import ColourDialog
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.params.kinds import MAX_STOPS, Rgba, Stop, Stops
from nimble_quake.raster.shapes.gradient import stop_colours


class StopBar(SpokenPicture):
    """Stops below the gradient, midpoints above. Click adds, drag moves, double-click colours, Delete removes."""

    began = pyqtSignal()
    changing = pyqtSignal(tuple)
    ended = pyqtSignal()

    def __init__(self, param: Stops, region: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.param, self._region = param, region
        self.own_colours: Callable[[], list[Rgba]] = list
        """Gives colours to choose again."""
        self.stops = param.default
        self.current = 0
        self._drag: tuple[str, int] | None = None
        self.setMinimumSize(120, 44)
        self.setFixedHeight(44)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(param.label)
        self.setToolTip(
            f"{param.help}. Click below the bar adds a stop, double-click colours it, Delete removes it; "
            "the diamonds above move the half-way mix."
        )

    def sizeHint(self) -> QSize:
        return QSize(200, 44)

    def show_value(self, stops: tuple[Stop, ...]) -> None:
        """Show a gradient's stops."""
        self.stops = stops
        self.current = min(self.current, len(stops) - 1)
        self.update()

    def _bar(self) -> QRectF:
        return QRectF(7, 12, self.width() - 14, 16)

    def x_of(self, at: float) -> float:
        return self._bar().left() + at * self._bar().width()

    def _mid_at(self, index: int) -> float:
        here, follow = self.stops[index], self.stops[index + 1]
        return here.at + (follow.at - here.at) * here.mid

    def _hit(self, at: QPointF) -> tuple[str, int] | None:
        if at.y() > self._bar().center().y():
            near = [(abs(self.x_of(stop.at) - at.x()), n) for n, stop in enumerate(self.stops)]
            distance, index = min(near)
            return ("stop", index) if distance < 8 else None
        mids = [(abs(self.x_of(self._mid_at(n)) - at.x()), n) for n in range(len(self.stops) - 1)]
        if mids and min(mids)[0] < 8:
            return "mid", min(mids)[1]
        return None

    def _fraction_at(self, x: float) -> float:
        return min(max((x - self._bar().left()) / self._bar().width(), 0.0), 1.0)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        hit = self._hit(event.position())
        if hit is None and event.position().y() > self._bar().center().y() and len(self.stops) < MAX_STOPS:
            at = self._fraction_at(event.position().x())
            r, g, b, a = (float(c) for c in stop_colours(self.stops, np.array([at]))[0])
            added = Stop(at, (r, g, b, a))
            self.began.emit()
            self._send((*self.stops, added), added)
            hit = ("stop", self.current)
        elif hit is not None:
            self.began.emit()
            if hit[0] == "stop":
                self.current = hit[1]
        self._drag = hit
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._drag is None:
            return
        sort, index = self._drag
        at = self._fraction_at(event.position().x())
        if sort == "stop":
            moved = msgspec.structs.replace(self.stops[index], at=round(at, 4))
            rest = [stop for n, stop in enumerate(self.stops) if n != index]
            self._send((*rest, moved), moved)
            self._drag = ("stop", self.current)
            return
        here, follow = self.stops[index], self.stops[index + 1]
        if follow.at > here.at:
            mid = min(max((at - here.at) / (follow.at - here.at), 0.02), 0.98)
            stops = list(self.stops)
            stops[index] = msgspec.structs.replace(here, mid=round(mid, 4))
            self._send(tuple(stops), None)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._drag is not None:
            self._drag = None
            self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        hit = self._hit(event.position()) if event else None
        if hit and hit[0] == "stop":
            self._drag = None
            self.colour_stop(hit[1])

    def colour_stop(self, index: int) -> None:
        """Ask for the colour of a stop."""
        before = self.stops
        dialog = ColourDialog(before[index].colour, "Colour of the stop", self.own_colours(), self)
        self.began.emit()
        dialog.changed.connect(lambda rgba: self._send_colour(before, index, rgba))
        if not dialog.exec():
            self._send(before, before[index])
        self.ended.emit()

    def _send_colour(self, before: tuple[Stop, ...], index: int, rgba: Rgba) -> None:
        stop = msgspec.structs.replace(before[index], colour=rgba)
        self._send(tuple(stop if n == index else old for n, old in enumerate(before)), stop)

    def replace(self, index: int, stop: Stop) -> None:
        """Put another stop in a stop's place, as one change."""
        self.began.emit()
        self._send(tuple(stop if n == index else old for n, old in enumerate(self.stops)), stop)
        self.ended.emit()

    def _send(self, stops: tuple[Stop, ...], current: Stop | None) -> None:
        ordered = tuple(sorted(stops, key=lambda stop: stop.at))
        if current is not None:
            self.current = ordered.index(current)
        self.stops = ordered
        self.update()
        self.changing.emit(ordered)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and len(self.stops) > 1:
            self.began.emit()
            self._send(tuple(stop for n, stop in enumerate(self.stops) if n != self.current), None)
            self.current = max(0, self.current - 1)
            self.ended.emit()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 0.01 if event.key() == Qt.Key.Key_Right else -0.01
            here = self.stops[self.current]
            self.replace(self.current, msgspec.structs.replace(here, at=min(max(here.at + step, 0.0), 1.0)))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.colour_stop(self.current)
        else:
            super().keyPressEvent(event)

    def spread_evenly(self) -> None:
        """Put the stops at even distances, midpoints in the middle."""
        count = max(1, len(self.stops) - 1)
        self.began.emit()
        self._send(tuple(Stop(n / count, stop.colour) for n, stop in enumerate(self.stops)), None)
        self.ended.emit()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        menu = QMenu(self)
        menu.addAction("Spread evenly", self.spread_evenly)
        menu.addAction("Colour of this stop …", lambda: self.colour_stop(self.current))
        if event:
            menu.exec(event.globalPos())

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        bar = self._bar()
        wide = max(2, int(bar.width()))
        rgba = stop_colours(self.stops, np.linspace(0, 1, wide))
        grid = np.where((np.arange(wide) // 6) % 2 == 0, 0.35, 0.55)[:, None]
        rgb = rgba[:, :3] * rgba[:, 3:] + grid * (1 - rgba[:, 3:])
        line = np.ascontiguousarray((np.clip(rgb, 0, 1) * 255).astype(np.uint8)[None])
        painter.drawImage(bar, QImage(line.tobytes(), wide, 1, wide * 3, QImage.Format.Format_RGB888))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(colour("chalk") if self.hasFocus() else colour("line"))
        painter.drawRect(bar)
        for n in range(len(self.stops) - 1):
            self._paint_mid(painter, self.x_of(self._mid_at(n)))
        for n, stop in enumerate(self.stops):
            self._paint_stop(painter, stop, n == self.current)

    def _paint_mid(self, painter: QPainter, x: float) -> None:
        shape = QPolygonF([QPointF(x, 2), QPointF(x + 4, 6), QPointF(x, 10), QPointF(x - 4, 6)])
        painter.setBrush(colour("raised"))
        painter.setPen(QPen(colour("quiet"), 1))
        painter.drawPolygon(shape)

    def _paint_stop(self, painter: QPainter, stop: Stop, current: bool) -> None:
        x, y = self.x_of(stop.at), self._bar().bottom() + 2
        shape = QPolygonF(
            [
                QPointF(x, y),
                QPointF(x + 5, y + 5),
                QPointF(x + 5, y + 13),
                QPointF(x - 5, y + 13),
                QPointF(x - 5, y + 5),
            ]
        )
        painter.setBrush(QColor.fromRgbF(*stop.colour[:3]))
        painter.setPen(QPen(colour(self._region if current else "quiet"), 2 if current else 1))
        painter.drawPolygon(shape)
