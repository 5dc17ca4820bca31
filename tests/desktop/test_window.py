"""The window as a whole: sizes, dialogs, names, documents."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QWidget

from driving import QTest, press, type_text
from nimble_quake.desktop.boards.command_finder import CommandFinder
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog
from nimble_quake.desktop.dialogs.small import PreferencesDialog, ShortcutsDialog
from nimble_quake.samples import sample_path
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.shot.model import Plate, Shot


def test_the_demo_is_shown(window):
    assert window.windowTitle() == "Lantern Row opener - Nimble Quake"
    assert window.picture_bay.viewer.image is not None
    assert window.map_bay.viewer.image is not None
    assert [row.title for row in window.map_bay.recipe.rows] == ["Noise", "Levels", "Fade to rest", "Blur"]
    assert [row.path for row in window.picture_bay.stack.rows][:2] == ["plates/title", "plates/title/effects/push"]


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (2560, 1440)])
def test_nothing_needs_more_room_than_there_is(opened, size):

    window = opened(sample_path("sign"), size)
    assert (window.width(), window.height()) == size
    for part in (window.map_bay, window.coupling, window.picture_bay, window.time):
        for child in part.findChildren(QWidget):
            if child.isVisible() and child.parentWidget() is part:
                assert child.geometry().right() <= part.width() + 1, child
    window.resize(1024, 700)
    QTest.qWait(30)
    assert (window.width(), window.height()) == (1024, 700)


def test_equal_viewers(window):
    a, b = window.map_bay.viewer, window.picture_bay.viewer
    assert a.size() == b.size()
    assert a.mapTo(window, QPoint()).y() == b.mapTo(window, QPoint()).y()
    assert (a.width(), a.height()) == (512, 288)


class TestDialogs:
    def test_every_action_is_found_and_safe(self, window):
        finder = CommandFinder(window.commands(), window)
        assert finder.list.count() > len(ACTIONS)  # and every field on the bench
        finder.search.setText("centre acr")
        assert finder.list.count() == 1
        QTest.keyClick(finder.search, Qt.Key.Key_Return)
        assert window.session.shown("plates/title/position")[0] == 640
        quiet = {
            "new",
            "open",
            "save",
            "save-as",
            "save-copy",
            "collect",
            "render",
            "preferences",
            "quit",
            "commands",
            "shortcuts",
            "about",
            "shot-settings",
            "new-file",
            "keep-state",
            "keep-starter",
            "batch",
            "keep-selected",
            "pick-dials",
            "dials",
            "add-sound",
            "open-recipe",
            "save-recipe",
            "theme",
            "samples",
            "play",
        }
        for action in ACTIONS:
            if action.id not in quiet and action.enabled(window):
                action.run(window)
        window.frames.stop()

    def test_shot_dialog(self, qtbot):
        dialog = ShotDialog(Shot(), "New shot")
        qtbot.addWidget(dialog)
        dialog.show()
        dialog.activateWindow()
        qtbot.waitUntil(dialog.isActiveWindow)
        dialog.sizes.setFocus()
        while dialog.sizes.currentText() != "1080 × 1350 (4:5)":
            before = dialog.sizes.currentIndex()
            press(Qt.Key.Key_Down)
            assert dialog.sizes.currentIndex() != before, "it is not in the list"
        dialog.rate.setCurrentText("23.976 (24000/1001)")
        dialog.seconds.setText("10/2")
        fields = dialog.fields()
        assert (fields["width"], fields["height"], fields["rate"], fields["length"]) == (
            1080,
            1350,
            Fraction(24000, 1001),
            120,
        )
        dialog.seconds.setText("nothing")
        assert not dialog.buttons.button(dialog.buttons.StandardButton.Ok).isEnabled()

    def test_preferences_and_shortcuts(self, qtbot):
        made = Preferences()
        dialog = PreferencesDialog(made)
        qtbot.addWidget(dialog)
        dialog.theme.setCurrentIndex(1)
        dialog.accept()
        assert made.theme == "light"
        qtbot.addWidget(ShortcutsDialog())

    def test_light_theme(self, window):
        window.dialogs.toggle_theme()
        assert window.preferences.theme == "light"
        window.dialogs.toggle_theme()


def test_everything_has_a_name_and_a_tip(window):
    """Whole use by keyboard: what can have the focus has an accessible name."""
    window.session.select(plate="plates/lanterns")
    nameless = [
        child
        for child in window.findChildren(QWidget)
        if child.isVisible()
        and child.focusPolicy() & Qt.FocusPolicy.TabFocus
        and not (child.accessibleName() or child.toolTip() or getattr(child, "text", str)())
        and type(child).__module__.startswith("nimble_quake")
    ]
    assert nameless == []


def test_many_documents_one_window(opened, tmp_path):
    """An empty shot, then text and a quake with the keyboard alone: it moves at once."""
    window = opened()
    window.session.take(Shot(width=320, height=180))
    window.refresh()
    QTest.keyClick(window, Qt.Key.Key_T, Qt.KeyboardModifier.ControlModifier)
    press(Qt.Key.Key_Escape)
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    type_text("push")
    press(Qt.Key.Key_Return)
    assert isinstance(window.session.shot.plates[0], Plate)
    assert window.session.shot.plates[0].effects
    assert Path(str(tmp_path)).exists()
