"""Sounds and bands in the time strip: waveforms in chalk, levels in brass, beats as ticks; sounds are dragged."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen, QPolygonF
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.analysis.bands import HOP_RATE
from nimble_quake.desktop.sound.hearing import PEAK_RATE
from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.time.lanes_shown import LanesShown
from nimble_quake.desktop.time.rows import TimeRow
from nimble_quake.desktop.widgets.parts import add_question
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.render.heard import Placed, own_sounds
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import sounds
from nimble_quake.session.verbs.items import remove_item
from nimble_quake.session.verbs.sounds import add_band, mute
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, id_of, value_path

FAINT = 110
"""The alpha of a waveform that words are written over."""
MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)
RIGHT = int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight)


def sound_rows(session: Session) -> list[TimeRow]:
    """Return the rows of sounds, each with the bands that listen to it; bands of all sounds come last."""
    rows: list[TimeRow] = []
    bands = [(f"bands/{band.id}", str(band.values.get("of", ""))) for band in session.shot.bands]
    ids = {sound.id for sound in session.shot.sounds}
    for sound in session.shot.sounds:
        path = f"sounds/{sound.id}"
        rows.append(TimeRow(path, session.name_of(path), "chalk", sort="sound"))
        rows += [_band_row(session, band) for band, of in bands if of == sound.id]
    return rows + [_band_row(session, band) for band, of in bands if of not in ids]


def _band_row(session: Session, path: str) -> TimeRow:
    return TimeRow(path, session.name_of(path), "brass", sort="band")


def placed_in(session: Session, path: str) -> Placed | None:
    """Return where a sound lies in time; None until it is decoded, or where it is muted."""
    return next((at for at, _ in sounds.heard(session) if at.id == id_of(path)), None)


def paint_sound_head(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float, head: int) -> None:
    """Draw the name of a sound or band, and what is to be known of it."""
    session, tall = lanes.session, row.height - 1
    node = find(session.shot, row.path)
    muted = isinstance(node, Node) and not node.on
    painter.setFont(font(12, strong=row.sort == "sound"))
    painter.setPen(colour("quiet" if muted else "text"))
    left = 10 if row.sort == "sound" else 33
    painter.drawText(QRectF(left, top, 124, tall), MIDDLE, row.label)
    painter.setFont(font(11))
    painter.setPen(colour("quiet"))
    if row.sort == "sound":
        gain = float(session.shown(value_path(row.path, "gain")) or 0.0)
        said = "muted" if muted else f"sound  {gain:+.1f} dB" if gain else "sound"
        failed = session.engine.recordings.failed(str(session.shown(value_path(row.path, "file")) or ""))
        painter.setPen(colour("fault_text" if failed else "quiet"))
        painter.drawText(QRectF(head - 110, top, 100, tall), RIGHT, "not found" if failed else said)
    else:
        low, high = (float(session.shown(value_path(row.path, name)) or 0) for name in ("low", "high"))
        painter.drawText(QRectF(head - 130, top, 84, tall), RIGHT, f"{low:.0f}–{high:.0f} Hz")
        painter.setPen(QPen(colour("brass"), 1.4))
        painter.drawPolyline(
            QPolygonF([QPointF(14, top + 15), QPointF(18, top + 7), QPointF(22, top + 16), QPointF(26, top + 9)])
        )


def paint_sound(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float, head: int) -> None:
    """Draw a sound's waveform where it lies."""
    session = lanes.session
    node = find(session.shot, row.path)
    if not isinstance(node, Node):
        return
    file = str(session.shown(value_path(row.path, "file")) or "")
    peaks = lanes.peaks(file)
    at = placed_in(session, row.path)
    if peaks is None or at is None:
        painter.setFont(font(11))
        painter.setPen(colour("quiet"))
        failed = session.engine.recordings.failed(file)
        said = failed or ("muted" if not node.on else "reading the sound …")
        painter.drawText(QRectF(head + 24, top, lanes.width() - head - 40, row.height - 1), MIDDLE, said)
        return
    rate = float(session.shot.rate)
    left, right = lanes.x_of(at.begins * rate), lanes.x_of((at.begins + at.lasts) * rate)
    rect = QRectF(left, top + 2, max(4.0, right - left), row.height - 5)
    painter.setPen(QPen(colour("rail"), 1))
    painter.setBrush(colour("raised", 120))
    painter.drawRoundedRect(rect, 3, 3)
    paint_wave(painter, lanes, at, rect, head)
    painter.setPen(QPen(colour("chalk", 140), 1, Qt.PenStyle.DashLine))
    into, out = (rect.width() * fade / max(at.lasts, 1e-6) for fade in (at.fade_in, at.fade_out))
    if into > 1:
        painter.drawLine(QPointF(rect.left(), rect.bottom()), QPointF(rect.left() + into, rect.top()))
    if out > 1:
        painter.drawLine(QPointF(rect.right() - out, rect.top()), QPointF(rect.right(), rect.bottom()))


def paint_own_sounds(painter: QPainter, lanes: LanesShown, path: str, rect: QRectF, head: int) -> None:
    """Draw the waveform of a clip's own sound in its bar, where it is heard, as loud as crossings leave it."""
    shot, plate = lanes.session.shot, find(lanes.session.shot, path)
    rate = float(shot.rate)
    if isinstance(plate, Plate):
        for at, _ in own_sounds(shot, plate, lanes.session.engine.recordings.known):
            left, right = lanes.x_of(at.begins * rate), lanes.x_of((at.begins + at.lasts) * rate)
            paint_wave(painter, lanes, at, QRectF(left, rect.top(), right - left, rect.height()), head, FAINT)


