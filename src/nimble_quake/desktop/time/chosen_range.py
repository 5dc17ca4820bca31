"""The range of the chosen pins: a line under the markers, whose ends are dragged to make it longer or shorter."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter

from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.lanes_shown import LanesShown

NEAR = 7.0
"""Pixels from an end that take it."""
KNOB = (7.0, 9.0)


def range_of(lanes: LanesShown) -> tuple[float, float] | None:
    """Return the first and last frame of the chosen pins; None where they stand on one frame."""
    frames = [frame for _, frame in lanes.chosen]
    return (min(frames), max(frames)) if frames and min(frames) < max(frames) else None


def end_at(lanes: LanesShown, at: QPointF, foot: float) -> tuple[str, float] | None:
    """Return the chosen pin at the end of the range that a press takes, if any. foot: the y of the range's line."""
    found = range_of(lanes)
    if found is None or not foot - KNOB[1] <= at.y() <= foot + 2:
        return None
    frame = min(found, key=lambda each: abs(lanes.x_of(each) - at.x()))
    if abs(lanes.x_of(frame) - at.x()) > NEAR:
        return None
    return next(pin for pin in sorted(lanes.chosen) if pin[1] == frame)


def paint_range(painter: QPainter, lanes: LanesShown, left: float, foot: float) -> None:
    """Draw the range of the chosen pins. left: nothing is drawn left of it."""
    found = range_of(lanes)
    if found is None:
        return
    first, last = (lanes.x_of(frame) for frame in found)
    painter.fillRect(QRectF(max(first, left), foot - 2, max(0.0, last - max(first, left)), 2), colour("chalk"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("chalk"))
    for x in (first, last):
        if x >= left:
            painter.drawRect(QRectF(x - KNOB[0] / 2, foot - KNOB[1], *KNOB))
