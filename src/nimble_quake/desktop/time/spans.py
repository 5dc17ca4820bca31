"""Spans of effects in the time strip: bars with slanted ends, for their fades; slid, trimmed and faded by the mouse."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.lanes_shown import LanesShown
from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.session.moving.pin_tools import with_span
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find

NEAR = 7.0
"""Pixels from an edge or a fade's corner that take it."""
MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)
LABELS = {"slide": "Slide", "start": "Trim start of", "end": "Trim end of", "in": "Fade in of", "out": "Fade out of"}


def spanned(session: Session, path: str) -> Node | None:
    """Return the effect at a path where it has a span."""
    node = find(session.shot, path)
    return node if isinstance(node, Node) and node.span is not None else None


def span_words(session: Session, path: str) -> str:
    """Return how long an effect acts."""
    node = spanned(session, path)
    if node is None or node.span is None:
        return ""
    return f"span {(node.span[1] - node.span[0]) / float(session.shot.rate):.2f} s"


def paint_span(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    """Draw an effect's span: as high as it acts."""
    node = spanned(lanes.session, row.path)
    if node is None or node.span is None:
        return
    left, right = lanes.x_of(node.span[0]), lanes.x_of(node.span[1])
    into, out = (fade * lanes.zoom for fade in node.fades)
    foot, head = top + 20, top + 3
    inner, outer = min(left + into, right), max(right - out, left)
    shape = QPolygonF(
        [QPointF(left, foot), QPointF(inner, head), QPointF(max(outer, inner), head), QPointF(right, foot)]
    )
    painter.setPen(QPen(colour(row.region), 1))
    painter.setBrush(colour(row.region, 90))
    painter.drawPolygon(shape)
    painter.setBrush(colour(row.region))
    for x in (inner, max(outer, inner)):
        painter.drawEllipse(QPointF(x, head), 3, 3)
    painter.setFont(font(11))
    painter.setPen(colour("text"))
    painter.drawText(QRectF(inner + 8, top, max(0.0, outer - inner - 12), 23), MIDDLE, row.label)


def grip_at(lanes: LanesShown, row: TimeRow, top: float, at: QPointF) -> str:
    """Return what of a span a press takes: its "start" or "end", a fade "in" or "out", or all of it to "slide"."""
    node = spanned(lanes.session, row.path)
    if node is None or node.span is None:
        return ""
    left, right = lanes.x_of(node.span[0]), lanes.x_of(node.span[1])
    into, out = (fade * lanes.zoom for fade in node.fades)
    high = at.y() < top + 10
    if high and abs(at.x() - (left + into)) < NEAR:
        return "in"
    if high and abs(at.x() - (right - out)) < NEAR:
        return "out"
    if abs(at.x() - left) < NEAR:
        return "start"
    if abs(at.x() - right) < NEAR:
        return "end"
    return "slide" if left < at.x() < right else ""


def dragged_span(shot: Shot, path: str, grip: str, to: int, way: int, *, pins: bool) -> Shot:
    """Return the shot with a span dragged. to: the frame under the pointer; way: how far it came.

    Sliding takes the effect's pins along with `pins`; trimming stretches them then.
    """
    node = find(shot, path)
    if not isinstance(node, Node) or node.span is None:
        return shot
    (first, end), (come, go) = node.span, node.fades
    if grip == "in":
        return set_field(shot, path, fades=(min(max(0, to - first), end - first - go), go))
    if grip == "out":
        return set_field(shot, path, fades=(come, min(max(0, end - to), end - first - come)))
    if grip == "slide":
        return with_span(shot, path, (first + way, end + way), pins=pins)
    span = (min(to, end - 1), end) if grip == "start" else (first, max(to, first + 1))
    return with_span(shot, path, span, pins=pins)
