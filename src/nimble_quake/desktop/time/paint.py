"""Painting of the time strip: ruler, markers, bars, traces and pins."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPainterPath, QPen, QPolygonF

from nimble_quake.conventions import Value
from nimble_quake.desktop.settings.bound import motion_of
from nimble_quake.desktop.theme.look import font, paint_icon
from nimble_quake.desktop.theme.roles import REGION_TEXT, colour, ink_on
from nimble_quake.desktop.time.bars import paint_bar
from nimble_quake.desktop.time.chosen_range import paint_range
from nimble_quake.desktop.time.lanes_shown import LanesShown
from nimble_quake.desktop.time.rows import TimeRow, time_text
from nimble_quake.desktop.time.sound import paint_band, paint_beats, paint_sound, paint_sound_head
from nimble_quake.desktop.time.spans import paint_span, span_words
from nimble_quake.desktop.widgets.arithmetic import shown_number
from nimble_quake.desktop.widgets.slide_field import paint_tremor
from nimble_quake.motion.kinds import keys_of
from nimble_quake.params.kinds import Choice, Colour, MapRef, Param, PlateRef, Words
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.sounds import level_now
from nimble_quake.shot.paths import node_path

HEAD = 232
VALUE = 58
"""Room for a value and its unit in a row's head."""
RULER, MARKERS = 20, 18
MOST_COMPANIONS = 4
"""How many other values are drawn behind a tall row."""
MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)
RIGHT = int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight)


def paint_ruler(painter: QPainter, lanes: LanesShown) -> None:
    """Draw seconds and frames, the loop range, and the markers' row."""
    width = lanes.width()
    painter.fillRect(QRectF(0, 0, width, RULER + MARKERS), colour("window"))
    painter.setFont(font(11))
    painter.setPen(colour("quiet"))
    painter.drawText(
        QRectF(8, RULER, HEAD - 10, MARKERS), MIDDLE, "Markers, beats" if lanes.session.shot.beats else "Markers"
    )
    painter.save()
    painter.setClipRect(QRectF(HEAD, 0, width - HEAD, RULER + MARKERS))
    loop = lanes.session.shot.loop
    if loop:
        left, right = lanes.x_of(loop[0]), lanes.x_of(loop[1])
        painter.fillRect(QRectF(left, 0, right - left, RULER), colour("chalk", 40))
        painter.fillRect(QRectF(left, RULER - 3, right - left, 2), colour("chalk", 190))
    painter.setPen(QPen(colour("line"), 1))
    painter.drawLine(QPointF(HEAD, RULER - 0.5), QPointF(width, RULER - 0.5))
    rate = max(1, round(float(lanes.session.shot.rate)))
    within = [frames for frames in range(1, rate) if rate % frames == 0]
    steps = (*within, *(seconds * rate for seconds in (1, 2, 5, 10, 30, 60, 300)))
    step = next((frames for frames in steps if frames * lanes.zoom >= 84), 600 * rate)
    first = int(lanes.frame_at(HEAD) // step) * step
    frame = max(0, first)
    lanes.ruled = []
    while frame <= lanes.session.shot.length and lanes.x_of(frame) < width:
        x = lanes.x_of(frame)
        painter.setPen(QPen(colour("rail"), 1))
        painter.drawLine(QPointF(x, 5), QPointF(x, RULER - 1))
        painter.setPen(colour("quiet"))
        painter.drawText(QRectF(x + 4, 0, 84, RULER - 2), MIDDLE, time_text(lanes.session, frame))
        lanes.ruled.append(x)
        frame += step
    paint_beats(painter, lanes, RULER, MARKERS)
    for marker in lanes.session.shot.markers:
        paint_marker(painter, lanes, marker.frame, marker.name)
    paint_range(painter, lanes, HEAD, RULER + MARKERS)
    painter.restore()


def paint_marker(painter: QPainter, lanes: LanesShown, frame: int, name: str) -> None:
    """Draw a marker as a flag, and its dotted line down the rows."""
    x, metrics = lanes.x_of(frame), QFontMetricsF(font(11))
    wide = metrics.horizontalAdvance(name) + 14
    flag = QPolygonF(
        [
            QPointF(x, RULER + 1),
            QPointF(x + wide, RULER + 1),
            QPointF(x + wide + 6, RULER + 8.5),
            QPointF(x + wide, RULER + 16),
            QPointF(x, RULER + 16),
        ]
    )
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("good", 70))
    painter.drawPolygon(flag)
    painter.fillRect(QRectF(x, RULER + 1, 2, 15), colour("good"))
    painter.setPen(colour("text"))
    painter.setFont(font(11))
    painter.drawText(QRectF(x + 6, RULER, wide, MARKERS - 1), MIDDLE, name)


