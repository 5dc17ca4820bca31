"""Pins dragged in the time strip: along time and in value, stretched together, and the handles of their curves."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from nimble_quake.desktop.time.drags import Drag, LanesHeld
from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.motion import handles
from nimble_quake.motion.kinds import keys_of
from nimble_quake.session.moving import pins
from nimble_quake.session.moving.pin_tools import drawn_out, drawn_up

Pin = tuple[str, float]
"""The path of a value, and the frame of a pin of it."""


class PinsDrag(Drag):
    """The chosen pins: along time, and in value where the row is tall. number: the value of the pin that was taken."""

    def __init__(self, lanes: LanesHeld, pin: Pin, row: TimeRow, top: float, number: float | None) -> None:
        super().__init__(lanes)
        self._shot, self._chosen = self.session.shot, set(lanes.chosen)
        self._pin, self._row, self._top, self._number = pin, row, top, number
        self.session.begin("Move pins")

    def move(self, at: QPointF) -> None:
        path = self._row.path
        snapped = self.lanes.snapped(self.lanes.frame_at(at.x()), {frame for _, frame in self._chosen})
        way, rise = snapped - round(self._pin[1]), 0.0
        if self._row.tall and self._number is not None:
            rise = self.lanes.value_at_y(at.y(), self._row, self._top) - self._number
        param = self.session.param(path)
        self.session.change(pins.moved(self._shot, self._chosen, way, path if rise else "", rise, param))
        self.lanes.chosen = {(each, frame + way) for each, frame in self._chosen}


class StretchDrag(Drag):
    """The chosen pins drawn out along time. by_end: an end of their range was taken, not a pin."""

    def __init__(self, lanes: LanesHeld, pin: Pin, *, by_end: bool) -> None:
        super().__init__(lanes)
        self._shot, self._chosen, self._pin, self._by_end = self.session.shot, set(lanes.chosen), pin, by_end
        self.session.begin("Stretch pins")

    def move(self, at: QPointF) -> None:
        to = self.lanes.snapped(self.lanes.frame_at(at.x()), {frame for _, frame in self._chosen})
        drawn, self.lanes.chosen = drawn_out(self._shot, self._chosen, self._pin[1], to)
        self.session.change(drawn)

    def end(self) -> None:
        if self.session.shot is self._shot and not self._by_end:
            self.lanes.chosen = self._chosen - {self._pin}  # a click with Ctrl: it is taken out


class RaiseDrag(Drag):
    """The chosen pins of a row stretched in value, so that the one that is dragged comes to a place."""

    def __init__(self, lanes: LanesHeld, row: TimeRow, top: float, number: float) -> None:
        super().__init__(lanes)
        self._shot, self._row, self._top, self._number = self.session.shot, row, top, number
        self.session.begin("Stretch values")

    def move(self, at: QPointF) -> None:
        path = self._row.path
        to = self.lanes.value_at_y(at.y(), self._row, self._top)
        self.session.change(drawn_up(self._shot, self.lanes.chosen, path, self._number, to, self.session.param(path)))


class HandleDrag(Drag):
    """A handle of a curve. grip: which end of the curve from which key; joined: the pin's other handle turns along."""

    def __init__(self, lanes: LanesHeld, row: TimeRow, top: float, grip: tuple[str, int], *, joined: bool) -> None:
        super().__init__(lanes)
        self._row, self._top, self._grip, self._joined = row, top, grip, joined
        self.session.begin("Shape the curve")

    def move(self, at: QPointF) -> None:
        raw = keys_of(self.session.raw(self._row.path))
        if raw is None:
            return
        end, n = self._grip
        key, follow = raw.keys[n], raw.keys[n + 1]
        start = QPointF(self.lanes.x_of(key.frame), self.lanes.pin_y(key, self._row, self._top))
        wide = self.lanes.x_of(follow.frame) - start.x()
        tall = self.lanes.pin_y(follow, self._row, self._top) - start.y()
        x = (at.x() - start.x()) / wide
        y = (at.y() - start.y()) / tall if abs(tall) > 1 else (0.0 if end == "out" else 1.0)
        keys = handles.with_handle(raw.keys, n, end, x, y, joined=self._joined)
        self.session.change(pins.with_motion(self.session.shot, self._row.path, raw.of(keys)))
