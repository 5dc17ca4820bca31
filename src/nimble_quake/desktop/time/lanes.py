"""Dragging what lies along time in the time strip: playhead, markers, bars, pins and their curves."""

from __future__ import annotations

from collections.abc import Set

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PyQt6.QtWidgets import QInputDialog

from nimble_quake.desktop.motions.menu import click_mark
from nimble_quake.desktop.time.bars import LABELS as BAR_LABELS
from nimble_quake.desktop.time.bars import grip_of_bar, taken
from nimble_quake.desktop.time.chosen_range import end_at
from nimble_quake.desktop.time.drags import (
    BarsDrag,
    BoxDrag,
    LoopDrag,
    MarkerDrag,
    NowDrag,
    PanDrag,
    SoundDrag,
    SpanDrag,
)
from nimble_quake.desktop.time.lane_menus import row_menu, ruler_menu
from nimble_quake.desktop.time.paint import HEAD, MARKERS, RULER
from nimble_quake.desktop.time.pin_drags import HandleDrag, PinsDrag, RaiseDrag, StretchDrag
from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.desktop.time.sound import grip_of, placed_in
from nimble_quake.desktop.time.spans import LABELS, grip_at
from nimble_quake.desktop.time.view import TimeView, numbers_of
from nimble_quake.motion import handles
from nimble_quake.motion.kinds import keys_of
from nimble_quake.session.moving import pins
from nimble_quake.session.moving.motions import set_motion
from nimble_quake.session.verbs.items import remove_item
from nimble_quake.shot.edits.settings import put_marker, remove_marker
from nimble_quake.shot.paths import kind_of, node_path

SNAP = 7.0
"""How near, in pixels, a dragged thing snaps to pins, markers and the now-line."""