def paint_row(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    """Draw one row: its head at the left, its bar or trace at the right."""
    width, height = lanes.width(), row.height
    painter.fillRect(
        QRectF(0, top, width, height - 1), colour("panel" if row.bar or row.sort in ("sound", "span") else "edited")
    )
    if row.path == lanes.selected_row:
        painter.fillRect(QRectF(0, top, HEAD, min(height - 1, 33)), colour(row.region, 66))
        painter.fillRect(QRectF(0, top, 3, height - 1), colour(row.region))
    _paint_head(painter, lanes, row, top)
    painter.save()
    painter.setClipRect(QRectF(HEAD, top, width - HEAD, height))
    if row.sort == "sound":
        paint_sound(painter, lanes, row, top, HEAD)
    elif row.sort == "span":
        paint_span(painter, lanes, row, top)
    elif row.sort == "band":
        paint_band(painter, lanes, row, top, HEAD)
    elif row.bar:
        paint_bar(painter, lanes, row, top, HEAD)
    else:
        _paint_trace(painter, lanes, row, top)
    painter.restore()


def _paint_head(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    session = lanes.session
    if row.sort == "span":
        painter.setFont(font(12, strong=True))
        painter.setPen(colour("text"))
        painter.drawText(QRectF(22, top, 120, 23), MIDDLE, row.label)
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        painter.drawText(QRectF(HEAD - 110, top, 100, 23), RIGHT, span_words(session, row.path))
        return
    if row.sort:
        paint_sound_head(painter, lanes, row, top, HEAD)
        return
    if row.bar:
        painter.setFont(font(12, strong=True))
        painter.setPen(colour("text"))
        painter.drawText(QRectF(10, top, 150, 23), MIDDLE, row.label)
        operator = session.operator(row.path)
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        painter.drawText(QRectF(HEAD - 90, top, 80, 23), RIGHT, operator.title.lower() if operator else "")
        return
    painter.setFont(font(12))
    painter.setPen(colour("text"))
    room = HEAD - VALUE - 60
    label = QFontMetricsF(font(12)).elidedText(row.label, Qt.TextElideMode.ElideMiddle, room)
    painter.drawText(QRectF(33, top, room, 23), MIDDLE, label)
    paint_icon(painter, "shut" if row.tall else "forward", QRectF(HEAD - 18, top + 6, 12, 12), colour("quiet"))


def paint_value(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    """Draw what of a row's head changes with the playhead: its value now, and how it moves."""
    if row.bar or row.sort in ("sound", "span"):
        return
    session = lanes.session
    if row.sort == "band":
        painter.setFont(font(12))
        painter.setPen(colour(REGION_TEXT["brass"]))
        painter.drawText(QRectF(HEAD - 44, top, 36, 23), RIGHT, f"{level_now(session, row.path):.2f}")
        return
    paint_tremor(painter, QPointF(20, top + 12), motion_of(session, row.path), colour(row.region))
    param, value = session.param(row.path), session.shown(row.path)
    note = value_words(session, param, value)
    if not note:
        return
    painter.setFont(font(12))
    painter.setPen(colour("text" if row.path == lanes.selected_row else REGION_TEXT[row.region]))
    note = QFontMetricsF(font(12)).elidedText(note, Qt.TextElideMode.ElideRight, VALUE + 2)
    painter.drawText(QRectF(HEAD - 24 - VALUE, top, VALUE + 2, 23), RIGHT, note)


def value_words(session: Session, param: Param | None, value: Value) -> str:
    """A value in a few letters, for the head of its row; empty for points, stops and colours."""
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(param, MapRef | PlateRef):
        return session.name_of(param.path_of(str(value))) if value else "none"
    if isinstance(param, Choice):
        return param.label_of(str(value)).lower()
    if isinstance(param, Words):
        return str(value).partition("\n")[0]
    if not isinstance(value, float) or param is None:
        return ""
    return f"{shown_number(value * param.factor, param.decimals)} {param.unit}".strip()


def _paint_trace(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    param = lanes.session.param(row.path)
    if isinstance(param, Colour):
        _paint_colours(painter, lanes, row, top)
        lists: list[list[float]] = []
    else:
        lists = lanes.trace(row.path, max(2, (lanes.width() - HEAD) // (2 if row.tall else 4)))
    low, high = lanes.bounds(row)
    base = lanes.y_of(min(max(0.0, low), high), row, top)
    tint = colour(row.region)
    if row.tall:
        _paint_axis(painter, lanes, row, top, low, high)
        _paint_companions(painter, lanes, row, top)
    for number, values in enumerate(lists):
        path = _path(lanes, row, values, low, high)
        painter.save()
        painter.translate(0, top)
        if number == 0:
            area = QPainterPath(path)
            area.lineTo(lanes.width(), base - top)
            area.lineTo(HEAD, base - top)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # the trace lies over its edge: 12 x faster
            painter.fillPath(area, colour(row.region, 38))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        _paint_line(painter, path, tint, 2.0 if row.tall else 1.4, dashed=number > 0)
        painter.restore()
    _paint_pins(painter, lanes, row, top)


def _paint_line(painter: QPainter, path: QPainterPath, tint: QColor, width: float, *, dashed: bool) -> None:
    """Draw a trace. Lines of 1 px are drawn 20 times faster than any others: two of them make a wider one."""
    painter.setPen(QPen(tint, 1.0, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    half = (width - 1) / 2
    for shift in (-half, half):
        painter.drawPath(path.translated(0, shift))


def _paint_companions(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    """Draw the other moving values of the same operator behind a tall row, dashed, each in a scale of its own."""
    shown = [
        other
        for other in lanes.rows
        if other.path != row.path and not other.bar and not other.sort and node_path(other.path) == node_path(row.path)
    ]
    count = max(2, (lanes.width() - HEAD) // 4)
    for number, other in enumerate(shown[:MOST_COMPANIONS]):
        param = lanes.session.param(other.path)
        lists = [] if isinstance(param, Colour) else lanes.trace(other.path, count)
        if not lists:
            continue
        low, high = lanes.bounds(other)
        step = (lanes.width() - HEAD) / (len(lists[0]) - 1)
        foot, room = top + row.height - 16, row.height - 32
        ys = [foot - (value - low) / (high - low) * room for value in lists[0]]
        painter.setPen(QPen(colour(other.region, 120), 1.2, Qt.PenStyle.DashLine))
        painter.drawPolyline(QPolygonF([QPointF(HEAD + step * n, y) for n, y in enumerate(ys)]))
        at = min(len(ys) - 1, len(ys) * (6 - number) // 8)
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        words = (param.label if param is not None else "").lower()
        painter.drawText(QPointF(HEAD + step * at + 6, min(max(ys[at] - 5, top + 12), top + row.height - 6)), words)


def _path(lanes: LanesShown, row: TimeRow, values: list[float], low: float, high: float) -> QPainterPath:
    """The trace as a path from the row's own top; made anew only when the curve or the room changed."""
    key = (id(values), lanes.width(), row.height, low, high)
    known = lanes.paths.get((row.path, id(values)))
    if known is not None and known[0] == key:
        return known[1]
    step = (lanes.width() - HEAD) / max(1, len(values) - 1)
    zero, one = lanes.y_of(0.0, row, 0.0), lanes.y_of(1.0, row, 0.0)
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(HEAD + step * n, zero + (one - zero) * v) for n, v in enumerate(values)]))
    if len(lanes.paths) > 400:
        lanes.paths.clear()
    lanes.paths[(row.path, id(values))] = (key, path)
    return path


def _paint_colours(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    lists = lanes.trace(row.path, 64)
    if not lists:
        return
    wide = (lanes.width() - HEAD) / 64
    for n in range(64):
        tint = colour("well")
        tint.setRgbF(*(min(max(lists[k][n], 0.0), 1.0) for k in range(3)))
        painter.fillRect(QRectF(HEAD + n * wide, top + 4, wide + 1, row.height - 9), tint)


def _paint_axis(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float, low: float, high: float) -> None:
    param = lanes.session.param(row.path)
    factor = param.factor if param is not None else 1.0
    span = (high - low) * factor
    power = 10.0 ** len(str(int(span))) / 100 if span >= 1 else 0.01
    step = next((power * k for k in (1, 2, 5, 10, 20, 50, 100) if span / (power * k) <= 6), span)
    number = int(low * factor // step) * step
    painter.setFont(font(10))
    while number <= high * factor:
        y = lanes.y_of(number / factor, row, top)
        if top + 8 < y < top + row.height - 6:
            painter.setPen(QPen(colour("line", 120), 1))
            painter.drawLine(QPointF(HEAD, y), QPointF(lanes.width(), y))
            painter.setPen(colour("quiet"))
            painter.drawText(QRectF(HEAD + 4, y - 13, 60, 12), MIDDLE, shown_number(number, 2).rstrip("0").rstrip("."))
        number += step


def _paint_pins(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float) -> None:
    raw = keys_of(lanes.session.raw(row.path))
    if raw is None:
        return
    if row.tall:
        for grip, at, pin in lanes.handles(row, top):
            painter.setPen(QPen(colour("chalk"), 1.2))
            painter.drawLine(pin, at)
            painter.setBrush(colour("window"))
            painter.drawRect(QRectF(at.x() - 3, at.y() - 3, 6, 6))
            del grip
    for key in raw.keys:
        at = QPointF(lanes.x_of(key.frame), lanes.pin_y(key, row, top))
        chosen = (row.path, key.frame) in lanes.chosen
        radius = 5.5 if row.tall else 3.4
        painter.setPen(QPen(colour(row.region, 150), 1))
        painter.drawLine(at, QPointF(at.x(), top + row.height - 2))
        painter.setPen(QPen(colour("chalk" if chosen else "window"), 1.6 if chosen else 1))
        painter.setBrush(colour(row.region))
        if key.after == "hold":
            painter.drawRect(QRectF(at.x() - radius + 0.5, at.y() - radius + 0.5, 2 * radius - 1, 2 * radius - 1))
        else:
            painter.drawEllipse(at, radius, radius)


def paint_ready(painter: QPainter, lanes: LanesShown, ready: dict[int, bool]) -> None:
    """Draw under the ruler which frames are prepared: a line; out of date: dots."""
    wide = max(1.0, lanes.zoom)
    for frame, fresh in ready.items():
        x = lanes.x_of(frame)
        if x + wide < HEAD or x > lanes.width():
            continue
        left = max(x, float(HEAD))
        tall, tint = (2.0, colour("good")) if fresh else (1.0, colour("good", 110))
        painter.fillRect(QRectF(left, RULER - 2, max(1.0, wide if fresh else min(2.0, wide)), tall), tint)


def paint_now(painter: QPainter, lanes: LanesShown) -> None:
    """Draw the now-line with its time."""
    x = lanes.x_of(lanes.session.frame)
    if x < HEAD - 1:
        return
    for ruled in lanes.ruled:
        if -84 < ruled - x < 26:  # the now-line's own time stands there
            painter.fillRect(QRectF(max(ruled + 2, HEAD), 0, 82, RULER - 3), colour("window"))
    painter.setPen(QPen(colour("chalk"), 1.4))
    painter.drawLine(QPointF(x, RULER), QPointF(x, lanes.height()))
    text = time_text(lanes.session, lanes.session.frame, short=True)
    wide = QFontMetricsF(font(11)).horizontalAdvance(text) + 12
    rect = QRectF(min(max(x - wide / 2, HEAD), lanes.width() - wide), 1, wide, 16)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("chalk"))
    painter.drawRoundedRect(rect, 2, 2)
    painter.drawPolygon(QPolygonF([QPointF(x - 4, 16), QPointF(x + 4, 16), QPointF(x, RULER + 1)]))
    painter.setPen(ink_on("chalk"))
    painter.setFont(font(11, strong=True))
    painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter), text)


__all__ = ["HEAD", "MARKERS", "RULER", "paint_now", "paint_ready", "paint_row", "paint_ruler", "paint_value"]