def paint_wave(painter: QPainter, lanes: LanesShown, at: Placed, rect: QRectF, head: int, alpha: int = 190) -> None:
    """Draw a sound's waveform from the left to the right of a rectangle, as far as it is in view."""
    peaks = lanes.peaks(at.file)
    if peaks is None:
        return
    rate, left, right = float(lanes.session.shot.rate), rect.left(), rect.right()
    middle, tall = rect.center().y(), rect.height() / 2 - 2
    first, last = max(int(left) + 1, head), min(int(right), lanes.width())
    xs = np.arange(first, max(first, last), dtype=np.float64)
    if not len(xs):
        return
    a, b = (lanes.frame_at(x) / rate - at.begins for x in (xs[0], xs[-1] + 1))
    bounds = (np.linspace(a, b, len(xs) + 1) * at.speed + at.first) * PEAK_RATE
    fractions = at.fractions((xs - left) / max(1.0, right - left) * at.lasts + at.begins)
    highs = np.minimum(_most(peaks, bounds) * fractions, 1.0) * tall
    path = QPainterPath()
    upper = [QPointF(x, middle - max(0.4, h)) for x, h in zip(xs.tolist(), highs.tolist(), strict=True)]
    lower = [QPointF(x, middle + max(0.4, h)) for x, h in zip(xs.tolist(), highs.tolist(), strict=True)]
    path.addPolygon(QPolygonF([*upper, *reversed(lower)]))
    painter.fillPath(path, colour("chalk", alpha))


def _most(peaks: np.ndarray, bounds: np.ndarray) -> np.ndarray:
    """The highest peak between each two bounds."""
    at = np.clip(np.floor(bounds).astype(np.int64), 0, len(peaks))
    padded = np.append(peaks, np.float32(0))
    if (np.diff(at) <= 1).all():
        return np.asarray(padded[at[:-1]])
    return np.asarray(np.maximum.reduceat(padded, at)[: len(bounds) - 1])


def paint_band(painter: QPainter, lanes: LanesShown, row: TimeRow, top: float, head: int) -> None:
    """Draw a band's level over time."""
    try:
        levels = lanes.session.answers().levels(id_of(row.path))
    except NimbleQuakeError:
        return
    rate = float(lanes.session.shot.rate)
    xs = np.arange(head, lanes.width(), 1.5)
    times = np.array([lanes.frame_at(float(x)) for x in (xs[0], xs[-1])]) / rate * HOP_RATE
    values = np.interp(np.linspace(times[0], times[1], len(xs)), np.arange(len(levels)), levels, left=0, right=0)
    tall, foot = row.height - 7, top + row.height - 3
    points = [QPointF(x, foot - v * tall) for x, v in zip(xs.tolist(), values.tolist(), strict=True)]
    area = QPainterPath()
    area.addPolygon(QPolygonF([QPointF(head, foot), *points, QPointF(lanes.width(), foot)]))
    painter.fillPath(area, colour("brass", 50))
    painter.setPen(QPen(colour("brass"), 1.3))
    painter.drawPolyline(QPolygonF(points))


def paint_beats(painter: QPainter, lanes: LanesShown, top: float, tall: float) -> None:
    """Draw the beats as ticks."""
    beats = lanes.session.shot.beats
    if not beats:
        return
    close = len(beats) > 1 and lanes.x_of(beats[1]) - lanes.x_of(beats[0]) < 3
    painter.setPen(QPen(colour("good", 90 if close else 220), 1.4))
    for beat in beats:
        x = lanes.x_of(beat)
        painter.drawLine(QPointF(x, top + 4), QPointF(x, top + tall - 4))


def grip_of(session: Session, path: str, frame: float, near: float) -> str:
    """Return what of a sound a press takes: its "start" or "end" to be trimmed, or all of it to "slide"; or nothing."""
    at, rate = placed_in(session, path), float(session.shot.rate)
    if at is None:
        return ""
    begins, ends = at.begins * rate, (at.begins + at.lasts) * rate
    if not begins - near <= frame <= ends + near:
        return ""
    return "start" if frame < begins + near else "end" if frame > ends - near else "slide"


def dragged(session: Session, path: str, grip: str, at: Placed, frame: float) -> None:
    """Slide or trim a sound to a frame; `at`: where it lay when the drag began."""
    rate = float(session.shot.rate)
    shot = session.shot
    if grip == "slide":
        shot = set_value(shot, value_path(path, "start"), float(round(frame)))
    elif grip == "start":
        seconds = min(max(round(frame) / rate, at.begins - at.first), at.begins + at.lasts - 1 / rate)
        gone = seconds - at.begins
        shot = set_value(shot, value_path(path, "start"), float(round(seconds * rate)))
        shot = set_value(shot, value_path(path, "first"), max(0.0, at.first + gone))
        shot = set_value(shot, value_path(path, "lasts"), at.lasts - gone)
    else:
        shot = set_value(shot, value_path(path, "lasts"), max(1 / rate, round(frame) / rate - at.begins))
    session.change(shot)


def sound_menu(session: Session, path: str, parent: QWidget) -> QMenu:
    """Return the menu of a sound or band; it is selected."""
    menu = QMenu(parent)
    session.select(sound=path)
    if path.startswith("sounds/"):
        menu.addAction("Mute, or hear again", lambda: mute(session, path))
        menu.addAction("Add a band that listens to it", lambda: add_band(session))
    menu.addAction("Remove", lambda: remove_item(session, path))
    add_question(menu, session.help_asked.emit, "sound")
    return menu
