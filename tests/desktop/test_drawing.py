"""Drawing a shape, and picking a colour, in the picture."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QPushButton

from driving import LEFT, QTest, click, drag, named, press
from nimble_quake.render.values.placement import through
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.verbs.effects import travel_of_mask
from nimble_quake.shot.edits.add import add_effect
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import owner_path


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


def test_a_colour_for_what_went_away_meanwhile_is_not_taken(window):
    session = window.session
    clip = next(p for p in session.shot.plates if p.kind == "clip")
    shot, path = add_effect(session.shot, f"plates/{clip.id}", Node(id="key", kind="colour_key"))
    session.edit("key", shot)
    session.select(plate=f"plates/{clip.id}", effect=path)
    click(named(window, "Pick colour in the picture"))
    session.undo()
    left = session.shot
    said: list[str] = []
    session.message.connect(said.append)
    click(window.picture_bay.viewer, at(window, 640, 600))
    assert said == ["What the colour was for is not there any more"]
    assert session.shot is left
    assert not window.drawing.waits_for


CORNERS = ((300, 200), (700, 180), (760, 420), (320, 460))


def trace(window, corners=CORNERS) -> None:
    for x, y in corners:
        click(window.picture_bay.viewer, at(window, x, y))


def seen(window, path: str) -> list[tuple[float, float]]:
    """Where the points of an outline are seen in the picture."""
    session = window.session
    drawn = session.operator_now(path).dragged_points(session.moment)["outline"]
    travel = travel_of_mask(session, owner_path(path))
    return drawn if travel is None else [through(travel, *point) for point in drawn]


def near(found, wanted, tolerance: float) -> bool:
    return all(abs(a - b) <= tolerance for p, q in zip(found, wanted, strict=True) for a, b in zip(p, q, strict=True))


def test_a_masks_corners_are_set_by_clicks(window):
    """It is a polygon through them, the mask of what was chosen, white inside; one undo."""
    session = window.session
    session.select(plate="plates/title", quake="")
    steps = len(session.history.past)
    run(window, "trace-mask")
    trace(window)
    assert len(session.history.past) == steps, "nothing is made before it is closed"
    press(Qt.Key.Key_Return)
    path = f"maps/{session.raw('plates/title/mask')}/steps/drawn_mask"
    assert session.shown(f"{path}/form") == "polygon"
    assert near(seen(window, path), CORNERS, 2.0)
    assert len(session.history.past) == steps + 1
    assert not window.drawing.tracing.on


def test_the_mask_of_a_plate_is_drawn_dragged_and_travels_where_the_plate_is(window, qtbot):
    """On a plate that is moved, turned and larger: drawn where it was clicked, dragged where the pointer goes."""
    session, viewer = window.session, window.picture_bay.viewer
    session.select(plate="plates/title", quake="")
    session.set("plates/title/position", (700.0, 300.0))
    session.set("plates/title/turn", 25.0)
    session.set("plates/title/scale_x", 1.4)
    run(window, "trace-mask")
    trace(window)
    press(Qt.Key.Key_Return)
    path = f"maps/{session.raw('plates/title/mask')}/steps/drawn_mask"
    assert session.shown("plates/title/mask_hook") == "plate"
    drag(viewer, at(window, *CORNERS[1]), at(window, CORNERS[1][0] + 40, CORNERS[1][1] - 30))
    moved = [CORNERS[0], (CORNERS[1][0] + 40, CORNERS[1][1] - 30), *CORNERS[2:]]
    assert near(seen(window, path), moved, 3.0)
    session.set("plates/title/position", (660.0, 350.0))
    assert near(seen(window, path), [(x - 40, y + 50) for x, y in moved], 3.0)
    session.set("plates/title/mask_hook", "frame")
    assert not near(seen(window, path), moved, 20.0)


def test_backspace_takes_a_point_back_and_a_click_on_the_first_one_closes(window):
    session = window.session
    session.select(plate="plates/title", quake="")
    run(window, "trace-mask")
    trace(window, (*CORNERS[:3], (100, 100)))
    press(Qt.Key.Key_Backspace)
    trace(window, (CORNERS[3], CORNERS[0]))
    path = f"maps/{session.raw('plates/title/mask')}/steps/drawn_mask"
    assert near(seen(window, path), CORNERS, 2.0)


def test_escape_draws_nothing_and_two_points_are_no_outline(window):
    session = window.session
    session.select(plate="plates/title", quake="")
    before = session.shot
    run(window, "trace-mask")
    trace(window, CORNERS[:2])
    press(Qt.Key.Key_Return)
    assert window.drawing.tracing.on
    assert "3 points at least" in window.status.name.text() + window.status.hint.text()
    press(Qt.Key.Key_Escape)
    assert session.shot is before
    assert not window.drawing.tracing.on


@pytest.mark.parametrize("form", ["polygon", "curve"])
def test_an_outline_that_is_there_is_drawn_anew(window, form):
    """By the button in its settings; where it was turned or elsewhere before does not matter."""
    session = window.session
    session.select(plate="plates/title", quake="")
    run(window, "draw-mask")
    path = f"maps/{session.raw('plates/title/mask')}/steps/drawn_mask"
    session.set(f"{path}/form", form)
    session.set(f"{path}/turn", 30.0)
    session.select(step=path)
    window.refresh()
    button = next(
        b for b in window.map_bay.settings.findChildren(QPushButton) if b.text().startswith("Click its points")
    )
    click(button)
    trace(window)
    press(Qt.Key.Key_Return)
    assert near(seen(window, path), CORNERS, 2.0)
    assert session.shown(f"{path}/form") == form
    session.undo()
    assert session.shown(f"{path}/turn") == 30.0
