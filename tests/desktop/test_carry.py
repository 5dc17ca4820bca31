"""Copy, cut, paste and drag of plates, effects and steps: keys go to what has the focus."""

from __future__ import annotations

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

from driving import LEFT, QTest, drag, press
from nimble_quake.desktop.carrying import MIME
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.verbs import carry
from nimble_quake.shot.fragment import fragment_of
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import id_of
from nimble_quake.shotfile.fragments import fragment_text

CTRL, ALT, SHIFT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier,
)
PUSH = "plates/title/effects/push"


@pytest.fixture
def bench(window):
    """The demo with an empty fill on top; the stack has the focus."""
    session = window.session
    session.edit(
        "fill", msgspec.structs.replace(session.shot, plates=(Plate(id="z", kind="fill"), *session.shot.plates))
    )
    window.picture_bay.stack.setFocus()
    QApplication.clipboard().clear()
    window.carrying.preferences.pasted_pins = "keep"
    return window


def effects(window, plate: str) -> list[str]:
    return [effect.kind for effect in window.session.shot.plate(plate).effects]


def test_an_effect_is_copied_to_another_plate_with_its_map(bench):
    session = bench.session
    maps = len(session.shot.maps)
    session.select(effect=PUSH)
    press(Qt.Key.Key_C, CTRL)
    session.select(plate="plates/z")
    press(Qt.Key.Key_V, CTRL)
    assert effects(bench, "z") == ["push"]
    assert session.selection.quake == "plates/z/effects/push"
    assert len(session.shot.maps) == maps + 1
    assert session.raw("plates/z/effects/push/map") != session.raw(f"{PUSH}/map")
    session.undo()
    assert effects(bench, "z") == []
    assert len(session.shot.maps) == maps


def test_linked_it_shares_the_map_and_on_several_plates_at_once(bench):
    session = bench.session
    maps = len(session.shot.maps)
    session.select(effect=PUSH)
    press(Qt.Key.Key_C, CTRL)
    session.select(plate="plates/z")
    session.mark(frozenset({"plates/emblem"}))
    press(Qt.Key.Key_V, CTRL | ALT)
    assert effects(bench, "z") == ["push"]
    assert effects(bench, "emblem")[-1] == "push"
    assert len(session.shot.maps) == maps


def test_a_plate_is_cut_and_pasted_into_another_shot(bench):
    session = bench.session
    title = session.shot.plate("title")
    session.select(plate="plates/title")
    press(Qt.Key.Key_X, CTRL)
    assert session.shot.plate("title") is None
    shot = session.shot
    session.take(Shot(width=shot.width, height=shot.height, rate=shot.rate, length=shot.length))
    bench.picture_bay.stack.setFocus()
    press(Qt.Key.Key_V, CTRL)
    assert session.shot.plate("title") == title
    assert [map.id for map in session.shot.maps] == [str(title.effects[0].values["map"])]


def test_a_step_is_copied_where_the_map_bay_has_the_focus(bench):
    session = bench.session
    step = session.selection.step
    bench.map_bay.recipe.setFocus()
    count = len(session.shot.map(step.split("/")[1]).recipe)
    press(Qt.Key.Key_C, CTRL)
    press(Qt.Key.Key_V, CTRL)
    recipe = session.shot.map(step.split("/")[1]).recipe
    assert len(recipe) == count + 1
    assert recipe[1].kind == recipe[0].kind
    assert id_of(session.selection.step) == recipe[1].id


def test_values_only_go_to_an_effect_of_the_same_kind(bench):
    session = bench.session
    session.edit("push", carry_shot(session.shot))
    session.select(effect=PUSH)
    press(Qt.Key.Key_C, CTRL)
    session.select(effect="plates/z/effects/q")
    press(Qt.Key.Key_V, CTRL | ALT | SHIFT)
    assert session.raw("plates/z/effects/q/reach_y") == session.raw(f"{PUSH}/reach_y")
    assert session.raw("plates/z/effects/q/map") == "own", "what it refers to stays"
    session.select(plate="plates/z")
    before = session.shot
    press(Qt.Key.Key_V, CTRL | ALT | SHIFT)
    assert session.shot is before


def carry_shot(shot: Shot) -> Shot:
    quake = Node(id="q", kind="push", values={"map": "own", "reach_y": 1.5})
    plates = tuple(msgspec.structs.replace(p, effects=(quake,)) if p.id == "z" else p for p in shot.plates)
    return msgspec.structs.replace(shot, plates=plates)


