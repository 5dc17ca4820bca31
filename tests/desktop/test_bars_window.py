"""Bars of clips in the time strip, by the mouse: trimmed, faded, moved together; media moved inside; snapping."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog

from driving import LEFT, QTest, arrived, drag
from nimble_quake.desktop.time.bars import knobs
from nimble_quake.desktop.time.lane_menus import bar_menu
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.samples import FOLDER
from nimble_quake.session.crossings import laying
from nimble_quake.session.verbs.bars import media_span
from nimble_quake.shot.crossings import strongest
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.edits.settings import put_marker
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shotfile.files import read_shot, write_shot

CLIP = str(FOLDER / "media" / "stall.mp4")
"""120 frames at 24 a second, 5 s."""
ALT, CTRL, SHIFT = (
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
)


@pytest.fixture
def strip(opened, qtbot):
    """A window with two clips, one after the other, and a title, whose opacity is pinned."""
    window = opened()
    pinned = Keys((Key(frame=50.0, value=0.0), Key(frame=60.0, value=1.0)))
    plates = (
        Plate(id="name", kind="text", start=48, end=70, values={"words": "Name", "opacity": pinned}),
        Plate(id="b", kind="clip", name="B", start=60, end=110, values={"file": CLIP, "trim": 1.0, "beyond": "hold"}),
        Plate(id="a", kind="clip", name="A", start=4, end=40, values={"file": CLIP, "trim": 0.5, "beyond": "hold"}),
    )
    window.session.take(Shot(width=320, height=180, rate=Fraction(24), length=140, plates=plates))
    window.session.select(plate="plates/a")
    arrived(window, qtbot)
    window.session.set_frame(70)
    arrived(window, qtbot)
    qtbot.waitUntil(lambda: media_span(window.session, "plates/b") is not None)
    window.session.set_frame(1)
    return window


def at(window, path: str, frame: float, y: int = 14) -> QPoint:
    lanes = window.time.lanes
    top = next(top for row, top in lanes.tops() if row.path == path)
    return QPoint(round(lanes.x_of(frame)), int(top) + y)


def pull(window, path: str, first: float, last: float, keys=Qt.KeyboardModifier.NoModifier, y: int = 14) -> None:
    drag(window.time.lanes, at(window, path, first, y), at(window, path, last, y), keys)


def bar(window, id: str) -> tuple[int | None, int | None]:
    plate = window.session.shot.plate(id)
    return plate.start, plate.end


def test_a_trimmed_clip_stays_where_its_media_are(strip):
    """0.5 s of its media lie before its bar: it can begin 12 frames earlier than it does, no more."""
    strip.time.lanes.snap = False
    assert media_span(strip.session, "plates/a") == pytest.approx((-8, 112))
    pull(strip, "plates/a", 4, 14)
    start = bar(strip, "a")[0]
    assert start == pytest.approx(14, abs=1)
    assert strip.session.raw("plates/a/trim") == pytest.approx(0.5 + (start - 4) / 24)
    assert media_span(strip.session, "plates/a") == pytest.approx((-8, 112))
    strip.session.undo()
    pull(strip, "plates/b", 60, 20)
    assert bar(strip, "b")[0] == 36
    assert strip.session.raw("plates/b/trim") == pytest.approx(0, abs=1e-9)


def test_with_alt_the_media_are_moved_inside_and_end_where_they_end(strip):
    before = bar(strip, "a")
    pull(strip, "plates/a", 20, 26, ALT)
    assert bar(strip, "a") == before
    assert strip.session.raw("plates/a/trim") == pytest.approx(0.25, abs=1.5 / 24)
    pull(strip, "plates/a", 10, 38, ALT)
    assert strip.session.raw("plates/a/trim") == 0
    for _ in range(5):
        pull(strip, "plates/a", 38, 8, ALT)
    assert strip.session.raw("plates/a/trim") == pytest.approx(5 - 1 / 24)
    strip.session.undo()
    assert strip.session.raw("plates/a/trim") < 5 - 1 / 24, "a drag is a step"


def test_bars_snap_to_each_other_by_either_end(strip):
    """The first clip is dropped about where the second begins: its end meets it to the frame."""
    lanes = strip.time.lanes
    lanes.set_zoom(4.0, lanes.x_of(0))
    pull(strip, "plates/a", 20, 40.7)
    assert bar(strip, "a") == (24, 60)
    pull(strip, "plates/a", 40, 60)
    assert bar(strip, "a")[0] in (44, 48), "it hangs neither on the bar it was, nor on nothing"


def test_several_are_moved_as_one(strip):
    strip.time.lanes.snap = False
    QTest.mouseClick(strip.time.lanes, LEFT, pos=at(strip, "plates/a", 20))
    QTest.mouseClick(strip.time.lanes, LEFT, SHIFT, at(strip, "plates/b", 80))
    pull(strip, "plates/b", 80, 88)
    way = bar(strip, "b")[0] - 60
    assert way == pytest.approx(8, abs=1)
    assert bar(strip, "a") == (4 + way, 40 + way)
    assert bar(strip, "name") == (48, 70)
    strip.session.undo()
    assert (bar(strip, "a"), bar(strip, "b")) == ((4, 40), (60, 110))


def test_with_ctrl_pins_go_along(strip):
    strip.time.lanes.snap = False
    pull(strip, "plates/name", 58, 64)
    assert [key.frame for key in strip.session.raw("plates/name/opacity").keys] == [50, 60]
    strip.session.undo()
    pull(strip, "plates/name", 58, 64, CTRL)
    way = bar(strip, "name")[0] - 48
    assert [key.frame for key in strip.session.raw("plates/name/opacity").keys] == [50 + way, 60 + way]


def test_fades_are_drawn_from_the_corners_and_saved(strip, tmp_path):
    lanes = strip.time.lanes
    lanes.snap = False
    QTest.mouseClick(lanes, LEFT, pos=at(strip, "plates/b", 80))
    inner, outer = knobs(lanes, "plates/b")
    top = at(strip, "plates/b", 0, 6).y()
    drag(lanes, QPoint(round(inner), top), QPoint(round(lanes.x_of(70)), top))
    drag(lanes, QPoint(round(outer), top), QPoint(round(lanes.x_of(98)), top))
    come, go = strip.session.shot.plate("b").fades
    assert come == pytest.approx(10, abs=1)
    assert go == pytest.approx(12, abs=1)
    assert bar(strip, "b") == (60, 110)
    write_shot(strip.session.shot, tmp_path / "s.nquake")
    assert read_shot(tmp_path / "s.nquake").plate("b").fades == (come, go)
    inner, _ = knobs(lanes, "plates/b")
    drag(lanes, QPoint(round(inner), top), QPoint(round(lanes.x_of(60)), top))
    assert strip.session.shot.plate("b").fades == (0, go)


def test_a_crossings_strongest_moment_is_dragged_onto_a_marker_and_its_length_typed(strip, monkeypatch):
    session, lanes = strip.session, strip.time.lanes
    session.edit("", put_marker(set_field(session.shot, "plates/a", end=80), 66, "Cut"))
    path = laying.new_crossing(session, ("a", "b"))
    assert bar(strip, id_of(path)) == (60, 80)
    lanes.set_zoom(6.0, lanes.x_of(60))
    pull(strip, path, strongest(session.shot, path), 66.5)
    assert strongest(session.shot, path) == 66
    assert session.shot.plate(id_of(path)).values["strength"].keys[1].frame == 66
    typed = iter(("1 s", "30 f", "nonsense"))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: (next(typed), True))
    menu = bar_menu(session, path, strip)
    length = next(action for action in menu.actions() if action.text() == "Length …")
    length.trigger()
    start, end = bar(strip, id_of(path))
    assert end - start == 24
    assert strongest(session.shot, path) == pytest.approx(66, abs=0.5)
    assert (bar(strip, "a")[1], bar(strip, "b")[0]) == (end, start), "its plates go along"
    length.trigger()
    assert bar(strip, id_of(path))[1] - bar(strip, id_of(path))[0] == 30
    said: list[str] = []
    session.message.connect(said.append)
    before = session.shot
    length.trigger()
    assert session.shot is before
    assert "no length" in said[-1]


def test_a_crossing_has_no_fades_whatever_its_strongest_moment_does(strip):
    """Its upper corners slide it, also where that moment is pinned and has no knob."""
    session, lanes = strip.session, strip.time.lanes
    session.edit("", set_field(session.shot, "plates/a", end=80))
    path = laying.new_crossing(session, ("a", "b"))
    session.set(f"{path}/strongest", Keys((Key(frame=60.0, value=0.2), Key(frame=79.0, value=0.8))))
    lanes.set_zoom(6.0, lanes.x_of(60))
    inner, _ = knobs(lanes, path)
    drag(lanes, QPoint(round(inner), at(strip, path, 0, 6).y()), QPoint(round(inner) + 30, at(strip, path, 0, 6).y()))
    assert session.shot.plate(id_of(path)).fades == (0, 0)
