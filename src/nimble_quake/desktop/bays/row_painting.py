"""A row of a list, and how it is painted."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Protocol

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPen, QPolygonF

from nimble_quake.desktop.theme.look import font, paint_icon
from nimble_quake.desktop.theme.roles import colour

EYE = 24.0
INDENT = 18.0
ROOMY = 250
"""From this width on a row says what it costs."""
NARROW = 150
"""Below so many pixels rows show their names alone."""


@dataclass(frozen=True)
class Row:
    """One row. `depth`: how far it is indented. `note` stands at the right."""

    path: str
    title: str
    second: str = ""
    note: str = ""
    on: bool = True
    depth: int = 0
    region: str = "brass"
    number: str = ""
    open: bool | None = None
    map_name: str = ""
    pinned: bool = False
    """Pins switch it over time."""
    locked: bool = False
    shared: bool = False
    """Others have the same values."""
    masked: bool = False
    """A map says where it acts."""
    pictured: bool = False
    """Its note stands small on the second line."""
    small: bool = False
    """It has a sign in place of a picture, and a plain name."""
    chooses: bool = False
    """Its note is a choice: a click opens the others."""
    level: str = ""
    """A number behind the note; a click goes to it."""
    cost: str = ""
    """What it takes of a frame: said behind the note where there is room."""


class Painted(Protocol):
    """The list that rows are painted in."""

    thumb: QSize
    thumbs: dict[str, QImage]
    selected: tuple[str, ...]
    hot: dict[str, tuple[QRectF, QRectF]]

    def width(self) -> int: ...


def paint_row(rows: Painted, painter: QPainter, row: Row, box: QRectF) -> None:
    left = row.depth * INDENT
    chosen = row.path in rows.selected
    rect = box.adjusted(left, 0, 0, 0)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour("raised", 110))
    painter.drawRoundedRect(rect, 3, 3)
    if chosen:
        painter.setBrush(colour(row.region, 66))
        painter.drawRoundedRect(rect, 3, 3)
        painter.fillRect(QRectF(rect.left(), rect.top(), 3, rect.height()), colour(row.region))
    x = rect.left() + 6
    if row.open is not None:
        paint_icon(
            painter, "shut" if row.open else "forward", QRectF(x - 2, box.center().y() - 6, 12, 12), colour("quiet")
        )
        x += 13
    if row.number:
        painter.setFont(font(12))
        painter.setPen(colour("text" if chosen else "quiet"))
        painter.drawText(QRectF(x, box.top(), 14, box.height()), int(Qt.AlignmentFlag.AlignCenter), row.number)
        x += 17
    x = _paint_thumb(rows, painter, row, box, x)
    _paint_words(rows, painter, row, box, x, chosen)
    tint = colour("text" if chosen else "quiet")
    eye = QRectF(box.right() - 19, box.center().y() - 7, 14, 14)
    paint_icon(painter, "eye" if row.on else "eye-off", eye, tint if row.on else colour("dim"))
    if row.pinned:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(row.region))
        painter.drawEllipse(QRectF(eye.right() - 3, eye.bottom() - 3, 5, 5))


def _paint_thumb(rows: Painted, painter: QPainter, row: Row, box: QRectF, x: float) -> float:
    if row.small:
        paint_icon(
            painter,
            "finish" if row.region == "lagoon" else "quake",
            QRectF(x, box.center().y() - 7, 14, 14),
            colour(row.region if row.on else "dim"),
        )
        return x + 20
    if rows.width() < NARROW:
        return x
    size = rows.thumb
    rect = QRectF(x, box.center().y() - size.height() / 2, size.width(), size.height())
    painter.fillRect(rect, colour("well"))
    if row.path in rows.thumbs:
        painter.setOpacity(1.0 if row.on else 0.4)
        painter.drawImage(rect, rows.thumbs[row.path])
        painter.setOpacity(1.0)
    return x + size.width() + 8


def _paint_words(rows: Painted, painter: QPainter, row: Row, box: QRectF, x: float, chosen: bool) -> None:
    main: QColor = colour("text" if row.on else "dim")
    quiet = colour("text" if chosen else "quiet") if row.on else colour("dim")
    right = box.right() - EYE
    middle = int(Qt.AlignmentFlag.AlignVCenter)
    if rows.width() < NARROW:  # its name is what there is room for; how it blends stands in its settings too
        row = replace(row, note="", map_name="")
        rows.hot.pop(row.path, None)
    if row.note and row.pictured:
        _paint_low_note(painter, row, box, right, quiet)
    elif row.chooses and rows.width() >= NARROW:
        right = _paint_choice(rows, painter, row, box, right, quiet)
    elif row.note or row.cost:
        note = row.note
        if row.cost and box.width() >= ROOMY:
            note = f"{note} · {row.cost}" if note else row.cost
        painter.setFont(font(12))
        wide = QFontMetricsF(font(12)).horizontalAdvance(note) + 4
        painter.setPen(quiet)
        painter.drawText(QRectF(right - wide, box.top(), wide, box.height()), middle, note)
        right -= wide + 4
    if row.shared:
        paint_icon(painter, "link", QRectF(right - 14, box.center().y() - 6, 12, 12), colour("text"))
        right -= 16
    if row.masked:
        _paint_masked(painter, box, right, row.on)
        right -= 14
    strong = font(12, strong=not row.small)
    metrics = QFontMetricsF(strong)
    painter.setFont(strong)
    painter.setPen(main)
    two = bool(row.second) and box.height() > 26
    top = QRectF(x, box.top() + (2 if two else 0), right - x, box.height() / 2 - 1 if two else box.height())
    title = metrics.elidedText(row.title, Qt.TextElideMode.ElideRight, right - x)
    painter.drawText(top, middle, title)
    after = x + metrics.horizontalAdvance(title)
    if row.map_name:
        _paint_map_name(painter, row, box, after, right, quiet)
    elif row.second:
        painter.setFont(font(11))
        painter.setPen(quiet)
        room = QFontMetricsF(font(11)).horizontalAdvance(row.note) + 8 if row.note and row.pictured else 0.0
        low = (
            QRectF(x, box.center().y(), right - x - room, box.height() / 2 - 2)
            if two
            else QRectF(after + 7, box.top(), right - after - 7, box.height())
        )
        second = QFontMetricsF(font(11)).elidedText(row.second, Qt.TextElideMode.ElideRight, max(0.0, low.width()))
        painter.drawText(low, middle, second)


def _paint_choice(rows: Painted, painter: QPainter, row: Row, box: QRectF, right: float, quiet: QColor) -> float:
    """How a plate blends, as a choice, and how much it covers; returns where they begin."""
    metrics, middle = QFontMetricsF(font(12)), int(Qt.AlignmentFlag.AlignVCenter)
    painter.setFont(font(12))
    painter.setPen(quiet)
    wide = metrics.horizontalAdvance("100 %") + 6 if row.level else 0.0
    level = QRectF(right - wide, box.top(), wide, box.height())
    painter.drawText(level.adjusted(0, 0, -4, 0), middle | int(Qt.AlignmentFlag.AlignRight), row.level)
    name = metrics.horizontalAdvance(row.note)
    note = QRectF(level.left() - name - 18, box.top(), name + 16, box.height())
    painter.drawText(note, middle, row.note)
    x, y = note.right() - 8, note.center().y() + 1
    painter.drawPolyline(QPolygonF([QPointF(x - 3, y - 2), QPointF(x, y + 1), QPointF(x + 3, y - 2)]))
    rows.hot[row.path] = (note, level)
    return note.left() - 4


def _paint_low_note(painter: QPainter, row: Row, box: QRectF, right: float, quiet: QColor) -> None:
    """What a step costs, small, at the right: of its second line, if it has one."""
    painter.setFont(font(11))
    painter.setPen(quiet)
    top, tall = (box.center().y(), box.height() / 2 - 2) if row.second else (box.top(), box.height())
    low = QRectF(box.left(), top, right - box.left() - 2, tall)
    painter.drawText(low, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), row.note)


def _paint_map_name(painter: QPainter, row: Row, box: QRectF, x: float, right: float, quiet: QColor) -> None:
    """ "by" and the map's name behind a small brass square: what drives this quake."""
    if right - x < 60:  # the name would be a letter or two
        return
    painter.setFont(font(12))
    painter.setPen(quiet)
    painter.drawText(QRectF(x + 6, box.top(), 18, box.height()), int(Qt.AlignmentFlag.AlignVCenter), "by")
    painter.fillRect(QRectF(x + 26, box.center().y() - 4, 8, 8), colour("brass" if row.on else "dim"))
    room = QRectF(x + 39, box.top(), right - x - 39, box.height())
    painter.setPen(colour("text" if row.on else "dim"))
    name = QFontMetricsF(font(12)).elidedText(row.map_name, Qt.TextElideMode.ElideRight, max(0.0, room.width()))
    painter.drawText(room, int(Qt.AlignmentFlag.AlignVCenter), name)


def _paint_masked(painter: QPainter, box: QRectF, right: float, on: bool) -> None:
    """A half-filled brass square: a map says where it acts."""
    square = QRectF(right - 10, box.center().y() - 4, 8, 8)
    tint = colour("brass" if on else "dim")
    painter.setPen(QPen(tint, 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(square)
    painter.fillRect(QRectF(square.left(), square.top(), 4, 8), tint)