class TimeLanes(TimeView):
    """Mouse and keys on the time strip."""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton:
            self._drag = PanDrag(self, at)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.x() >= HEAD and at.y() < RULER:
            loops = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._drag = LoopDrag(self, at) if loops else NowDrag(self)
            self._drag.move(at)
        elif at.x() >= HEAD and at.y() < RULER + MARKERS:
            end = end_at(self, at, RULER + MARKERS)
            if end is not None:
                self._drag = StretchDrag(self, end, by_end=True)
            else:
                self._press_marker(at)
        else:
            hit = self.row_at(at.y())
            if hit is not None:
                self._press_row(event, *hit)
            elif at.x() >= HEAD:  # below the rows: a box round pins may begin there
                self.chosen = set()
                self._drag = BoxDrag(self, at)

    def value_at_place(self, at: QPointF) -> str:
        """Return the path of the value whose row lies there; empty for none."""
        hit = self.row_at(at.y()) if at.y() > RULER + MARKERS else None
        return "" if hit is None or hit[0].bar or hit[0].sort else hit[0].path

    def choose_pins(self, chosen: set[tuple[str, float]]) -> None:
        """Choose pins, as of a gesture that was put down: the ends of their range are dragged under the markers."""
        self.refresh()
        self.chosen = {pin for pin in chosen if pins.has_pin(self.session, *pin)}
        self.update()

    def _press_marker(self, at: QPointF) -> None:
        for marker in self.session.shot.markers:
            if -4 <= at.x() - self.x_of(marker.frame) < 70:
                self._drag = MarkerDrag(self, marker.frame)
                return

    def _press_row(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        at = event.position()
        self.selected_row = row.path
        if row.sort == "span":
            self._press_span(event, row, top)
        elif row.sort:
            self._press_sound(at, row)
        elif at.x() < HEAD:
            self._press_head(at, row)
        elif row.bar:
            self._press_bar(event, row, top)
        else:
            self._press_lane(event, row, top)
        self.update()

    def _press_sound(self, at: QPointF, row: TimeRow) -> None:
        """Select a sound or band; a sound is slid, or trimmed at its ends."""
        self.session.select(sound=row.path)
        frame = self.frame_at(at.x())
        grip = grip_of(self.session, row.path, frame, 7 / self.zoom) if row.sort == "sound" and at.x() >= HEAD else ""
        sound = placed_in(self.session, row.path) if grip else None
        if sound is not None:
            self._drag = SoundDrag(self, row.path, grip, sound, at)

    def _press_span(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        """Select an effect; its span is slid, trimmed or faded, with Ctrl its pins with it."""
        at, along = event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self.session.select(effect=row.path)
        grip = grip_at(self, row, top, at) if at.x() >= HEAD else ""
        if grip:
            label = f"{LABELS[grip]} {self.session.name_of(row.path)}"
            self._drag = SpanDrag(self, row.path, grip, at, label, pins=along)

    def _press_head(self, at: QPointF, row: TimeRow) -> None:
        if row.bar:
            self.session.select(plate=row.path)
        elif at.x() > HEAD - 24:
            self.toggle_tall(row.path)
        elif at.x() < 32:
            click_mark(self.session, row.path, self)
        else:
            self.session.select(**{kind_of(row.path): node_path(row.path)})

    def _press_bar(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        """Select a plate, with Shift one more; its bar is slid, trimmed or faded, with Ctrl its pins go along."""
        at, keys, chosen = event.position(), event.modifiers(), self.session.selection
        if keys & Qt.KeyboardModifier.ShiftModifier:
            self.session.mark((chosen.marked or frozenset({chosen.plate} - {""})) ^ {row.path})
            return
        if row.path not in chosen.marked:
            self.session.select(plate=row.path)
        grip = grip_of_bar(self, row.path, top, at, inside=bool(keys & Qt.KeyboardModifier.AltModifier))
        if grip:
            pins_too = bool(keys & Qt.KeyboardModifier.ControlModifier)
            drag = taken(self.session, row.path, grip, self.frame_at(at.x()), pins=pins_too)
            self._drag = BarsDrag(self, drag, f"{BAR_LABELS[grip]} {self.session.name_of(row.path)}")

    def _press_lane(self, event: QMouseEvent, row: TimeRow, top: float) -> None:
        at = event.position()
        for grip, place, _ in self.handles(row, top) if row.tall else []:
            if (place - at).manhattanLength() < 8:
                raw, parts = keys_of(self.session.raw(row.path)), event.modifiers() & Qt.KeyboardModifier.AltModifier
                at_pin = grip[1] if grip[0] == "out" else grip[1] + 1
                joined = raw is not None and not parts and handles.is_joined(raw.keys, at_pin)
                self._drag = HandleDrag(self, row, top, grip, joined=joined)
                return
        hit = self.pin_at(at)
        adding = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        if hit is None:
            if not adding:
                self.chosen = set()
            self.box = QRectF(at, at)
            self._drag = BoxDrag(self, at)
            return
        pin = (hit[0].path, hit[1].frame)
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if control and alt and row.tall and pin in self.chosen and len(numbers_of(hit[1].value)) == 1:
            self._drag = RaiseDrag(self, row, top, numbers_of(hit[1].value)[0])
            return
        if control and pin in self.chosen and len({frame for _, frame in self.chosen}) > 1:
            self._drag = StretchDrag(self, pin, by_end=False)
            return
        if adding:
            self.chosen ^= {pin}
        elif pin not in self.chosen:
            self.chosen = {pin}
        numbers = numbers_of(hit[1].value)
        self._drag = PinsDrag(self, pin, row, top, numbers[0] if len(numbers) == 1 else None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._drag is not None:
            self._drag.move(event.position())
        else:
            self._show_cursor(event.position())

    def _show_cursor(self, at: QPointF) -> None:
        hit = self.row_at(at.y()) if at.y() > RULER + MARKERS else None
        shape = Qt.CursorShape.ArrowCursor
        if hit is None and at.x() >= HEAD and end_at(self, at, RULER + MARKERS) is not None:
            shape = Qt.CursorShape.SizeHorCursor
        if hit and hit[0].bar and at.x() >= HEAD and grip_of_bar(self, hit[0].path, hit[1], at) not in ("", "slide"):
            shape = Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def snapped(self, frame: float, own: Set[float] = frozenset()) -> int:
        """Return a whole frame: that of a pin, a marker or the now-line where one is near. own: these do not count."""
        if self.snap:
            others = [f for f in (*pins.snap_frames(self.session), float(self.session.frame)) if f not in own]
            near = [f for f in others if abs(f - frame) * self.zoom < SNAP]
            if near:
                frame = min(near, key=lambda f: abs(f - frame))
        return round(frame)

    def pins_in(self, box: QRectF) -> set[tuple[str, float]]:
        """Return the pins whose heads lie in a box."""
        found = set()
        for row, top in self.tops():
            raw = keys_of(self.session.raw(row.path)) if not row.bar else None
            for key in raw.keys if raw is not None else ():
                if box.contains(QPointF(self.x_of(key.frame), self.pin_y(key, row, top))):
                    found.add((row.path, key.frame))
        return found

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        drag, self._drag = self._drag, None
        if drag is not None:
            drag.end()
        self.place_pin_panel()
        if drag is not None and drag.edits:
            self.session.commit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        at = event.position() if event else QPointF()
        hit = self.row_at(at.y())
        if RULER <= at.y() < RULER + MARKERS and at.x() >= HEAD:
            self.name_marker(round(self.frame_at(at.x())))
        elif hit and not hit[0].bar and not hit[0].sort and at.x() >= HEAD and self.pin_at(at) is None:
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
            self.scroll_frames(self.first - turn * 40 / self.zoom)
        else:
            self.scroll_to(self.scrolled - round(turn * 48))

    def scroll_frames(self, first: float) -> None:
        """Show the frames from `first` on."""
        self.first = max(-2.0, first)
        self._whole = False
        self.update()

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
        hit, ruler = self.row_at(at.y()), at.y() < RULER
        of_row = row_menu(self.session, hit[0], self) if hit and not ruler else None
        menu = ruler_menu(self.session, self.show_whole, self) if ruler else of_row
        if menu is not None:
            menu.exec(event.globalPos())

    def _highlight(self, path: str) -> None:
        """Go to a row: what it belongs to is selected."""
        self.selected_row = path
        if path:
            kind = "sound" if path.startswith(("sounds/", "bands/")) else kind_of(path)
            self.session.select(**{kind: node_path(path)})
        self.update()

    def _remove(self) -> None:
        """Take away what is highlighted: the chosen pins, else a row's plate, effect or sound, else its motion."""
        path = self.selected_row
        if self.chosen:
            pins.remove_pins(self.session, self.chosen)
        elif path and path == node_path(path):
            remove_item(self.session, path)
        elif path:
            set_motion(self.session, path, "still")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._remove()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            paths = [row.path for row in self.rows]
            here = paths.index(self.selected_row) if self.selected_row in paths else -1
            step = 1 if key == Qt.Key.Key_Down else -1
            self._highlight(paths[min(max(here + step, 0), len(paths) - 1)] if paths else "")
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.selected_row and "/" in self.selected_row:
            self.toggle_tall(self.selected_row)
        else:
            super().keyPressEvent(event)
