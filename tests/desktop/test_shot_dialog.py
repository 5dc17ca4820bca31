"""Size, rate and length of the open shot: live in the picture before they are taken, one undo, or no trace."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication, QCheckBox, QComboBox, QSpinBox

from driving import QTest, focused, named, press
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog, rate_of
from nimble_quake.session.actions import ACTIONS
from nimble_quake.shot.model import Shot


def asked(window, act) -> None:
    """Open the dialog, do something in it."""

    def use() -> None:
        dialog, focus = QApplication.activeModalWidget(), QApplication.focusWidget()
        if not isinstance(dialog, ShotDialog) or focus is None or not dialog.isAncestorOf(focus):
            QTimer.singleShot(20, use)  # a busy machine takes its time to show it, and to give it the keys
            return
        act(dialog)
        if dialog.isVisible():
            dialog.reject()

    QTimer.singleShot(0, use)
    next(action for action in ACTIONS if action.id == "shot-settings").run(window)


def type_into(widget, text: str) -> None:
    widget.setFocus()
    widget.selectAll() if not isinstance(widget, QComboBox) else widget.lineEdit().selectAll()
    QTest.keyClicks(focused(), text)
    press(Qt.Key.Key_Tab)


def test_a_larger_shot_carries_its_work_and_is_one_undo(window):
    session, seen = window.session, []
    before = session.shot
    size, steps = session.shown("plates/title/size"), len(session.history.past)

    def act(dialog: ShotDialog) -> None:
        type_into(named(dialog, "Width", QSpinBox), str(2 * before.width))
        type_into(named(dialog, "Height", QSpinBox), str(2 * before.height))
        seen.append(session.shown("plates/title/size"))
        press(Qt.Key.Key_Return)

    asked(window, act)
    assert seen == [2 * size], "live, before it is taken"
    assert session.shot.width == 2 * before.width
    assert session.shown("plates/title/size") == 2 * size
    assert len(session.history.past) == steps + 1
    session.undo()
    assert session.shot == before


def test_cancel_and_unticked_boxes(window):
    session = window.session
    before = session.shot

    def cancel(dialog: ShotDialog) -> None:
        type_into(named(dialog, "Width", QSpinBox), "640")
        assert session.shot.width == 640
        press(Qt.Key.Key_Escape)

    asked(window, cancel)
    assert session.shot == before
    assert not session.history.gesturing

    def plain(dialog: ShotDialog) -> None:
        box = named(dialog, "Scale what is in it", QCheckBox)
        box.setFocus()
        press(Qt.Key.Key_Space)
        type_into(named(dialog, "Width", QSpinBox), "640")
        press(Qt.Key.Key_Return)

    asked(window, plain)
    assert session.shot.width == 640
    assert session.shot.plates == before.plates


def test_a_rate_is_typed_and_pins_stay_at_their_seconds(window):
    session = window.session
    before = session.raw("plates/title/effects/push/reach_x").keys
    rate = session.shot.rate

    def act(dialog: ShotDialog) -> None:
        type_into(named(dialog, "Frames a second", QComboBox), str(2 * rate))
        press(Qt.Key.Key_Return)

    asked(window, act)
    assert session.shot.rate == 2 * rate
    assert [key.frame for key in session.raw("plates/title/effects/push/reach_x").keys] == [2 * k.frame for k in before]


@pytest.mark.parametrize(
    ("text", "rate"),
    [
        ("59.94", Fraction("59.94")),
        ("12", Fraction(12)),
        ("120", Fraction(120)),
        ("30000/1001", Fraction(30000, 1001)),
        ("23.976 (24000/1001)", Fraction(24000, 1001)),
        ("", None),
        ("0", None),
        ("24/0", None),
        ("fast", None),
        ("9999", None),
    ],
)
def test_what_is_a_rate(text, rate):
    assert rate_of(text) == rate


def test_a_new_shot_asks_for_nothing_that_goes_along(qtbot):
    dialog = ShotDialog(Shot(), "New shot")
    qtbot.addWidget(dialog)
    dialog.show()
    assert not dialog.scales.isVisible()
