"""Curves of tall rows in the time strip, dragged: the handles of pins, and values of several pins together."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF

from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.motion import handles
from nimble_quake.motion.kinds import keys_of
from nimble_quake.session.moving import pins
from nimble_quake.session.moving.pin_tools import drawn_up
from nimble_quake.shot.model import Shot

if TYPE_CHECKING:
    from nimble_quake.desktop.time.view import TimeView


def move_handle(lanes: TimeView, at: QPointF, row: TimeRow, top: float, grip: tuple[str, int], joined: bool) -> None:
    """Drag a handle. grip: which end of the curve from which key; joined: the pin's other handle turns along."""
    raw = keys_of(lanes.session.raw(row.path))
    if raw is None:
        return
    end, n = grip
    key, follow = raw.keys[n], raw.keys[n + 1]
    start = QPointF(lanes.x_of(key.frame), lanes.pin_y(key, row, top))
    wide = lanes.x_of(follow.frame) - start.x()
    tall = lanes.pin_y(follow, row, top) - start.y()
    x = (at.x() - start.x()) / wide
    y = (at.y() - start.y()) / tall if abs(tall) > 1 else (0.0 if end == "out" else 1.0)
    keys = handles.with_handle(raw.keys, n, end, x, y, joined=joined)
    lanes.session.change(pins.with_motion(lanes.session.shot, row.path, raw.of(keys)))


def raise_pins(lanes: TimeView, at: QPointF, shot: Shot, row: TimeRow, top: float, grabbed: float) -> None:
    """Stretch the chosen pins of a row in value, so that the one that is dragged comes to a place."""
    to, param = lanes.value_at_y(at.y(), row, top), lanes.session.param(row.path)
    lanes.session.change(drawn_up(shot, lanes.chosen, row.path, grabbed, to, param))
