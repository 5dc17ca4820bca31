"""Assistive technology: whatever takes the keys has a role that Qt knows, a name, and a value where it has one."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QLineEdit,
    QMenu,
    QMenuBar,
    QPlainTextEdit,
    QScrollArea,
    QTabBar,
    QTextEdit,
    QWidget,
)

from driving import QTest, press
from nimble_quake.desktop.access.bases import SpokenButton, SpokenChoice, SpokenList, SpokenNumber, SpokenPicture
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.desktop.widgets.slide_field import SlideField
from nimble_quake.session.actions import ACTIONS

ROLES = (
    *(QAbstractButton, QAbstractItemView, QAbstractSlider, QAbstractSpinBox, QComboBox, QLabel, QLineEdit, QMenu),
    *(QMenuBar, QTabBar, QTextEdit, QPlainTextEdit, QScrollArea),
)
"""Classes that Qt gives a role over AT-SPI (Qt 6, QAccessibleWidget's factory); a QWidget is a "filler"."""


def takes_keys(window: QWidget) -> Iterator[QWidget]:
    for widget in window.findChildren(QWidget):
        if widget.isVisibleTo(window) and widget.focusPolicy() != Qt.FocusPolicy.NoFocus:
            yield widget


def said(list_: QAbstractItemView) -> list[str]:
    model = list_.model()
    assert model is not None
    return [str(model.data(model.index(n, 0, QModelIndex()))) for n in range(model.rowCount())]


def unspoken(window: QWidget) -> list[str]:
    found = []
    for widget in takes_keys(window):
        role = isinstance(widget, ROLES)
        words = widget.accessibleName() or (widget.text() if isinstance(widget, QAbstractButton | QLabel) else "")
        inner = widget.objectName().startswith("qt_")  # Qt's own parts, of what has a name
        if not role or not (words or inner):
            found.append(f"{type(widget).__name__} {words!r}")
    return found


@pytest.mark.parametrize("view", ["plain", "board", "front", "sound", "page", "beat", "mask"])
def test_the_window_has_no_fillers(window, qtbot, view):
    session = window.session
    if view == "board":
        window.show_board("quake")
    elif view == "front":
        window.files.open_sample("shockwave")
        window.middle.show_front()
    elif view == "sound":
        window.files.open_sample("sound-blocks")
        session.select(sound=f"bands/{session.shot.bands[0].id}")
    elif view == "page":
        window.beginning.show()
    elif view == "beat":
        session.select(step=f"maps/{session.shot.maps[0].id}/steps/{session.shot.maps[0].recipe[0].id}")
    elif view == "mask":
        window.files.open_sample("moving-water")
    qtbot.wait(30)
    assert unspoken(window) == []
    assert len(list(takes_keys(window))) > 15


@pytest.mark.parametrize(
    "id", ["shot-settings", "render", "preferences", "shortcuts", "commands", "batch", "queue", "dials"]
)
def test_dialogs_have_none_either(window, qtbot, monkeypatch, id):
    window.files.open_sample("shockwave")
    action = next(each for each in ACTIONS if each.id == id)
    seen: list[str] = []

    def look(dialog: QDialog) -> int:
        dialog.show()
        QTest.qWait(20)
        seen.extend([type(dialog).__name__, *unspoken(dialog)])
        dialog.close()
        return 0

    monkeypatch.setattr(QDialog, "exec", look)
    action.run(window)
    shown = [w for w in QApplication.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()]
    for dialog in shown:
        look(dialog)
    assert seen
    assert [each for each in seen if " " in each] == []


def test_a_number_says_its_value_unit_and_bounds(window, qtbot):
    path = "plates/title/effects/push/reach_x"
    window.session.select(quake="plates/title/effects/push")
    field = next(f for f in window.findChildren(SlideField) if f.accessibleName() == "Across reach")
    window.session.set(path, 42.5)
    assert SpokenNumber.value(field) == 42.5
    assert SpokenNumber.text(field) == "42.5 px"
    assert (field.minimum(), field.maximum()) == field.param.hard
    field.setFocus()
    press(Qt.Key.Key_Up)
    assert SpokenNumber.value(field) == window.session.shown(path) != 42.5
    entry = field.lineEdit()
    assert entry is not None
    assert not entry.isVisible()


def test_a_choice_says_what_is_chosen(window):
    views = next(s for s in window.map_bay.findChildren(Segments) if "Value" in dict(s.items).values())
    assert SpokenChoice.currentText(views) == "Value"
    views.setFocus()
    press(Qt.Key.Key_Right)
    assert SpokenChoice.currentText(views) == dict(views.items)[views.value] != "Value"


def test_lists_say_their_items_and_which_is_current(window):
    stack = window.picture_bay.stack
    assert SpokenList in type(stack).__mro__
    assert [name.split(",")[0] for name in said(stack)] == [row.title for row in stack.rows]
    window.session.select(plate="plates/title", quake="")
    stack.setFocus()
    press(Qt.Key.Key_Down)
    assert said(stack)[stack.currentIndex().row()].split(",")[0] == window.session.name_of(stack.current)
    lanes = window.time.lanes
    assert said(lanes) == [row.label for row in lanes.rows]
    assert said(window.map_bay.tabs)[0].startswith("Heat columns")


def test_pictures_are_pictures_and_buttons_are_pressed_by_name(window):
    assert isinstance(window.picture_bay.viewer, SpokenPicture)
    assert not window.picture_bay.viewer.pixmap().isNull()
    assert window.picture_bay.viewer.accessibleDescription() == f"result, frame {window.session.frame}"
    assert window.map_bay.viewer.accessibleDescription().startswith("Heat columns, value: mean 0.")
    head = next(b for b in window.coupling.findChildren(SpokenButton) if b.accessibleName() == "Edges")
    before = head.accessibleDescription()
    head.click()  # what a press over AT-SPI does
    assert head.accessibleDescription() != before


def test_in_a_narrow_window_rows_keep_their_names(window, qtbot):
    """1280 px at 150 %: 853 of them. How a plate blends gives way to what it is called."""
    assert window.picture_bay.stack.hot
    window.resize(853, 533)
    qtbot.waitUntil(lambda: window.picture_bay.stack.width() < 160)
    window.picture_bay.stack.grab()
    assert window.picture_bay.stack.hot == {}
    assert window.time.shown.geometry().right() <= window.width()
