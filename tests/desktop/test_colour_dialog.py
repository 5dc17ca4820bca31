"""The colour dialog: by mouse, keys and code; live in the picture; nothing left behind when it is left."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from driving import click, named, press, type_text
from nimble_quake.desktop.widgets.colour_dialog import ColourDialog

COLOUR = "plates/title/colour"


@pytest.fixture
def dialog(qtbot):
    made = ColourDialog((1.0, 0.0, 0.0, 1.0), "Colour", [(0.0, 0.0, 1.0, 1.0)])
    qtbot.addWidget(made)
    made.show()
    return made


def test_the_square_gives_what_it_shows(dialog):
    """Top right is the full colour, bottom is black, top left is white."""
    square = dialog.square
    click(square, QPoint(square.width() - 1, 0))
    assert dialog.rgba == (1.0, 0.0, 0.0, 1.0)
    assert square.grab().toImage().pixelColor(square.width() - 30, 8).red() > 230
    click(square, QPoint(0, 1))
    assert dialog.rgba == pytest.approx((1.0, 1.0, 1.0, 1.0), abs=0.006)
    click(square, QPoint(50, square.height() - 1))
    assert dialog.rgba[:3] == (0.0, 0.0, 0.0)
    click(dialog.hue, QPoint((dialog.hue.width() - 1) // 3, 5))  # the hue survives black
    click(square, QPoint(square.width() - 1, 0))
    assert dialog.rgba[1] == 1.0


def test_numbers_code_and_swatches(dialog):
    click(named(dialog, "Opacity", type(dialog.fields[0])))
    type_text("50")
    press(Qt.Key.Key_Return)
    assert dialog.rgba[3] == 0.5
    dialog.hex.setFocus()
    press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    type_text("#00ff0080")
    assert dialog.rgba == (0.0, 1.0, 0.0, 128 / 255)
    click(named(dialog, "Colour #0000ff"))
    assert dialog.rgba == (0.0, 0.0, 1.0, 1.0)


@pytest.mark.parametrize("take", [True, False])
def test_live_in_the_picture_and_one_step_or_none(window, take):
    before, steps = window.session.shown(COLOUR), len(window.session.history.past)
    seen = []

    def choose() -> None:
        dialog = QApplication.activeModalWidget()
        if not isinstance(dialog, ColourDialog):  # a busy machine takes its time to show it
            QTimer.singleShot(20, choose)
            return
        try:
            click(dialog.square, QPoint(dialog.square.width() - 1, 30))
            click(dialog.square, QPoint(dialog.square.width() - 1, 60))
            seen.append(window.session.shown(COLOUR))
        finally:
            dialog.accept() if take else dialog.reject()

    QTimer.singleShot(50, choose)
    click(named(window, "Colour"))
    assert seen[0] != before
    assert (window.session.shown(COLOUR) == seen[0]) is take
    assert len(window.session.history.past) == steps + take
