"""Drawing a shape, and picking a colour, in the picture."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt

from driving import LEFT, QTest, click, drag, named, press
from nimble_quake.session.actions import ACTIONS
from nimble_quake.shot.edits.add import add_effect
from nimble_quake.shot.model import Node


def at(window, x: float, y: float) -> QPoint:
    return window.picture_bay.viewer.to_widget(x, y).toPoint()


def run(window, id: str) -> None:
    next(action for action in ACTIONS if action.id == id).run(window)


def test_a_shape_is_drawn_by_a_drag(window):
    run(window, "draw-shape")
    drag(window.picture_bay.viewer, at(window, 200, 150), at(window, 600, 350))
    session = window.session
    assert session.selection.plate == "plates/shape"
    x, y = session.shown("plates/shape/position")
    assert (x, y) == (pytest.approx(400, abs=5), pytest.approx(250, abs=5))
    assert session.shown("plates/shape/width") == pytest.approx(400, abs=8)
    assert session.shown("plates/shape/height") == pytest.approx(200, abs=8)
    assert not window.drawing.waits_for, "the next drag moves it"
    session.undo()
    assert session.shot.plate("shape") is None


def test_a_click_draws_one_of_the_usual_size_and_escape_draws_none(window):
    count = len(window.session.shot.plates)
    run(window, "draw-shape")
    press(Qt.Key.Key_Escape)
    assert not window.drawing.waits_for
    run(window, "draw-shape")
    click(window.picture_bay.viewer, at(window, 300, 300))
    assert len(window.session.shot.plates) == count + 1
    assert window.session.shown("plates/shape/width") == window.session.param("plates/shape/width").default


def test_escape_while_a_shape_is_drawn_leaves_none_and_selects_what_was(window):
    """And the drag goes on until its button is released: it changes nothing, the next one does."""
    session, viewer = window.session, window.picture_bay.viewer
    before, selected, steps = session.shot, session.selection, len(session.history.past)
    run(window, "draw-shape")
    QTest.mousePress(viewer, LEFT, pos=at(window, 200, 150))
    QTest.mouseMove(viewer, at(window, 400, 300))
    assert session.shot != before
    press(Qt.Key.Key_Escape)
    QTest.mouseMove(viewer, at(window, 500, 320))
    QTest.mouseRelease(viewer, LEFT, pos=at(window, 500, 320))
    assert (session.shot, session.selection.plate, len(session.history.past)) == (before, selected.plate, steps)
    assert not session.history.gesturing
    assert not window.drawing.waits_for
    session.set("plates/title/size", 77.0)
    assert session.shown("plates/title/size") == 77.0


def test_escape_while_a_plate_is_scaled_in_the_picture(window):
    session, viewer = window.session, window.picture_bay.viewer
    session.select(plate="plates/title")
    before, steps = session.shot, len(session.history.past)
    grip = next(grip for grip in window.picture_bay.handles.grips() if grip.sort == "scale").at
    QTest.mousePress(viewer, LEFT, pos=at(window, grip.x(), grip.y()))
    QTest.mouseMove(viewer, at(window, grip.x() - 60, grip.y() - 20))
    assert session.shot != before
    press(Qt.Key.Key_Escape)
    QTest.mouseMove(viewer, at(window, grip.x() - 90, grip.y() - 20))
    QTest.mouseRelease(viewer, LEFT, pos=at(window, grip.x() - 90, grip.y() - 20))
    assert (session.shot, len(session.history.past)) == (before, steps)
    assert not session.awaits_release


def test_a_key_takes_the_colour_that_is_clicked(window):
    """The plate's own colour before the key: here the fill of the title's letters is not looked at, the clip is."""
    session = window.session
    clip = next(p for p in session.shot.plates if p.kind == "clip")
    session.select(plate=f"plates/{clip.id}", quake="")
    shot, path = add_effect(session.shot, f"plates/{clip.id}", Node(id="key", kind="colour_key"))
    session.edit("key", shot)
    session.select(effect=path)
    before = session.shown(f"{path}/colour")
    click(named(window, "Pick colour in the picture"))
    assert window.drawing.waits_for == f"{path}/colour"
    click(window.picture_bay.viewer, at(window, 640, 600))
    after = session.shown(f"{path}/colour")
    assert after != before
    assert after[3] == 1
    session.undo()
    assert session.shown(f"{path}/colour") == before
