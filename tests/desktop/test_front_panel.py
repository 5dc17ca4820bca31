"""The front panel with mouse and keys: dials turned, slots filled, values picked, and the way behind it."""

from __future__ import annotations

from pathlib import Path

import cv2
import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QLabel

from driving import click, named, press, type_text
from nimble_quake.desktop.front.dials_dialog import DialsDialog
from nimble_quake.desktop.motions.menu import motion_menu
from nimble_quake.desktop.settings.drives_editor import COURSES
from nimble_quake.params.drives import Drive
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find


@pytest.fixture
def window(window):
    """The bench with nothing at the front yet."""
    window.session.take(msgspec.structs.replace(window.session.shot, front=()))
    QApplication.processEvents()
    return window


def brought(window, *paths: str) -> list[str]:
    """Values of the title brought to the front by their menus."""
    found = []
    for path in paths:
        menu = motion_menu(window.session, path, window)
        next(a for a in menu.actions() if a.text() == "Bring to the front").trigger()
        found.append(f"front/{window.session.shot.front[-1].id}")
    window.middle.show_front()
    QApplication.processEvents()
    return found


def a_number(window) -> str:
    plate = next(p for p in window.session.shot.plates if any(e.kind == "push" for e in p.effects))
    effect = next(e for e in plate.effects if e.kind == "push")
    return f"plates/{plate.id}/effects/{effect.id}/strength"


def some_words(window) -> str:
    return next(f"plates/{p.id}/words" for p in window.session.shot.plates if p.kind == "text")


def test_a_dial_is_turned_by_keys_on_what_has_the_focus(window):
    path = a_number(window)
    (dial,) = brought(window, path)
    window.middle.front.focus_first()
    before = window.session.shown(path)
    press(Qt.Key.Key_Left)
    assert window.session.shown(path) < before
    assert window.session.shown(f"{dial}/value") == window.session.shown(path)
    window.session.undo()
    assert window.session.shown(path) == before


def test_words_typed_in_the_front_are_the_titles(window):
    path = some_words(window)
    brought(window, path)
    window.middle.front.focus_first()
    press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    type_text("CLOSED")
    assert window.session.shown(path) == "CLOSED"
    press(Qt.Key.Key_Escape)  # typing ends; all is as it was
    assert window.session.shown(path) != "CLOSED"


def test_what_is_changed_by_hand_is_marked_and_put_back(window):
    path = a_number(window)
    (dial,) = brought(window, path)
    before = window.session.shown(path)
    window.session.set(path, before / 2)
    label = window.middle.front.labels[dial]
    assert label.text().startswith("! ")
    next(a for a in label.menu().actions() if a.text().startswith("Put back")).trigger()
    assert window.session.shown(path) == before
    assert not label.text().startswith("!")


def test_a_file_dropped_on_a_slot_fills_it(window, tmp_path: Path):
    file = tmp_path / "sign.png"
    cv2.imwrite(str(file), np.full((40, 60, 3), 99, np.uint8))
    window.session.select(plate=some_words(window).rpartition("/")[0])
    plate = window.session.selection.plate
    made = Node(id="sign", kind="picture", name="Sign", values={"drives": (Drive(plate),)})
    window.session.edit("slot", _with_front(window, made))
    window.middle.show_front()
    QApplication.processEvents()
    card = window.middle.front.cards["front/sign"]
    assert "example" in card.words()[1]
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file))])
    keys = Qt.KeyboardModifier.NoModifier
    event = QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, keys)
    QApplication.sendEvent(card, event)
    card.dropEvent(event)
    filled = find(window.session.shot, plate)
    assert isinstance(filled, Plate)
    assert (filled.kind, filled.values["file"]) == ("still", str(file))
    assert window.middle.front.cards["front/sign"].words()[1] == "sign"


def _with_front(window, node: Node):
    return msgspec.structs.replace(window.session.shot, front=(*window.session.shot.front, node))


