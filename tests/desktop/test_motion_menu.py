"""The motion of a value: its menu, and the dialogs that ask for a rate or a formula while they try it."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QDialogButtonBox, QLabel, QMenu, QPushButton, QWidget

from driving import click, focused, named, press, type_text
from nimble_quake.desktop.motions import menu as motion_menu
from nimble_quake.desktop.motions.dialogs import DriverDialog, FormulaDialog, RateDialog
from nimble_quake.desktop.motions.menu import choose_motion, click_mark
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.formula import FUNCTIONS, NAMES, READERS, parsed
from nimble_quake.motion.formula_help import EXPLAINED
from nimble_quake.motion.kinds import Driven, Formula, Keys, Layered, Rate
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Map, Node, Plate, Shot

ANGLE = "maps/m/steps/n/turn"
OPACITY = "maps/m/steps/n/opacity"
PLACE = "plates/p/position"


@pytest.fixture
def session() -> Session:
    session = Session()
    noise = Node(id="n", kind="noise", values={"turn": 30.0})
    session.take(Shot(maps=(Map(id="m", name="M", recipe=(noise,)),), plates=(Plate(id="p", kind="text"),)))
    session.set_frame(10)
    return session


@pytest.fixture
def parent(app, qtbot) -> QWidget:
    widget = QWidget()
    qtbot.addWidget(widget)
    return widget


def words(menu: QMenu) -> list[str]:
    """What a menu offers, without its last line, which every value has."""
    found = [action.text() for action in menu.actions() if action.text()]
    assert not found or found.pop() == "What is this?"
    return found


def ok(dialog) -> bool:
    return dialog.buttons.button(QDialogButtonBox.StandardButton.Ok).isEnabled()


def test_the_menu_says_what_moves_and_sets_pins(session, parent):
    menu = motion_menu.motion_menu(session, ANGLE, parent)
    titles = [f"{driver.title} …" for driver in drivers().values()]
    expected = ["Set a pin here", "Still", "Keys", "Rate …", "Formula …", *titles, "Follow the value I click on"]
    assert words(menu) == [*expected, "Lay over it", "Gesture", "Bring to the front", "Back to its default"]
    assert [a.text() for a in menu.actions() if a.isChecked()] == ["Still"]
    menu.actions()[0].trigger()
    assert [key.frame for key in session.raw(ANGLE).keys] == [10]
    menu = motion_menu.motion_menu(session, ANGLE, parent)
    assert words(menu)[0] == "Take the pin away here"
    assert [a.text() for a in menu.actions() if a.isChecked()] == ["Keys"]
    next(a for a in menu.actions() if a.text() == "Back to its default").trigger()
    assert session.shown(ANGLE) == 0
    session.undo()
    assert isinstance(session.raw(ANGLE), Keys)


def test_what_cannot_move_has_only_its_default(session, parent):
    found = words(motion_menu.motion_menu(session, "plates/p/mask", parent))
    assert found == ["Bring to the front", "Back to its default"]
    assert words(motion_menu.motion_menu(session, "maps/m/steps/n/nothing", parent)) == []


def test_a_choice_takes_pins_and_nothing_that_computes(session, parent):
    found = words(motion_menu.motion_menu(session, "maps/m/steps/n/base", parent))
    assert found == ["Set a pin here", "Still", "Keys", "Bring to the front", "Back to its default"]


def test_keys_become_still_where_they_are(session, parent):
    choose_motion(session, ANGLE, "keys", parent)
    assert isinstance(session.raw(ANGLE), Keys)
    choose_motion(session, ANGLE, "still", parent)
    assert session.raw(ANGLE) == 30.0


def test_a_click_on_the_mark_pins_a_still_value_and_shows_a_moving_ones_menu(session, parent, monkeypatch):
    opened: list[int] = []
    monkeypatch.setattr(QMenu, "exec", lambda *a: opened.append(1))
    click_mark(session, ANGLE, parent)
    assert isinstance(session.raw(ANGLE), Keys)
    assert not opened
    click_mark(session, ANGLE, parent)
    assert opened


class TestRate:
    def test_it_is_tried_while_typed_and_left_without_a_trace(self, session, parent):
        dialog = RateDialog(session, ANGLE, session.param(ANGLE), "brass", parent)
        dialog.edits[0].setText("90/2")
        assert session.raw(ANGLE) == Rate(30.0, 45.0)
        assert session.shown(ANGLE) == pytest.approx(30 + 45 * 10 / 30)
        dialog.edits[0].setText("fast")
        assert not ok(dialog)
        assert dialog.said.text()
        assert session.raw(ANGLE) == Rate(30.0, 45.0), "what cannot be read changes nothing"
        dialog.reject()
        assert session.raw(ANGLE) == 30.0
        session.undo()
        assert session.raw(ANGLE) == 30.0, "nothing was put on the pile of what can be undone"

    def test_taken_it_is_one_step_back(self, session, parent):
        dialog = RateDialog(session, ANGLE, session.param(ANGLE), "brass", parent)
        for text in ("1", "12", "120"):
            dialog.edits[0].setText(text)
        dialog.accept()
        assert session.raw(ANGLE) == Rate(30.0, 120.0)
        session.undo()
        assert session.raw(ANGLE) == 30.0

    def test_shares_are_typed_in_percent_and_pairs_in_two_fields(self, session, parent):
        dialog = RateDialog(session, OPACITY, session.param(OPACITY), "brass", parent)
        dialog.edits[0].setText("-50")
        assert session.raw(OPACITY).per_second == -0.5
        dialog.reject()
        dialog = RateDialog(session, PLACE, session.param(PLACE), "brass", parent)
        assert len(dialog.edits) == 2
        dialog.edits[1].setText("-20")
        assert session.raw(PLACE).per_second == (0.0, -20.0)
        dialog.reject()


class TestFormula:
    def test_it_begins_with_what_is_there_and_says_what_it_comes_to(self, session, parent):
        dialog = FormulaDialog(session, ANGLE, session.param(ANGLE), "brass", parent)
        assert dialog.edit.text() == "30"
        dialog.edit.setText("90 * t")
        assert session.raw(ANGLE) == Formula("90 * t")
        assert dialog.said.text() == "Now 30"
        dialog.accept()
        assert session.shown(ANGLE) == pytest.approx(30)

    @pytest.mark.parametrize("text", ["", "90 *", "wat + 1", "__import__('os')", "1, 2", "t.real"])
    def test_what_is_wrong_is_told_in_one_line_and_not_taken(self, session, parent, text):
        dialog = FormulaDialog(session, ANGLE, session.param(ANGLE), "brass", parent)
        dialog.edit.setText("t")
        dialog.edit.setText(text)
        assert not ok(dialog)
        assert dialog.said.text()
        assert "\n" not in dialog.said.text()
        assert session.raw(ANGLE) == Formula("t")
        dialog.reject()
        assert session.raw(ANGLE) == 30.0

    def test_a_pair_takes_two(self, session, parent):
        dialog = FormulaDialog(session, PLACE, session.param(PLACE), "brass", parent)
        dialog.edit.setText("width / 2, 100 + 10 * t")
        assert session.shown(PLACE) == pytest.approx((960, 100 + 10 / 3))
        dialog.edit.setText("50")
        assert session.shown(PLACE) == (50, 50), "one expression is for both"
        dialog.edit.setText("1, 2, 3")
        assert not ok(dialog)
        dialog.reject()


class TestDriver:
    @pytest.mark.parametrize("kind", list(drivers()))
    @pytest.mark.parametrize("path", [ANGLE, PLACE])
    def test_every_driver_is_tried_taken_and_left_without_a_trace(self, session, parent, kind, path):
        before = session.raw(path)
        dialog = DriverDialog(session, path, session.param(path), kind, "brass", parent)
        assert isinstance(session.raw(path), Driven)
        dialog.reject()
        assert session.raw(path) == before
        DriverDialog(session, path, session.param(path), kind, "brass", parent).accept()
        assert session.raw(path).driver.kind == kind
        session.undo()
        assert session.raw(path) == before

    def test_fields_change_what_is_shown_and_its_course(self, session, parent, qtbot):
        dialog = DriverDialog(session, ANGLE, session.param(ANGLE), "wave", "brass", parent)
        qtbot.addWidget(dialog)
        dialog.show()
        dialog.activateWindow()
        qtbot.waitUntil(lambda: dialog.isAncestorOf(QApplication.focusWidget() or parent))
        assert focused().accessibleName() == "Amount", "the first thing one changes"
        type_text("50")
        press(Qt.Key.Key_Return)
        assert dialog.isVisible(), "Return ends typing, no more"
        assert session.raw(ANGLE).amount == 50
        square = next(b for b in dialog.findChildren(Chooser) if b.accessibleName() == "Shape")
        square.setCurrentIndex(square.findData("square"))
        assert session.shown(ANGLE) == 80
        dialog.accept()
        assert session.shown(ANGLE) == 80

    def test_laid_over_keys_stay_keys(self, session, parent):
        choose_motion(session, ANGLE, "keys", parent)
        DriverDialog(session, ANGLE, session.param(ANGLE), "jitter", "brass", parent, over=True).accept()
        raw = session.raw(ANGLE)
        assert isinstance(raw, Layered)
        assert isinstance(raw.first, Keys)
        menu = motion_menu.motion_menu(session, ANGLE, parent)
        assert "Over it: Jitter, smooth, 6 /s" in words(menu)
        session.set_frame(30)
        session.start_moving(ANGLE)
        assert [key.frame for key in session.raw(ANGLE).first.keys] == [10, 30]
        assert session.raw(ANGLE).first.keys[1].value == pytest.approx(30), "a pin holds what lies beneath"
        session.set(ANGLE, 99.0)
        assert session.shown(ANGLE) == pytest.approx(99), "what is typed is what is seen"


class TestGestures:
    def gesture(self, session, parent, title, path=ANGLE, over=""):
        menu = motion_menu.motion_menu(session, path, parent)
        inner = next(a.menu() for a in menu.actions() if a.text() == "Gesture")
        inner = next((a.menu() for a in inner.actions() if over and a.text() == over), inner)
        return inner, next(a for a in inner.actions() if a.text() == title)

    def test_it_is_seen_while_the_pointer_is_over_it_and_gone_after(self, session, parent, qtbot):
        menu, action = self.gesture(session, parent, "Nothing → much → nothing")
        action.hover()
        assert [key.value for key in session.raw(ANGLE).keys] == [0, 30, 0]
        menu.aboutToHide.emit()
        qtbot.waitUntil(lambda: session.raw(ANGLE) == 30.0)

    def test_chosen_it_is_one_step(self, session, parent):
        _, action = self.gesture(session, parent, "−A → 0 → +A")
        action.hover()
        action.trigger()
        assert [key.value for key in session.raw(ANGLE).keys] == [-30, 0, 30]
        session.undo()
        assert session.raw(ANGLE) == 30.0

    def test_over_a_second_from_the_playhead(self, session, parent):
        session.set_frame(10)
        self.gesture(session, parent, "−A → 0 → +A", over="Over 1 s from here")[1].trigger()
        keys = session.raw(ANGLE).keys
        assert (keys[0].frame, keys[-1].frame) == (10, 10 + round(session.shot.rate))

    def test_a_place_arrives_from_a_frame_away(self, session, parent):
        self.gesture(session, parent, "Arrive", PLACE)[1].trigger()
        keys = session.raw(PLACE).keys
        assert keys[-1].value == (960, 540)
        assert keys[0].value == (960 + 1920, 540)


def test_a_value_follows_the_one_that_is_clicked(session, parent, qtbot):
    panel = SettingsPanel(session, "brass")
    qtbot.addWidget(panel)
    panel.resize(300, 500)
    panel.show_node("maps/m/steps/n")
    panel.show()
    motion_menu.pick_followed(session, PLACE, panel)
    label = next(label for label in panel.findChildren(QLabel) if label.text() == panel.session.param(ANGLE).label)
    qtbot.mouseClick(label, Qt.MouseButton.LeftButton)
    assert session.shown(PLACE) == (30, 30)
    said: list[str] = []
    session.message.connect(said.append)
    motion_menu.pick_followed(session, ANGLE, panel)
    qtbot.keyClick(panel, Qt.Key.Key_Escape)
    assert session.raw(ANGLE) == 30.0
    assert said[-1] == "Nothing was picked"


class TestFormulaHelp:
    @pytest.fixture
    def dialog(self, session, parent, qtbot):
        dialog = FormulaDialog(session, ANGLE, session.param(ANGLE), "brass", parent)
        dialog.show()
        dialog.activateWindow()
        qtbot.waitUntil(dialog.isActiveWindow)
        yield dialog
        dialog.reject()

    def test_the_list_goes_along_with_the_cursor(self, dialog):
        """By keys alone: what the cursor touches, else the call it stands in."""
        dialog.edit.setFocus()
        dialog.edit.selectAll()
        type_text("mix(1, 2, clamp(t, 0, 1))")
        said = []
        for _ in range(len("mix(1, 2, clamp(t, 0, 1))")):
            said.append(named(dialog, "Names and functions").currentItem().text())
            press(Qt.Key.Key_Left)
        assert said[0].startswith("mix")
        assert [each.partition("(")[0] for each in dict.fromkeys(said)] == ["mix", "clamp", "t"]

    def test_a_call_is_put_in_with_its_first_argument_ready_to_be_typed(self, dialog, session):
        dialog.edit.setFocus()
        dialog.edit.selectAll()
        type_text("10 * ")
        names = named(dialog, "Names and functions")
        names.setFocus()
        names.setCurrentRow(next(n for n in range(names.count()) if names.item(n).text().startswith("clamp")))
        press(Qt.Key.Key_Return)
        assert dialog.edit.text() == "10 * clamp(x, low, high)"
        type_text("t")
        assert dialog.edit.text() == "10 * clamp(t, low, high)"

    def test_every_example_can_be_tried(self, dialog, session):
        names, use = named(dialog, "Names and functions"), dialog.findChildren(QPushButton)
        button = next(each for each in use if each.text() == "Try the example")
        for row, each in enumerate(EXPLAINED):
            names.setCurrentRow(row)
            click(button)
            assert dialog.edit.text() == each.example
            if each.name in READERS:  # this shot has no such band, track or beat, perhaps: it is read, at least
                parsed(each.example, 1)
            else:
                assert session.raw(ANGLE) == Formula(each.example), dialog.said.text()


def test_every_name_and_function_is_explained_once():
    """By the names a formula may hold, with as many arguments as are written: each call is evaluated."""
    names = [each.name for each in EXPLAINED]
    assert sorted(names) == sorted([*NAMES, *FUNCTIONS, *READERS])
    assert all(each.name in each.example and each.about for each in EXPLAINED)
    for each in EXPLAINED:
        if each.name in FUNCTIONS:
            arguments = each.written.partition("(")[2].rstrip(")").count(",") + 1
            values = [0.2, 0.5, 0.7][:arguments]
            assert np.isfinite(FUNCTIONS[each.name](*values))
