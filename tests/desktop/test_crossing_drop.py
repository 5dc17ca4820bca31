"""A crossing dragged from the board onto the time strip: marked where it would lie, and laid there."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QDrag, QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QWidget

from driving import LEFT, QTest, arrived
from nimble_quake.desktop.time.crossing_drop import MIME, packed
from nimble_quake.samples import FOLDER
from nimble_quake.shot.crossings import CROSSING
from nimble_quake.shot.model import Plate, Shot

COPY, NONE = Qt.DropAction.CopyAction, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def strip(opened, qtbot):
    """A window with two clips that touch at frame 40, and the playhead far from there."""
    window = opened()
    file = str(FOLDER / "media" / "stall.mp4")
    plates = (
        Plate(id="b", kind="clip", name="B", start=40, end=90, values={"file": file, "beyond": "hold"}),
        Plate(id="a", kind="clip", name="A", start=0, end=40, values={"file": file, "trim": 2.0, "beyond": "hold"}),
    )
    window.session.take(Shot(width=320, height=180, rate=Fraction(24), length=100, plates=plates))
    window.session.select(plate="plates/a")
    arrived(window, qtbot)
    return window


def over(window, path: str, frame: float) -> QPoint:
    lanes = window.time.lanes
    top = next(top for row, top in lanes.tops() if row.path == path)
    return QPoint(round(lanes.x_of(frame)), int(top) + 10)


def drop(window, at: QPoint, name: str) -> bool:
    """Drag a crossing there and let it go, as the window system tells it. Returns whether it was taken."""
    lanes, data = window.time.lanes, packed(name)
    event = QDropEvent(QPointF(at), COPY, data, LEFT, NONE)
    for each in (QDragEnterEvent(at, COPY, data, LEFT, NONE), QDragMoveEvent(at, COPY, data, LEFT, NONE), event):
        each.ignore()
        QApplication.sendEvent(lanes, each)
    return event.isAccepted()


def mark(window) -> str:
    """What the mark on the strip says; empty while there is none."""
    found = [child for child in window.time.lanes.findChildren(QWidget) if "→" in child.accessibleName() or ""]
    return next((child.accessibleName() for child in found if child.isVisible()), "")


def test_it_is_marked_and_laid_on_the_cut(strip, qtbot):
    lanes, data, at = strip.time.lanes, packed("cross-light-bar"), over(strip, "plates/b", 47)
    enters = QDragEnterEvent(at, COPY, data, LEFT, NONE)
    QApplication.sendEvent(lanes, enters)
    assert enters.isAccepted()
    assert mark(strip) == "A → B"
    QApplication.sendEvent(lanes, QDragLeaveEvent())
    assert mark(strip) == ""
    drop(strip, at, "cross-light-bar")
    assert mark(strip) == ""
    (laid,) = [plate for plate in strip.session.shot.plates if plate.kind == CROSSING]
    assert (laid.values["before"], laid.values["after"], laid.start, laid.name) == ("a", "b", 40, "Light bar")
    assert strip.session.selection.plate == f"plates/{laid.id}"
    strip.session.undo()
    assert not any(plate.kind == CROSSING for plate in strip.session.shot.plates)


def test_what_is_no_crossing_of_ours_is_one_line(strip):
    said: list[str] = []
    strip.session.message.connect(said.append)
    before = strip.session.shot
    drop(strip, over(strip, "plates/a", 20), "of nobody")
    assert strip.session.shot is before
    assert len(said) == 1
    assert "of nobody" in said[0]
    strip.session.take(Shot(width=320, height=180))
    assert not drop(strip, QPoint(400, 60), "cross-light-bar")


@pytest.mark.parametrize("ends", [COPY, Qt.DropAction.IgnoreAction])
def test_it_is_dragged_off_the_board(strip, qtbot, monkeypatch, ends):
    """The board closes where it was taken, and stays where it was not."""
    carried: list[str] = []

    def runs(drag: QDrag, *_: object) -> Qt.DropAction:
        carried.append(bytes(drag.mimeData().data(MIME).data()).decode())
        return ends

    monkeypatch.setattr(QDrag, "exec", runs)
    QTest.keyClick(strip, Qt.Key.Key_X, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    qtbot.waitUntil(strip.board.isVisible)
    cells = strip.board.cells
    entry, box, _ = cells.boxes()[1]
    start = box.center().toPoint()
    QTest.mousePress(cells, LEFT, NONE, start)
    QTest.mouseMove(cells, start + QPoint(5, 0))
    assert carried == []
    QTest.mouseMove(cells, start + QPoint(30, 0))
    QTest.mouseRelease(cells, LEFT, NONE, start + QPoint(30, 0))
    assert [f"crossing:{name}" for name in carried] == [entry.key]
    assert strip.board.isVisible() == (ends != COPY)
    assert not any(plate.kind == CROSSING for plate in strip.session.shot.plates)
