"""The lanes of the time strip: everything that lies along time, and dragging it."""

from __future__ import annotations

from typing import Any

import msgspec
from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPen,
    QPixmap,
    QWheelEvent,
)
from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from nimble_quake.desktop.bench.pin_panel import PinPanel
from nimble_quake.desktop.bench.time_paint import (
    HEAD,
    MARKERS,
    RULER,
    bounds_of,
    paint_now,
    paint_row,
    paint_ruler,
    paint_value,
)
from nimble_quake.desktop.bench.time_rows import ROW, TimeRow, curve, rows_of, span_of
from nimble_quake.desktop.settings.motion_menu import click_mark, motion_menu
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.painting import painted
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.session import pins
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.edits.settings import move_marker, put_marker, remove_marker, set_shot

SNAP = 7.0
"""How near, in pixels, a dragged thing snaps to pins, markers and the now-line."""


class TimeLanes(QWidget):
    """Ruler, markers and rows."""

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
        self._drag: tuple[str, Any] | None = None
        self.ruled: list[float] = []
        """Where the ruler's times stand."""
        self._box: QRectF | None = None
        self._bounds: dict[str, tuple[float, float]] = {}
        self._bounds_of: dict[str, tuple[Any, int]] = {}
        self._traces: dict[str, tuple[Any, tuple[float, float, int], list[list[float]]]] = {}
        self.paths: dict[tuple[str, int], tuple[object, QPainterPath]] = {}
        self._bed: tuple[object, QPixmap] | None = None
        self.rows: list[TimeRow] = []
        self.pin_panel = PinPanel(session, self)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Time strip")
        self.setMinimumHeight(RULER + MARKERS + ROW)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(90)
        self._soon.timeout.connect(self.refresh)
        session.changed.connect(self._changed)
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
        known = self._bounds_of.get(row.path)
        same = known is not None and known[0] is raw and known[1] == self.session.shot.length
        if row.path not in self._bounds or (self._drag is None and not same):
            self._bounds_of[row.path] = (raw, self.session.shot.length)
            lists = curve(self.session, row.path, 0, self.session.shot.length, 160)
            if isinstance(raw, Keys) and lists:
                for key in raw.keys:
                    for number, out in zip(_numbers(key.value), lists, strict=False):
                        out.append(number)
            self._bounds[row.path] = bounds_of(lists, self.session.param(row.path))
        return self._bounds[row.path]

    def trace(self, path: str, count: int) -> list[list[float]]:
        """Return a row's curve over what is seen, computed anew only when the value or the view changed."""
        raw, view = self.session.raw(path), (self.frame_at(HEAD), self.frame_at(self.width()), count)
        known = self._traces.get(path)
        if known is None or known[0] is not raw or known[1] != view or raw is None:
            known = (raw, view, curve(self.session, path, *view))
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
        """Return the y of a pin's head; of a place its x counts."""
        numbers = _numbers(key.value)
        return self.y_of(numbers[0], row, top) if len(numbers) < 4 else top + row.height / 2

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
        raw = self.session.raw(row.path)
        if not isinstance(raw, Keys) or len(_numbers(raw.keys[0].value)) != 1:
            return []
        found = []
        for n, (key, follow) in enumerate(zip(raw.keys, raw.keys[1:], strict=False)):
            if key.after != "eased":
                continue
            x1, y1, x2, y2 = key.ease
            start = QPointF(self.x_of(key.frame), self.pin_y(key, row, top))
            end = QPointF(self.x_of(follow.frame), self.pin_y(follow, row, top))
            wide, tall = end.x() - start.x(), end.y() - start.y()
            found.append((("out", n), QPointF(start.x() + wide * x1, start.y() + tall * y1), start))
            found.append((("in", n), QPointF(start.x() + wide * x2, start.y() + tall * y2), end))
        return found

    def _changed(self, found: set[str]) -> None:
        """While something else is dragged, follow now and then: the picture comes first."""
        if self.session.history.gesturing and self._drag is None and found and not found & {"shape"}:
            if not self._soon.isActive():
                self._soon.start()
        else:
            self.refresh()

    def refresh(self) -> None:
        """Show the document."""
        before = self.rows
        self.rows = rows_of(self.session, self.tall, self.show_rows)
        self.chosen = {(path, frame) for path, frame in self.chosen if pins.has_pin(self.session, path, frame)}
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
                self.pin_panel.show_pin(row.path, chosen, QRect(14, round(top) + 30, HEAD - 34, 106))
                return
        self.pin_panel.hide()

    def update(self, *area: Any) -> None:
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
        for row, top in self._seen():
            paint_value(painter, self, row, top)
        painter.restore()
        paint_now(painter, self)
        if self._box is not None:
            painter.setPen(QPen(colour("chalk"), 1, Qt.PenStyle.DashLine))
            painter.setBrush(colour("chalk", 30))
            painter.drawRect(self._box)

    def _seen(self) -> list[tuple[TimeRow, float]]:
        rows = self.tops()
        return [(row, top) for row, top in rows if top + row.height > RULER + MARKERS and top < self.height()]

    def _drawn_bed(self) -> QPixmap:
        """Everything that does not depend on the playhead."""
        bed = QPixmap(self.size() * self.devicePixelRatioF())
        bed.setDevicePixelRatio(self.devicePixelRatioF())
        painter = QPainter(bed)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.fillRect(self.rect(), colour("window"))
            for row, top in self._seen():
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
        raw = self.session.raw(hit[0].path) if hit and not hit[0].bar else None
        if hit is None or not isinstance(raw, Keys):
            return None
        for key in raw.keys:
            place = QPointF(self.x_of(key.frame), self.pin_y(key, *hit))
            if (place - at).manhattanLength() < 9 or (abs(place.x() - at.x()) < 4 and at.y() > place.y()):
                return hit[0], key
        return None

    # Mouse

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = ("pan", (at.x(), self.first))
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.x() >= HEAD and at.y() < RULER:
            loops = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._drag = ("loop", round(self.frame_at(at.x()))) if loops else ("now", None)
            self._move(event)
        elif at.x() >= HEAD and at.y() < RULER + MARKERS:
            self._press_marker(at)
        else:
            hit = self.row_at(at.y())
            if hit is not None:
                self._press_row(event, *hit)

    def _press_marker(self, at: QPointF) -> None:
        for marker in self.session.shot.markers:
            if -4 <= at.x() - self.x_of(marker.frame) < 70:
                self.session.begin("Move marker")
                self._drag = ("marker", marker.frame)
                return

    def _press_row(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        at = event.position()
        self.selected_row = row.path
        if at.x() < HEAD:
            self._press_head(at, row)
        elif row.bar:
            self._press_bar(at, row)
        else:
            self._press_lane(event, row, top)
        self.update()

    def _press_head(self, at: QPointF, row: TimeRow) -> None:
        parts = row.path.split("/")
        if row.bar:
            self.session.select(plate=row.path)
        elif at.x() > HEAD - 24:
            self.toggle_tall(row.path)
        elif at.x() < 32:
            click_mark(self.session, row.path, self)
        elif "quakes" in parts:
            self.session.select(quake="/".join(parts[:4]))
        elif "steps" in parts:
            self.session.select(step="/".join(parts[:4]))
        else:
            self.session.select(plate="/".join(parts[:2]))

    def _press_bar(self, at: QPointF, row: TimeRow) -> None:
        start, end = span_of(self.session, row.path)
        left, right = self.x_of(start), self.x_of(end)
        self.session.select(plate=row.path)
        if not left - 6 <= at.x() <= right + 6:
            return
        sort = "start" if at.x() < left + 7 else "end" if at.x() > right - 7 else "slide"
        self.session.begin({"start": "Trim start", "end": "Trim end", "slide": "Slide"}[sort])
        self._drag = ("bar", (sort, row.path, start, end, self.frame_at(at.x())))

    def _press_lane(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        at = event.position()
        for grip, place, _ in self.handles(row, top) if row.tall else []:
            if (place - at).manhattanLength() < 8:
                self.session.begin("Shape the curve")
                self._drag = ("handle", (row, top, grip))
                return
        hit = self.pin_at(at)
        adding = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        if hit is None:
            if not adding:
                self.chosen = set()
            self._box = QRectF(at, at)
            self._drag = ("box", at)
            return
        pin = (hit[0].path, hit[1].frame)
        if adding:
            self.chosen ^= {pin}
        elif pin not in self.chosen:
            self.chosen = {pin}
        self.session.begin("Move pins")
        self._drag = ("pins", (self.session.shot, set(self.chosen), pin, row, top, _numbers(hit[1].value)))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._drag is not None:
            self._move(event)
        else:
            self._show_cursor(event.position())

    def _show_cursor(self, at: QPointF) -> None:
        hit = self.row_at(at.y()) if at.y() > RULER + MARKERS else None
        shape = Qt.CursorShape.ArrowCursor
        if hit and hit[0].bar and at.x() >= HEAD:
            start, end = span_of(self.session, hit[0].path)
            if min(abs(at.x() - self.x_of(start)), abs(at.x() - self.x_of(end))) < 7:
                shape = Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def _snapped(self, frame: float, own: set[float] = frozenset()) -> int:  # type: ignore[assignment]
        """A frame, drawn to a pin, marker or the now-line nearby."""
        if self.snap:
            others = [f for f in (*pins.snap_frames(self.session), float(self.session.frame)) if f not in own]
            near = [f for f in others if abs(f - frame) * self.zoom < SNAP]
            if near:
                frame = min(near, key=lambda f: abs(f - frame))
        return round(frame)

    def _move(self, event: QMouseEvent) -> None:
        assert self._drag is not None
        sort, held = self._drag
        at = event.position()
        frame = self.frame_at(at.x())
        length = self.session.shot.length
        if sort == "now":
            self.session.set_frame(self._snapped(frame, {float(self.session.frame)}))
        elif sort == "pan":
            self.first = max(-2.0, held[1] - (at.x() - held[0]) / self.zoom)
            self._whole = False
            self.update()
        elif sort == "loop":
            a, b = sorted((min(max(held, 0), length), min(max(round(frame), 0), length)))
            self.session.edit("Set the loop", set_shot(self.session.shot, loop=(a, b) if b > a else None))
        elif sort == "marker":
            to = min(max(self._snapped(frame, {float(held)}), 0), length - 1)
            self.session.change(move_marker(self.session.shot, held, to))
            self._drag = ("marker", to)
        elif sort == "bar":
            self._move_bar(frame, *held)
        elif sort == "box":
            self._box = QRectF(held, at).normalized()
            self.chosen = self._pins_in(self._box)
            self.update()
        elif sort == "pins":
            self._move_pins(at, frame, *held)
        elif sort == "handle":
            self._move_handle(at, *held)

    def _move_bar(self, frame: float, sort: str, path: str, start: int, end: int, grabbed: float) -> None:
        way = round(frame - grabbed)
        if sort == "slide":
            to = self._snapped(start + way)
            fields = {"start": to, "end": to + end - start}
        elif sort == "start":
            fields = {"start": min(self._snapped(start + way), end - 1)}
        else:
            fields = {"end": max(self._snapped(end + way), start + 1)}
        self.session.change(set_field(self.session.shot, path, **fields))

    def _pins_in(self, box: QRectF) -> set[tuple[str, float]]:
        found = set()
        for row, top in self.tops():
            raw = self.session.raw(row.path) if not row.bar else None
            for key in raw.keys if isinstance(raw, Keys) else ():
                if box.contains(QPointF(self.x_of(key.frame), self.pin_y(key, row, top))):
                    found.add((row.path, key.frame))
        return found

    def _move_pins(self, at: QPointF, frame: float, shot: Any, chosen: set[tuple[str, float]], pin: tuple[str, float],
                   row: TimeRow, top: float, numbers: tuple[float, ...]) -> None:  # fmt: skip
        way = self._snapped(frame, {f for _, f in chosen}) - round(pin[1])
        rise = 0.0
        if row.tall and len(numbers) == 1:
            rise = self.value_at_y(at.y(), row, top) - numbers[0]
        param = self.session.param(row.path)
        self.session.change(pins.moved(shot, chosen, way, row.path if rise else "", rise, param))
        self.chosen = {(path, f + way) for path, f in chosen}

    def _move_handle(self, at: QPointF, row: TimeRow, top: float, grip: tuple[str, int]) -> None:
        raw = self.session.raw(row.path)
        if not isinstance(raw, Keys):
            return
        end, n = grip
        key, follow = raw.keys[n], raw.keys[n + 1]
        start = QPointF(self.x_of(key.frame), self.pin_y(key, row, top))
        wide = self.x_of(follow.frame) - start.x()
        tall = self.pin_y(follow, row, top) - start.y()
        x = min(max((at.x() - start.x()) / wide, 0.0), 1.0)
        y = (at.y() - start.y()) / tall if abs(tall) > 1 else (0.0 if end == "out" else 1.0)
        x1, y1, x2, y2 = key.ease
        ease = (x, y, x2, y2) if end == "out" else (x1, y1, x, y)
        ease = tuple(round(v, 3) for v in ease)  # type: ignore[assignment]
        keys = tuple(msgspec.structs.replace(k, ease=ease) if k is key else k for k in raw.keys)
        self.session.change(pins.with_motion(self.session.shot, row.path, Keys(keys)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        sort = self._drag[0] if self._drag else ""
        self._drag, self._box = None, None
        self.place_pin_panel()
        if sort in ("pins", "handle", "bar", "marker"):
            self.session.commit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        at = event.position() if event else QPointF()
        hit = self.row_at(at.y())
        if RULER <= at.y() < RULER + MARKERS and at.x() >= HEAD:
            self.name_marker(round(self.frame_at(at.x())))
        elif hit and not hit[0].bar and at.x() >= HEAD and self.pin_at(at) is None:
            frame = min(max(round(self.frame_at(at.x())), 0), self.session.shot.length - 1)
            self.session.set_frame(frame)
            self.session.start_moving(hit[0].path)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None:
            return
        turn = event.angleDelta().y() / 120
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * 1.25**turn, event.position().x())
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.first = max(-2.0, self.first - turn * 40 / self.zoom)
            self._whole = False
            self.update()
        else:
            self.scroll_to(self.scrolled - round(turn * 48))

    def scroll_to(self, y: int) -> None:
        """Scroll the rows."""
        room = max(0, self.content_height() - (self.height() - RULER - MARKERS))
        self.scrolled = min(max(0, y), room)
        self.rows_changed.emit()
        self.place_pin_panel()
        self.update()

    def toggle_tall(self, path: str) -> None:
        """Make a row tall for editing its curve, or low again."""
        self.tall ^= {path}
        self.refresh()
        top = next((top for row, top in self.tops() if row.path == path), 0.0)
        if path in self.tall:
            self.scroll_to(round(self.scrolled + top - RULER - MARKERS))

    def name_marker(self, frame: int) -> None:
        """Ask for a marker's name and set it."""
        old = next(
            (m for m in self.session.shot.markers if abs(m.frame - frame) * self.zoom < 60 and m.frame <= frame), None
        )
        frame = old.frame if old else frame
        name, good = QInputDialog.getText(self, "Marker", "Name", text=old.name if old else "")
        if good:
            shot = put_marker(self.session.shot, frame, name) if name else remove_marker(self.session.shot, frame)
            self.session.edit("Set marker" if name else "Remove marker", shot)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None:
            return
        at = QPointF(event.pos())
        hit = self.row_at(at.y())
        if at.y() < RULER:
            menu = QMenu(self)
            menu.addAction(
                "Play the whole shot",
                lambda: self.session.edit("Clear the loop", set_shot(self.session.shot, loop=None)),
            )
            menu.addAction("Show the whole shot", self.show_whole)
            menu.exec(event.globalPos())
        elif hit and not hit[0].bar:
            motion_menu(self.session, hit[0].path, self).exec(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.chosen:
            pins.remove_pins(self.session, self.chosen)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            paths = [row.path for row in self.rows]
            here = paths.index(self.selected_row) if self.selected_row in paths else -1
            step = 1 if key == Qt.Key.Key_Down else -1
            self.selected_row = paths[min(max(here + step, 0), len(paths) - 1)] if paths else ""
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.selected_row and "/" in self.selected_row:
            self.toggle_tall(self.selected_row)
        else:
            super().keyPressEvent(event)


def _numbers(value: Any) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,) if isinstance(value, float | int) else (0.0,)
