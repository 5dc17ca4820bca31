"""The way a keyed place goes, drawn in the picture: a dot a frame, and its pins, which can be dragged."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.motion.kinds import Keys, keys_of
from nimble_quake.params.kinds import Place
from nimble_quake.render.values.placement import Matrix, inverse, through
from nimble_quake.session.state import Session
from nimble_quake.session.summaries import is_shown
from nimble_quake.session.traces import curve
from nimble_quake.shot.edits.keys import set_key
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find

GRAB = 7.0
MOST_DOTS = 400
"""Frames of a longer path are passed over evenly, so that drawing it stays quick."""
APART = 3.0
"""Screen pixels: dots that would lie nearer to one another are left out."""

Carrying = Callable[[float], Matrix | None]
"""How what a value says is seen at a frame; None where it is seen there."""


@dataclass(frozen=True, eq=False)
class PlacePath:
    """Where a value goes. `places`: at `frames`, shot pixels; `pins`: (frame, place)."""

    value: str
    frames: list[float]
    places: list[QPointF]
    pins: list[tuple[float, QPointF]]


@dataclass(frozen=True, eq=False)
class _Drag:
    value: str
    frame: float
    start: QPointF
    """Where it was pressed, as the value has it."""
    before: tuple[float, float]
    """The pin's own value then."""
    seen: Matrix | None


class PlacePaths:
    """Draws and drags the paths of one node. `carried`: what carries a value's places on; None for nothing."""

    def __init__(
        self,
        session: Session,
        viewer: Viewer,
        region: str,
        node: Callable[[], str],
        carried: Callable[[str], Carrying | None],
    ) -> None:
        self.session, self.viewer, self.region, self.node, self.carried = session, viewer, region, node, carried
        self.on = True
        self._drag: _Drag | None = None
        self._moved = False
        viewer.overlays.append(self.paint)
        viewer.grips.append(self.take)

    def paths(self) -> list[PlacePath]:
        """Return the paths of the node's keyed places that count now."""
        node, operator = self.node(), self.session.operator(self.node()) if self.node() else None
        item = find(self.session.shot, node) if node else None
        if operator is None or not isinstance(item, Node) or not self.on:
            return []
        found = []
        for name, param in operator.declared.items():
            keyed = keys_of(item.values.get(name))
            if isinstance(param, Place) and keyed is not None and is_shown(self.session, node, param):
                found.append(self._path(f"{node}/{name}", keyed))
        return [path for path in found if path.places]

    def _path(self, value: str, keyed: Keys) -> PlacePath:
        first, last = keyed.keys[0].frame, keyed.keys[-1].frame
        count = min(int(last - first), MOST_DOTS) + 1
        frames = [first + (last - first) * n / max(count - 1, 1) for n in range(count)]
        xs_ys = curve(self.session, value, first, last, count)
        if not xs_ys:
            return PlacePath(value, frames, [], [])
        carried = self.carried(value)
        places = [_seen(carried, frame, x, y) for frame, x, y in zip(frames, *xs_ys, strict=True)]
        pins = []
        for key in keyed.keys:
            (x,), (y,) = curve(self.session, value, key.frame, key.frame, 1)
            pins.append((key.frame, _seen(carried, key.frame, x, y)))
        return PlacePath(value, frames, places, pins)

    # Mouse

    def take(self, what: str, place: QPointF, event: QMouseEvent) -> bool:
        """Handle a press, move or release in the viewer; True where a pin took it."""
        if what == "press":
            return self._press(place)
        if self._drag is None:
            return False
        if what == "move":
            self._move(place)
        elif what == "release":
            drag, self._drag = self._drag, None
            self.session.commit()
            if not self._moved:
                self.session.set_frame(round(drag.frame))
        return True

    def _press(self, place: QPointF) -> bool:
        reach = GRAB / self.viewer.zoom()
        for path in self.paths():
            for frame, at in path.pins:
                way = at - place
                if frame != self.session.frame and math.hypot(way.x(), way.y()) <= reach:
                    self._start(path.value, frame, place)
                    return True
        return False

    def _start(self, value: str, frame: float, place: QPointF) -> None:
        keyed = keys_of(self.session.raw(value))
        assert keyed is not None
        before = next(key.value for key in keyed.keys if key.frame == frame)
        carried = self.carried(value)
        seen = carried(frame) if carried is not None else None
        self._drag, self._moved = _Drag(value, frame, _flat(place, seen), before, seen), False
        self.session.begin(f"Move pin: {self.session.label_of(value)}")

    def _move(self, place: QPointF) -> None:
        assert self._drag is not None
        drag = self._drag
        way = _flat(place, drag.seen) - drag.start
        if not self._moved and math.hypot(way.x(), way.y()) * self.viewer.zoom() < 2:
            return
        self._moved = True
        x, y = drag.before
        now = (round(x + way.x(), 1), round(y + way.y(), 1))
        self.session.change(set_key(self.session.shot, drag.value, drag.frame, now))

    # Painting

    def paint(self, painter: QPainter, viewer: Viewer) -> None:
        """Draw the paths: a line, a dot a frame, a square a pin."""
        for path in self.paths():
            line = [viewer.to_widget(at.x(), at.y()) for at in path.places]
            for pen in (QPen(colour("well", 200), 3), QPen(colour(self.region), 1.2)):
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolyline(QPolygonF(line))
            self._paint_dots(painter, line)
            for frame, at in path.pins:
                self._paint_pin(painter, viewer.to_widget(at.x(), at.y()), here=frame == self.session.frame)

    def _paint_dots(self, painter: QPainter, line: list[QPointF]) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour("chalk"))
        last: QPointF | None = None
        for at in line:
            if last is None or math.hypot(at.x() - last.x(), at.y() - last.y()) >= APART:
                painter.drawEllipse(at, 1.4, 1.4)
                last = at

    def _paint_pin(self, painter: QPainter, at: QPointF, *, here: bool) -> None:
        half = 4.5 if here else 3.5
        painter.setPen(QPen(colour("well"), 1))
        painter.setBrush(colour("chalk" if here else self.region))
        painter.drawPolygon(
            QPolygonF([at + QPointF(0, -half), at + QPointF(half, 0), at + QPointF(0, half), at + QPointF(-half, 0)])
        )


def _seen(carried: Carrying | None, frame: float, x: float, y: float) -> QPointF:
    """Where a place is seen at a frame."""
    seen = carried(frame) if carried is not None else None
    return QPointF(x, y) if seen is None else QPointF(*through(seen, x, y))


def _flat(place: QPointF, seen: Matrix | None) -> QPointF:
    """Which place, as a value has it, is seen there."""
    return place if seen is None else QPointF(*through(inverse(seen), place.x(), place.y()))