def test_dials_are_picked_by_clicks_until_escape(window):
    path = a_number(window)
    window.session.select(quake=path.rpartition("/")[0])
    said = list[str]()
    window.session.message.connect(said.append)
    window.middle.pick()
    QApplication.processEvents()
    field = window.coupling.foot.editors["strength"].field
    click(field)
    assert [node.name for node in window.session.shot.front] == ["Strength"]
    assert window.session.shown(path) == window.session.shown("front/strength/value")
    press(Qt.Key.Key_Escape)
    assert said[-1] == "Strength is at the front: ‹ Front shows them"
    click(window.coupling.foot.editors["strength"].field, at=QPoint(40, 10))
    assert len(window.session.shot.front) == 1
    label = window.coupling.foot.name_labels["strength"]
    assert label.font().underline()
    assert "Strength" in label.toolTip()


def test_the_front_is_left_and_shown_by_a_key(window):
    brought(window, a_number(window))
    assert window.middle.in_front
    click(window.middle.front.behind)
    assert not window.middle.in_front
    assert window.coupling.front_button.isVisible()
    click(window.coupling.front_button)
    assert window.middle.in_front
    window.picture_bay.viewer.setFocus()
    press(Qt.Key.Key_F, _ctrl_alt())
    assert not window.middle.in_front


def test_a_click_on_the_quake_that_is_selected_shows_its_coupling(window):
    stack, session = window.picture_bay.stack, window.session
    brought(window, a_number(window))
    number = next(n for n, row in enumerate(stack.rows) if row.path == session.selection.quake)
    assert window.middle.in_front
    middle = next(y for y in range(stack.height()) if stack.row_at(y) is stack.rows[number]) + 8
    click(stack, at=QPoint(120, middle))
    assert session.selection.quake == stack.rows[number].path
    assert not window.middle.in_front


def _ctrl_alt() -> Qt.KeyboardModifier:
    return Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def test_the_dialog_changes_ranges_names_and_order(window, qtbot):
    one, other = brought(window, a_number(window), some_words(window))
    dialog = DialsDialog(window.session, one, window)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog.activateWindow()
    qtbot.waitUntil(dialog.isActiveWindow)
    dialog.name.setFocus()
    dialog.name.selectAll()
    type_text("Wildness")
    press(Qt.Key.Key_Tab)
    assert window.session.name_of(one) == "Wildness"
    window.session.set(f"{one}/high", 3.0)
    editor = window.middle.front.editors[one]
    assert editor.param.usual[1] == 3.0
    click(named(dialog, "Down"))
    assert [f"front/{node.id}" for node in window.session.shot.front] == [other, one]
    dialog.close()


def test_an_empty_front_says_how_to_fill_it(window):
    window.middle.show_front()
    QApplication.processEvents()
    said = [label.text() for label in window.middle.front.findChildren(QLabel)]
    assert any("Bring to the front" in text for text in said)


def test_words_pasted_into_a_slot(window):
    board = QApplication.clipboard()
    assert board is not None
    board.setText("PASTED")
    made = Node(id="sign", kind="picture", name="Sign", values={"drives": (Drive("plates/title"),)})
    window.session.edit("slot", _with_front(window, made))
    window.middle.show_front()
    QApplication.processEvents()
    window.middle.front.cards["front/sign"].setFocus()
    press(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert window.session.shown("plates/title/words") == "PASTED"


def test_a_starter_is_tried_and_put_on_from_the_board(window):
    window.session.select(plate="plates/title")
    before = window.session.shot
    window.show_board("starter")
    board = window.board
    board.search.setFocus()
    type_text("shockwave")
    press(Qt.Key.Key_Down)
    while board.cells.current.key != "starter:shockwave":
        press(Qt.Key.Key_Right)
    assert window.frames.shot_override is not None, "it is tried in the picture"
    assert window.session.shot is before, "trying leaves no trace"
    press(Qt.Key.Key_Return)
    assert len(window.session.shot.plate("title").effects) == len(before.plate("title").effects) + 1
    assert window.middle.in_front


def test_a_value_goes_along_in_a_course(window, qtbot):
    (dial,) = brought(window, a_number(window))
    dialog = DialsDialog(window.session, dial, window)
    qtbot.addWidget(dialog)
    dialog.show()
    QApplication.processEvents()
    path = a_number(window)
    course = named(dialog, "Course")
    chosen = next(n for n, (_, points) in enumerate(COURSES) if points and points[-1] == (1.0, 0.0))
    course.setFocus()
    for _ in range(chosen):
        press(Qt.Key.Key_Down)
    window.session.set(f"{dial}/value", window.session.shown(f"{dial}/high"))
    assert window.session.shown(path) == window.session.shown(f"{dial}/low")
    dialog.close()
