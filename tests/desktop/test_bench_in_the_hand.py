"""The bench as a hand meets it: keys go to what has the focus, nothing jumps, states tell themselves apart."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox, QToolButton

from driving import REACH, QTest, arrived, click, drag, focused, named, press, type_text
from nimble_quake.desktop.boards.command_finder import CommandFinder
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog
from nimble_quake.desktop.settings.text_editors import Page
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.session.verbs import effects
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Shot

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class TestTyping:
    def test_return_in_a_name_does_not_switch_the_row(self, window):
        click(window.picture_bay.stack, QPoint(90, 10))
        press(Qt.Key.Key_F2)
        type_text("Sign")
        press(Qt.Key.Key_Return)
        plate = window.session.shot.plate("title")
        assert (plate.name, plate.on) == ("Sign", True)
        assert focused() is window.picture_bay.stack

    def test_escape_in_a_name_leaves_it(self, window):
        click(window.map_bay.recipe, QPoint(120, 10))
        press(Qt.Key.Key_F2)
        type_text("Other")
        press(Qt.Key.Key_Escape)
        assert window.session.name_of("maps/heat-columns/steps/noise") == "Noise"

    def test_a_map_is_renamed_on_its_tab(self, window):
        QTest.mouseDClick(window.map_bay.tabs, Qt.MouseButton.LeftButton, pos=QPoint(60, 14))
        type_text("Warm air")
        press(Qt.Key.Key_Return)
        assert window.session.shot.maps[0].name == "Warm air"
        assert focused() is window.map_bay.tabs

    def test_new_text_is_typed_at_once(self, window):
        press(Qt.Key.Key_T, CTRL)
        assert isinstance(focused(), Page)
        type_text("TEA")
        press(Qt.Key.Key_Return, CTRL)
        path = window.session.selection.plate
        assert window.session.shown(f"{path}/words") == "TEA"
        assert not isinstance(focused(), Page)  # the next key is a command again
        window.session.undo()
        assert window.session.shown(f"{path}/words") == "LANTERN ROW"

    def test_escape_gives_the_words_back(self, window):
        window.session.select(plate="plates/title")
        click(named(window, "Words"))
        type_text("more")
        press(Qt.Key.Key_Escape)
        assert window.session.shown("plates/title/words") == "LANTERN ROW"
        assert not window.session.history.gesturing


class TestTab:
    def test_tab_walks_the_fields_of_a_panel_as_they_are_read(self, window):
        window.coupling.settings.focus_value("reach_x")
        walked = []
        for _ in range(4):
            press(Qt.Key.Key_Tab)
            walked.append(focused().accessibleName())
        assert walked == ["Linked", "Down by", "Down reach", "Reading the map"]
        press(Qt.Key.Key_Tab, SHIFT)
        assert focused().accessibleName() == "Down reach"

    def test_from_a_typed_number_to_the_next_field(self, window):
        click(named(window, "Across reach"))
        type_text("12")
        press(Qt.Key.Key_Tab)
        assert focused().accessibleName() == "Linked"

    def test_every_stop_is_reached_and_comes_round(self, window):
        start, seen = focused(), []
        for _ in range(400):
            press(Qt.Key.Key_Tab)
            seen.append(focused())
            if focused() is start:
                break
        assert focused() is start
        names = [widget.accessibleName() for widget in seen]
        for wanted in ("Words", "Size across", "Strength", "Stack", "Recipe", "Maps"):
            assert wanted in names
        panels = [window.map_bay, window.coupling, window.picture_bay, window.time]
        order = [next((n for n, panel in enumerate(panels) if panel.isAncestorOf(w)), -1) for w in seen]
        assert sum(1 for a, b in zip(order, order[1:], strict=False) if a != b) <= len(panels) + 1  # one after another


class TestFinder:
    def test_fields_are_found_by_name(self, window):
        tries = iter(range(400))

        def choose() -> None:
            finder = QApplication.activeModalWidget()
            ready = isinstance(finder, CommandFinder) and finder.search.hasFocus()
            if not ready and next(tries, None) is not None:
                if isinstance(finder, CommandFinder):
                    finder.activateWindow()
                QTimer.singleShot(50, choose)  # a busy machine takes its time to show it
                return
            assert isinstance(finder, CommandFinder), f"{finder} is in front"
            try:
                type_text("churn")
                assert "Churn" in finder.list.item(0).text()
                press(Qt.Key.Key_Return)
            finally:
                finder.reject()  # whatever went wrong, the test goes on; it is shut already where nothing did

        QTimer.singleShot(50, choose)
        press(Qt.Key.Key_K, CTRL)
        assert window.focusWidget().accessibleName() == "Churn"

    @pytest.mark.parametrize(
        ("typed", "found"),
        [
            ("neon", "Tube light    add this finish"),
            ("staggered", "Times    Staggered, field of"),
            ("fade", "Opacity"),
            ("screen", "Blend"),
            ("matte", "Matte"),
            ("transition", "Open a sample"),
            ("dispersion", "Dispersion"),
        ],
    )
    def test_what_people_call_things_is_found(self, window, typed, found):
        """Folded fields too, and all that can be added."""
        window.session.select(plate="plates/title")
        quake = effects.new_effect(window.session, "slope")
        window.session.set(f"{quake}/bends_by", "glass")
        finder = CommandFinder(window.commands(), window)
        finder.show()
        finder.search.setFocus()
        type_text(typed)
        lines = [finder.list.item(row).text() for row in range(finder.list.count())]
        assert any(line.startswith(found) for line in lines), lines
        finder.close()

    def test_a_folded_field_is_opened(self, window):
        window.session.select(effect="plates/title/effects/push")
        entry = next(e for e in window.commands() if e.title == "Times")
        entry.run()
        assert window.focusWidget().accessibleName() == "Times"

    def test_what_is_found_adds_itself(self, window):
        window.session.select(plate="plates/title")
        next(e for e in window.commands() if e.title == "Tube light").run()
        assert window.session.shot.plates[0].effects[-1].kind == "tube_light"

    def test_nothing_found_is_said(self, window):
        finder = CommandFinder(window.commands(), window)
        finder.show()
        finder.search.setFocus()
        QTest.keyClicks(finder.search, "zeppelin")
        assert "zeppelin" in finder.list.item(0).text()
        QTest.keyClick(finder.search, Qt.Key.Key_Return)
        assert finder.isVisible()
        finder.close()


def test_a_new_shot_asks_for_its_name_first(qtbot):
    dialog = ShotDialog(Shot(), "New shot")
    qtbot.addWidget(dialog)
    dialog.show()
    assert dialog.focusWidget() is dialog.name
    assert dialog.name.selectedText() == "Untitled"


class TestNothingJumps:
    def test_the_coupling_keeps_room_for_its_message(self, window, qtbot):
        keys = Keys((Key(frame=0.0, value=0.0), Key(frame=60.0, value=30.0)))
        shot = window.session.shot
        for name in ("reach_x", "reach_y"):
            shot = set_value(shot, f"plates/title/effects/push/{name}", keys)
        window.session.edit("x", shot)
        tops = set()
        for frame in (0, 30, 59):
            window.session.set_frame(frame)
            arrived(window, qtbot)
            tops.add(named(window, "Strength").mapTo(window, QPoint()).y())
        assert len(tops) == 1

    def test_no_stale_message_while_playing(self, window, qtbot):
        window.session.set_frame(0)
        arrived(window, qtbot)
        assert "not there" in window.coupling.why.text()
        window.session.set_frame(50)
        window.frames.play()
        qtbot.waitUntil(lambda: window.frames.last is not None and not window.frames.last.request.probe, timeout=20_000)
        qtbot.waitUntil(lambda: window.coupling.why.text() == "", timeout=20_000)
        window.frames.stop()

    def test_the_stack_tells_the_value_now(self, window, qtbot):
        notes = {}
        for frame in (14, 84):
            window.session.set_frame(frame)
            qtbot.wait(150)  # ten times a second is as fast as one can read
            row = next(row for row in window.picture_bay.stack.rows if row.path.endswith("push"))
            notes[frame] = row.note.split(" · ")[0]
            reach = max((window.session.shown(REACH), 18.0), key=abs)
            assert notes[frame] == f"{reach:.0f} px"
        assert notes[14] != notes[84]

    def test_the_transport_stands_still(self, window, qtbot):
        def places() -> list[int]:
            return [button.mapTo(window, QPoint()).x() for button in window.time.findChildren(QToolButton)]

        before = places()
        window.frames.play()
        window.frames.dropped = 777
        window.frames.shown_rate = 23.4
        window.frames.play_changed.emit()
        qtbot.wait(30)
        assert places() == before
        wide = window.time.figures.fontMetrics().horizontalAdvance(window.time.figures.text())
        assert wide <= window.time.figures.width()
        window.frames.stop()

    def test_the_render_dialog_keeps_its_size(self, window, qtbot, tmp_path):
        dialog = window.dialogs.show_render()
        qtbot.wait(20)
        size, button = dialog.size(), dialog.go.pos()
        dialog.fields.where.setText(str(tmp_path / "o.mp4"))
        dialog.fields.size_box.setCurrentIndex(2)
        click(dialog.go)
        qtbot.wait(20)
        assert (dialog.size(), dialog.go.pos()) == (size, button)
        click(dialog.cancel)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        dialog.close()


class TestRenderIsNotLeftBehind:
    @pytest.fixture
    def rendering(self, window, tmp_path):
        dialog = window.dialogs.show_render()
        dialog.fields.where.setText(str(tmp_path / "long.mp4"))
        click(dialog.go)
        assert dialog.running()
        return dialog

    def test_escape_asks(self, window, rendering, monkeypatch):
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
        QTest.keyClick(rendering, Qt.Key.Key_Escape)
        assert rendering.isVisible()
        assert rendering.running()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)
        QTest.keyClick(rendering, Qt.Key.Key_Escape)
        assert not rendering.isVisible()
        assert not rendering.running()

    def test_closing_the_window_asks_and_stops_it(self, window, rendering, tmp_path, monkeypatch):
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
        assert not window.close()
        assert rendering.running()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)
        assert window.close()
        assert not rendering.running()
        assert list(tmp_path.glob("*.mp4")) == []


def test_shift_drag_of_the_loop_is_one_step(window):
    before = len(window.session.history.past)
    lanes = window.time.lanes
    drag(lanes, QPoint(400, 10), QPoint(700, 10), SHIFT)
    assert window.session.shot.loop is not None
    assert len(window.session.history.past) == before + 1


def test_pins_are_boxed_from_the_empty_strip_below(window):
    lanes = window.time.lanes
    window.rows.setSizes([300, 500])
    QTest.qWait(30)
    top = round(next(top for row, top in lanes.tops() if row.path == REACH))
    start = QPoint(lanes.width() - 4, lanes.height() - 4)
    assert lanes.row_at(start.y()) is None
    drag(lanes, start, QPoint(240, top))
    assert {path for path, _ in lanes.chosen} >= {REACH}


def test_a_linked_reach_is_shown_as_it_moves(window):
    window.session.set("plates/title/effects/push/linked", True)
    field = named(window, "Down reach")
    for frame in (20, 84):
        window.session.set_frame(frame)
        assert field.number == window.session.shown(REACH)


def test_the_loop_has_buttons(window):
    window.session.set_frame(20)
    click(window.time.loop_from)
    window.session.set_frame(60)
    click(window.time.loop_to)
    assert window.session.shot.loop == (20, 61)


def test_what_is_deleted_leaves_its_neighbour_selected(window):
    window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/levels")
    click(window.map_bay.recipe, QPoint(120, 45))
    press(Qt.Key.Key_Delete)
    assert window.session.selection.step == "maps/heat-columns/steps/fade"
    press(Qt.Key.Key_Delete)
    assert window.session.selection.step == "maps/heat-columns/steps/blur"
    press(Qt.Key.Key_Delete)
    assert window.session.selection.step == "maps/heat-columns/steps/noise"


def test_a_theme_is_switched_whole(window):
    def pictured() -> dict[str, bytes]:
        found = {}
        for button in window.findChildren(QToolButton):
            if button.property("icon_name") and button.property("icon_role") != "on_sign":  # dark in both themes
                image = button.icon().pixmap(16, 16).toImage().convertToFormat(button.grab().toImage().format())
                found[button.accessibleName()] = image.constBits().asstring(image.sizeInBytes())
        return found

    dark = pictured()
    window.dialogs.toggle_theme()
    light = pictured()
    assert all(dark[name] != light[name] for name in dark)
    titles = [part.palette().windowText().color().lightness() for part in (window.top.name, window.status.name)]
    assert all(lightness < 128 for lightness in titles)
    window.dialogs.toggle_theme()
    assert pictured() == dark


def test_every_opened_shot_stands_where_it_was_saved(window, tmp_path):
    assert window.session.frame == 52  # a telling frame of the sample
    window.session.set_frame(77)
    window.session.save(tmp_path / "a.nquake")
    window.session.set_frame(3)
    assert window.files.open_path(tmp_path / "a.nquake")
    assert window.session.frame == 77


@pytest.mark.parametrize("size", [(850, 520), (1000, 640), (1280, 770)])
def test_the_window_fits_small_screens(opened, size):
    window = opened(None, size)
    assert (window.width(), window.height()) == size
    assert window.status.mapTo(window, QPoint()).y() + window.status.height() <= size[1]
    assert window.map_bay.viewer.height() >= 60
