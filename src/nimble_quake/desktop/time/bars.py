"""Bars of plates in the time strip: drawn, slid, trimmed and faded by the mouse; a clip's media moved inside."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.lanes_shown import LanesShown
from nimble_quake.desktop.time.rows import TimeRow, span_of
from nimble_quake.desktop.time.sound import paint_own_sounds
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.bars import media_span, slipped, trimmed_start
from nimble_quake.shot.crossings import kept, strongest, with_strongest
from nimble_quake.shot.edits.bars import slid
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find, id_of, kind_of
from nimble_quake.shot.spans import bar_of

Snapped = Callable[[float, set[float]], int]
"""Draws a frame to what lies near, but for its own edges."""
EDGE, CORNER, TALL = 7.0, 12.0, 16.0
"""Pixels: how near an edge takes it; how far inside a bar the knob of its fade stands at least; how high a bar is."""
LABELS = {
    "slide": "Slide",
    "start": "Trim start of",
    "end": "Trim end of",
    "slip": "Move the media in",
    "in": "Fade in of",
    "out": "Fade out of",
    "peak": "Move the strongest moment of",
}
MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)


@dataclass(frozen=True)
class BarDrag:
    """A bar that was taken: by what, the shot and the frame it was taken at, and whether its pins go along."""

    grip: str
    path: str
    paths: tuple[str, ...]
    shot: Shot
    grabbed: float
    pins: bool


def knobs(lanes: LanesShown, path: str) -> tuple[float, float]:
    """Return the x of the knobs by which a bar's fades are drawn."""
    start, end = span_of(lanes.session, path)
    plate = find(lanes.session.shot, path)
    come, go = plate.fades if isinstance(plate, Plate) else (0, 0)
    left, right = lanes.x_of(start), lanes.x_of(end)
    return left + max(CORNER, come * lanes.zoom), right - max(CORNER, go * lanes.zoom)


def _knobs_at(lanes: LanesShown, path: str, *, high: bool) -> list[tuple[str, float]]:
    """The knobs of a bar, each with its x: a crossing's strongest moment, else fades, in the bar's upper half."""
    if _course(lanes.session, path):
        peak = strongest(lanes.session.shot, path)
        return [] if peak is None else [("peak", lanes.x_of(peak))]
    start, end = span_of(lanes.session, path)
    wide = lanes.x_of(end) - lanes.x_of(start) > 4 * CORNER
    return list(zip(("in", "out"), knobs(lanes, path), strict=True)) if high and wide else []


def grip_of_bar(lanes: LanesShown, path: str, top: float, at: QPointF, *, inside: bool = False) -> str:
    """Return what of a bar a press takes: "start" or "end", a fade "in" or "out", or all of it to "slide"; or nothing.

    inside: a clip's media are taken, to "slip".
    """
    start, end = span_of(lanes.session, path)
    left, right = lanes.x_of(start), lanes.x_of(end)
    if not left - 6 <= at.x() <= right + 6:
        return ""
    if inside and media_span(lanes.session, path) is not None:
        return "slip"
    for grip, x in _knobs_at(lanes, path, high=at.y() < top + 3 + TALL / 2):
        if abs(at.x() - x) < EDGE - 1 and left + EDGE < at.x() < right - EDGE:
            return grip
    return "start" if at.x() < left + EDGE else "end" if at.x() > right - EDGE else "slide"


def taken(session: Session, path: str, grip: str, frame: float, *, pins: bool) -> BarDrag:
    """Return a bar taken at a frame; with several plates selected all of them slide."""
    marked = [each for each in sorted(session.selection.marked) if kind_of(each) == "plate"]
    return BarDrag(grip, path, tuple(marked) if path in marked else (path,), session.shot, frame, pins)


def dragged_bar(session: Session, drag: BarDrag, frame: float, snapped: Snapped) -> Shot:
    """Return the shot with a bar dragged to a frame; crossings go along with what was there when it was taken."""
    return kept(drag.shot, _dragged(session, drag, frame, snapped))


def _dragged(session: Session, drag: BarDrag, frame: float, snapped: Snapped) -> Shot:
    """A bar that slides snaps by either end, not to itself."""
    plate, path = find(drag.shot, drag.path), drag.path
    if not isinstance(plate, Plate):
        return drag.shot
    (start, end), (come, go), way = bar_of(plate, drag.shot.length), plate.fades, frame - drag.grabbed
    own = {float(edge) for each in drag.paths for edge in span_of(session, each)}
    if drag.grip == "slip":
        return slipped(session, drag.shot, path, way)
    if drag.grip == "in":
        return set_field(drag.shot, path, fades=(min(max(0, snapped(frame, own) - start), end - start - go), go))
    if drag.grip == "out":
        return set_field(drag.shot, path, fades=(come, min(max(0, end - snapped(frame, own)), end - start - come)))
    if drag.grip == "start":
        return trimmed_start(session, drag.shot, path, min(snapped(start + way, own), end - 1))
    if drag.grip == "end":
        return set_field(drag.shot, path, end=max(snapped(end + way, own), start + 1))
    if drag.grip == "peak":
        return with_strongest(drag.shot, path, snapped(frame, own))
    peak = strongest(drag.shot, path)  # of a crossing that is what a beat is for
    edges = (start, end) if peak is None else (round(peak), start, end)
    ways = [snapped(edge + way, own) - edge for edge in edges]
    drawn = next((each for each in ways if each != round(way)), round(way))
    return slid(drag.shot, {id_of(each) for each in drag.paths}, drawn, session.engine.operators.get, pins=drag.pins)