@pytest.mark.parametrize(("modifiers", "left"), [(Qt.KeyboardModifier.NoModifier, []), (CTRL, ["push"])])
def test_a_row_is_dragged_to_another_plate_with_ctrl_it_is_copied(bench, modifiers, left):
    session, stack = bench.session, bench.picture_bay.stack
    rows = [row.path for row in stack.rows]
    kinds = effects(bench, "title")
    start, end = (QPoint(60, 22 * rows.index(path) + 11) for path in (PUSH, "plates/z"))
    QTest.mousePress(stack, LEFT, Qt.KeyboardModifier.NoModifier, start)
    for share in (0.5, 1.0):
        QTest.mouseMove(stack, start + (end - start) * share)
    QTest.mouseRelease(stack, LEFT, modifiers, end)
    assert effects(bench, "z") == ["push"]
    assert effects(bench, "title") == [*left, *kinds[1:]]
    session.undo()
    assert effects(bench, "title") == kinds


def test_a_drag_among_its_own_still_moves_a_plate(bench):
    stack = bench.picture_bay.stack
    order = [plate.id for plate in bench.session.shot.plates]
    rows = [row.path for row in stack.rows]
    drag(stack, QPoint(60, 11), QPoint(60, 22 * (rows.index("plates/title") + 1) + 20))
    assert [plate.id for plate in bench.session.shot.plates] != order


def test_text_from_elsewhere_is_one_line(bench):
    said: list[str] = []
    foreign = '{"nimble_quake_fragment": 2, "picked": ["plates/x"], "shot": {}}'
    bench.session.message.connect(said.append)
    for text in ("", "hello", '{"a": 1}', foreign, "{" * 90_000):
        QApplication.clipboard().setText(text)
        before = bench.session.shot
        press(Qt.Key.Key_V, CTRL)
        assert bench.session.shot is before
    assert len(said) == 5
    assert all("the clipboard" in line and "\n" not in line for line in said)


def test_it_is_on_the_clipboard_as_text_too(bench):
    bench.session.select(effect=PUSH)
    press(Qt.Key.Key_C, CTRL)
    data = QApplication.clipboard().mimeData()
    kinds = bench.session.engine.operators.get
    assert data.text() == fragment_text(fragment_of(bench.session.shot, [PUSH], kinds, bench.session.frame))
    assert data.data(MIME).data().decode() == data.text()


def refocus(window) -> None:
    """The offscreen platform gives no window back its focus when a dialog closes."""
    window.hide()
    window.show()
    window.activateWindow()
    window.picture_bay.stack.setFocus()
    QTest.qWaitForWindowActive(window)


@pytest.mark.parametrize(("button", "by"), [("Keep their frames", 0), ("Move with the playhead", 20)])
def test_where_pins_go_is_asked_once(bench, button, by):
    """Copied at frame 0, pasted at 20 and at 40."""
    session = bench.session
    bench.carrying.preferences.pasted_pins = ""
    session.set_frame(0)
    session.select(effect=PUSH)
    press(Qt.Key.Key_C, CTRL)
    frames = [key.frame for key in session.raw(f"{PUSH}/reach_x").keys]

    def answer() -> None:
        box = QApplication.activeModalWidget()
        if not isinstance(box, QMessageBox):
            QTimer.singleShot(20, answer)
            return
        next(b for b in box.buttons() if b.text() == button).click()

    QTimer.singleShot(20, answer)
    for frame in (20, 40):
        session.set_frame(frame)
        session.select(plate="plates/z")
        press(Qt.Key.Key_V, CTRL)
        refocus(bench)
        found = [key.frame for key in session.raw(f"{session.selection.quake}/reach_x").keys]
        assert found == [f + by * frame // 20 for f in frames]


def test_pins_of_the_time_strip_are_copied_where_it_has_the_focus(bench):
    lanes = bench.time.lanes
    lanes.chosen = {(f"{PUSH}/reach_x", bench.session.raw(f"{PUSH}/reach_x").keys[0].frame)}
    lanes.setFocus()
    press(Qt.Key.Key_C, CTRL)
    assert len(bench.time.copied_pins) == 1
    bench.session.set_frame(100)
    press(Qt.Key.Key_V, CTRL)
    assert any(key.frame == 100 for key in bench.session.raw(f"{PUSH}/reach_x").keys)


def test_an_effect_is_removed_with_the_maps_only_it_reads(bench):
    session = bench.session
    own = str(session.raw(f"{PUSH}/map"))
    others = [map.id for map in session.shot.maps if map.id != own]
    session.select(effect=PUSH)
    next(action for action in ACTIONS if action.id == "remove-with-maps").run(bench)
    assert session.shot.map(own) is None
    assert [map.id for map in session.shot.maps] == others
    session.undo()
    assert session.shot.map(own) is not None
    assert carry.taken(session, PUSH) is not None
