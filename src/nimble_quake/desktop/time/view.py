"""What the time strip shows: where everything lies along time, and how it is drawn."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPixmap
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.access.bases import SpokenList
from nimble_quake.desktop.pacing import paced
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.drags import Drag
from nimble_quake.desktop.time.paint import (
    HEAD,
    MARKERS,
    RULER,
    paint_now,
    paint_ready,
    paint_row,
    paint_ruler,
    paint_value,
)
from nimble_quake.desktop.time.pin_panel import PinPanel
from nimble_quake.desktop.time.rows import ROW, Known, TimeRow, rows_of
from nimble_quake.desktop.time.sound import sound_rows
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.motion.handles import bezier_of
from nimble_quake.motion.kinds import Key, asks_shot, keys_of
from nimble_quake.session.moving import pins
from nimble_quake.session.state import Session
from nimble_quake.session.traces import bounds_of, curve
from nimble_quake.shot.paths import node_path

BUDGET = 0.005
"""Seconds that one drawing may spend on curves that are not known yet."""
PACE = 90
"""Milliseconds from one drawing to the next while something else is dragged: the picture comes first."""


class TimeView(SpokenList):
    """Ruler, markers and rows, as they are seen; dragging them is TimeLanes' part."""

    rows_changed = pyqtSignal()
    zoomed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.show_rows = "moving"
        self.snap = True
        self.tall: set[str] = set()
        self.chosen: set[tuple[str, float]] = set()
        self.selected_row = ""
        self.zoom = 8.0
        """Pixels a frame."""
        self.first = 0.0
        self.scrolled = 0
        self._whole = True
        self._drag: Drag | None = None
        self.ruled: list[float] = []
        """Where the ruler's times stand."""
        self.box: QRectF | None = None
        self._bounds: dict[str, tuple[float, float]] = {}
        self._bounds_of: dict[str, tuple[object, int]] = {}
        self._traces: dict[str, tuple[object, tuple[float, float, int], list[list[float]]]] = {}
        self.paths: dict[tuple[str, int], tuple[object, QPainterPath]] = {}
        self._bed: tuple[object, QPixmap] | None = None
        self.prepared: Callable[[], dict[int, bool]] = dict
        """Finds the frames that are kept to be shown at once, and whether they are up to date."""
        self.ready: dict[int, bool] = {}
        self._watch = QTimer(self)
        self._watch.setInterval(400)
        self._watch.timeout.connect(self._look_ahead)
        self._watch.start()
        self.peaks: Callable[[str], NDArray[np.float32] | None] = lambda file: None
        """Finds the peaks of a sound's waveform."""
        self.rows: list[TimeRow] = []
        self._known_rows: Known = {}
        self.pin_panel = PinPanel(session, self)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Time strip")
        self.setMinimumHeight(RULER + MARKERS + ROW)
        self._spent = 0.0
        """Seconds that the drawing under way has spent on curves."""
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(0)
        self._late.timeout.connect(self.update)
        follow = paced(self, session, lambda _: self.refresh(), elsewhere=lambda: self._drag is None, pace=PACE)
        session.changed.connect(follow)
        session.selected.connect(self.refresh)
        session.moved.connect(super().update)
        session.moved.connect(self.place_pin_panel)

    def sizeHint(self) -> QSize:
        return QSize(900, 160)

    # Geometry

    def x_of(self, frame: float) -> float:
        """Return the x of a frame."""
        return HEAD + 20 + (frame - self.first) * self.zoom

    def frame_at(self, x: float) -> float:
        """Return the frame at an x."""
        return self.first + (x - HEAD - 20) / self.zoom

    def show_whole(self) -> None:
        """Zoom so that the whole shot is seen."""
        self._whole = True
        self.first = 0.0
        self.zoom = max(0.02, (self.width() - HEAD - 50) / max(1, self.session.shot.length))
        self.zoomed.emit()
        self.update()

    def set_zoom(self, zoom: float, about: float | None = None) -> None:
        """Zoom to so many pixels a frame, about an x."""
        x = about if about is not None else self.x_of(self.session.frame)
        frame = self.frame_at(x)
        self._whole = False
        self.zoom = min(max(zoom, 0.02), 80.0)
        self.first = max(-2.0, frame - (x - HEAD - 20) / self.zoom)
        self.zoomed.emit()
        self.update()

    def resizeEvent(self, event: object) -> None:
        if self._whole:
            self.show_whole()

    def bounds(self, row: TimeRow) -> tuple[float, float]:
        """Return the value range a row shows; it stands still while something in it is dragged."""
        raw = self.session.raw(row.path)
        what = self._known_by(raw)
        known = self._bounds_of.get(row.path)
        same = known is not None and known[0] is what and known[1] == self.session.shot.length
        if row.path not in self._bounds or (self._drag is None and not same):
            self._bounds_of[row.path] = (what, self.session.shot.length)
            began = time.perf_counter()
            lists = curve(self.session, row.path, 0, self.session.shot.length, 96)
            self._spent += time.perf_counter() - began
            keys = keys_of(raw)
            if keys is not None and lists:
                for key in keys.keys:
                    for number, out in zip(numbers_of(key.value), lists, strict=False):
                        out.append(number)
            self._bounds[row.path] = bounds_of(lists, self.session.param(row.path))
        return self._bounds[row.path]

    def _known_by(self, raw: object) -> object:
        """What a drawn curve holds as long as it is the same: the value, or the shot where the value asks it."""
        return self.session.engine.heard(self.session.shot) if asks_shot(raw) else raw

    def trace(self, path: str, count: int) -> list[list[float]]:
        """Return a row's curve over what is seen, computed anew only when the value or the view changed."""
        raw, view = self.session.raw(path), (self.frame_at(HEAD), self.frame_at(self.width()), count)
        known, what = self._traces.get(path), self._known_by(raw)
        if known is None or known[0] is not what or known[1] != view or raw is None:
            if self._spent > BUDGET:  # the rest is drawn in the next turn: scrolling must not wait
                self._late.start()
                return known[2] if known is not None else []
            began = time.perf_counter()
            known = (what, view, curve(self.session, path, *view))
            self._spent += time.perf_counter() - began
            self._traces[path] = known
        return known[2]

    def y_of(self, value: float, row: TimeRow, top: float) -> float:
        """Return the y of a value in its row."""
        low, high = self.bounds(row)
        room = 16 if row.tall else 4
        return top + row.height - room - (value - low) / (high - low) * (row.height - 2 * room)

    def value_at_y(self, y: float, row: TimeRow, top: float) -> float:
        """Return the value at a y of a row."""
        low, high = self.bounds(row)
        room = 16 if row.tall else 4
        return low + (top + row.height - room - y) / (row.height - 2 * room) * (high - low)

    def pin_y(self, key: Key, row: TimeRow, top: float) -> float:
        """Return the y of a pin's head; of a place its x counts; a list, empty or not, has its pins in the middle."""
        numbers = numbers_of(key.value)
        return self.y_of(numbers[0], row, top) if 0 < len(numbers) < 4 else top + row.height / 2

    def tops(self) -> list[tuple[TimeRow, float]]:
        """Return the rows with their upper edges."""
        found, y = [], float(RULER + MARKERS - self.scrolled)
        for row in self.rows:
            found.append((row, y))
            y += row.height
        return found

    def content_height(self) -> int:
        """Return the height of all rows."""
        return sum(row.height for row in self.rows)

    def handles(self, row: TimeRow, top: float) -> list[tuple[tuple[str, int], QPointF, QPointF]]:
        """Return the Bézier handles of a tall row: (which end, key number), their place, their pin's place."""
        raw = keys_of(self.session.raw(row.path))
        if raw is None or len(numbers_of(raw.keys[0].value)) != 1:
            return []
        found = []
        for n, (key, follow) in enumerate(zip(raw.keys, raw.keys[1:], strict=False)):
            curve = bezier_of(raw.keys, n)
            if curve is None:
                continue
            x1, y1, x2, y2 = curve
            start = QPointF(self.x_of(key.frame), self.pin_y(key, row, top))
            end = QPointF(self.x_of(follow.frame), self.pin_y(follow, row, top))
            wide, tall = end.x() - start.x(), end.y() - start.y()
            found.append((("out", n), QPointF(start.x() + wide * x1, start.y() + tall * y1), start))
            found.append((("in", n), QPointF(start.x() + wide * x2, start.y() + tall * y2), end))
        return found

    def follow_selection(self) -> None:
        """Highlight the row of what is selected; one of its values stays highlighted."""
        chosen, paths = self.session.selection, [row.path for row in self.rows]
        wanted = (chosen.sound, chosen.finish, chosen.quake, chosen.plate, chosen.step)
        of_selected = node_path(self.selected_row) in wanted if self.selected_row else False
        if not (of_selected and self.selected_row in paths):
            self.selected_row = next((path for path in wanted if path and path in paths), "")
        self.say_items([row.label for row in self.rows], paths.index(self.selected_row) if self.selected_row else -1)

    def refresh(self) -> None:
        """Show the document."""
        before = self.rows
        self.rows = [*sound_rows(self.session), *rows_of(self.session, self.tall, self.show_rows, self._known_rows)]
        self.chosen = {(path, frame) for path, frame in self.chosen if pins.has_pin(self.session, path, frame)}
        self.follow_selection()
        if self._whole and self._drag is None:
            self.zoom = max(0.02, (self.width() - HEAD - 50) / max(1, self.session.shot.length))
        if before != self.rows:
            self.rows_changed.emit()
        self.place_pin_panel()
        self.update()

    def place_pin_panel(self) -> None:
        """Put the pin's fields into the head of the first tall row that is seen."""
        for row, top in self.tops():
            if row.tall and top >= RULER + MARKERS - 4:
                chosen = next((frame for path, frame in self.chosen if path == row.path), None)
                self.pin_panel.show_pin(row.path, chosen, QRect(14, round(top) + 34, HEAD - 34, 0))
                return
        self.pin_panel.hide()

    def update(self, *area: object) -> None:
        """Draw everything anew; when only the playhead moved, what lies beneath it is kept."""
        self._bed = None
        super().update(*area)

    @painted
    def paintEvent(self, painter: QPainter) -> None:
        key = (self.size(), self.devicePixelRatioF(), colour("window").rgba())
        if self._bed is None or self._bed[0] != key:
            self._bed = (key, self._drawn_bed())
        painter.drawPixmap(0, 0, self._bed[1])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(QRectF(0, RULER + MARKERS, HEAD, self.height()))
        for row, top in self.seen_rows():
            paint_value(painter, self, row, top)
        painter.restore()
        paint_ready(painter, self, self.ready)
        paint_now(painter, self)
        if self.box is not None:
            painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(colour("chalk", 30))
            painter.drawRect(self.box)

    def _look_ahead(self) -> None:
        """See now and then what is prepared ahead."""
        found = self.prepared() if self.isVisible() else {}
        if found != self.ready:
            self.ready = found
            QWidget.update(self, QRect(HEAD, 0, self.width() - HEAD, RULER))

    def seen_rows(self) -> list[tuple[TimeRow, float]]:
        """Return the rows of which something is in sight, each with its top."""
        rows = self.tops()
        return [(row, top) for row, top in rows if top + row.height > RULER + MARKERS and top < self.height()]

    def _drawn_bed(self) -> QPixmap:
        """Everything that does not depend on the playhead."""
        self._spent = 0.0
        bed = QPixmap(self.size() * self.devicePixelRatioF())
        bed.setDevicePixelRatio(self.devicePixelRatioF())
        painter = QPainter(bed)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), colour("window"))
            for row, top in self.seen_rows():
                paint_row(painter, self, row, top)
            end = self.x_of(self.session.shot.length)
            beyond = QRectF(max(end, HEAD), RULER, max(0.0, self.width() - end), self.height())
            painter.fillRect(beyond, colour("window", 150))
            painter.setPen(QPen(colour("good", 120), 1, Qt.PenStyle.DotLine))
            for marker in self.session.shot.markers:
                if self.x_of(marker.frame) >= HEAD:
                    x = self.x_of(marker.frame)
                    painter.drawLine(QPointF(x, RULER + MARKERS), QPointF(x, self.height()))
            paint_ruler(painter, self)
        finally:
            painter.end()
        return bed

    # Hitting

    def row_at(self, y: float) -> tuple[TimeRow, float] | None:
        """Return the row at a height, with its upper edge."""
        return next(((row, top) for row, top in self.tops() if top <= y < top + row.height), None)

    def pin_at(self, at: QPointF) -> tuple[TimeRow, Key] | None:
        """Return the pin under a place."""
        hit = self.row_at(at.y())
        raw = keys_of(self.session.raw(hit[0].path)) if hit and not hit[0].bar else None
        if hit is None or raw is None:
            return None
        for key in raw.keys:
            place = QPointF(self.x_of(key.frame), self.pin_y(key, *hit))
            if (place - at).manhattanLength() < 9 or (abs(place.x() - at.x()) < 4 and at.y() > place.y()):
                return hit[0], key
        return None


def numbers_of(value: object) -> tuple[float, ...]:
    """Return a value's numbers; none of a list of points or stops."""
    if isinstance(value, tuple):
        return value if all(isinstance(number, float | int) for number in value) else ()
    return (value,) if isinstance(value, float | int) else (0.0,)