def paint_bar(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float, head: int) -> None:
    """Draw a plate's bar: what is in it, its sound, what lies beyond its media, its fades, a crossing's course."""
    session, path = lanes.session, row.path
    start, end = span_of(session, path)
    rect = QRectF(lanes.x_of(start), top + 3, max(6.0, lanes.x_of(end) - lanes.x_of(start)), TALL)
    course = _course(session, path)
    region = "ember" if course else "lagoon"
    chosen = path in session.selection.marked or path == session.selection.plate
    painter.setPen(QPen(colour(region), 2 if chosen and session.selection.marked else 1))
    painter.setBrush(colour(region, 60 if course else 90))
    painter.drawRoundedRect(rect, 3, 3)
    if course:
        _paint_course(painter, lanes, f"{path}/{course}", rect, head)
    else:
        _paint_media(painter, lanes, path, rect, path == session.selection.plate)
        paint_own_sounds(painter, lanes, path, rect, head)
        _paint_fades(painter, lanes, path, rect, chosen)
    painter.fillRect(QRectF(rect.left() + 3, rect.top() + 3, 2, 10), colour(region))
    painter.fillRect(QRectF(rect.right() - 5, rect.top() + 3, 2, 10), colour(region))
    painter.setFont(font(11))
    painter.setPen(colour("text"))
    node = session.raw(f"{path}/words") or session.raw(f"{path}/file") or ""
    words = str(node).replace("\n", " ").rsplit("/", 1)[-1]
    visible = rect.intersected(QRectF(head, top, lanes.width() - head, 24))
    room = CORNER + 8 if chosen and not course else 11
    painter.drawText(visible.adjusted(room, 0, -10, 0), MIDDLE, words)


def _course(session: Session, path: str) -> str:
    """The value whose course is drawn in a bar, as of a crossing, which has no fades of its own."""
    kind = session.operator(path)
    return kind.course if kind is not None and issubclass(kind, PlateKind) else ""


def _paint_media(painter: QPainter, lanes: LanesShown, path: str, rect: QRectF, chosen: bool) -> None:
    """Hatch what of a bar lies beyond its media; of the selected one a line shows how far they go."""
    media = media_span(lanes.session, path)
    if media is None:
        return
    begins, ends = (lanes.x_of(frame) for frame in media)
    hatch = QBrush(colour("text", 90), Qt.BrushStyle.BDiagPattern)
    for left, right in ((rect.left(), begins), (ends, rect.right())):
        if right - left > 1:
            painter.fillRect(QRectF(left, rect.top(), right - left, TALL).intersected(rect), hatch)
    if chosen:
        painter.setPen(QPen(colour("lagoon", 170), 1, Qt.PenStyle.DashLine))
        for a, b in ((begins, rect.left()), (rect.right(), ends)):
            if b - a > 1:
                painter.drawLine(QPointF(a, rect.center().y()), QPointF(b, rect.center().y()))
                x = a if a < rect.left() else b
                painter.drawLine(QPointF(x, rect.top() + 3), QPointF(x, rect.bottom() - 3))


def _paint_fades(painter: QPainter, lanes: LanesShown, path: str, rect: QRectF, chosen: bool) -> None:
    """Draw how a bar's plate comes in and goes, and knobs to draw it by at the corners of a selected one."""
    plate = find(lanes.session.shot, path)
    if not isinstance(plate, Plate) or not (chosen or any(plate.fades)):
        return
    inner, outer = knobs(lanes, path)
    come, go = plate.fades
    painter.setPen(QPen(colour("text", 200), 1))
    if come:
        painter.drawLine(rect.bottomLeft(), QPointF(inner, rect.top()))
    if go:
        painter.drawLine(QPointF(outer, rect.top()), rect.bottomRight())
    if rect.width() > 4 * CORNER:
        painter.setBrush(colour("lagoon"))
        for x in (inner, outer):
            painter.drawEllipse(QPointF(x, rect.top() + 2), 3, 3)


def _paint_course(painter: QPainter, lanes: LanesShown, path: str, rect: QRectF, head: int) -> None:
    """Draw hatching, and the course of a value from 0 to 1, in a bar."""
    painter.save()
    painter.setClipRect(rect.intersected(QRectF(head, rect.top(), lanes.width() - head, rect.height())))
    painter.fillRect(rect, QBrush(colour("ember", 110), Qt.BrushStyle.BDiagPattern))
    values = next(iter(lanes.trace(path, max(2, (lanes.width() - head) // 3))), [])  # none where it stands still
    step = (lanes.width() - head) / max(1, len(values) - 1)
    points = [
        QPointF(head + n * step, rect.bottom() - 2 - value * (rect.height() - 4)) for n, value in enumerate(values)
    ]
    painter.setPen(QPen(colour("chalk"), 1.4))
    painter.drawPolyline(QPolygonF(points))
    peak = strongest(lanes.session.shot, path.rpartition("/")[0])
    if peak is not None:
        painter.setBrush(colour("chalk"))
        painter.drawEllipse(QPointF(lanes.x_of(peak), rect.top() + 4), 3.5, 3.5)
    painter.restore()
