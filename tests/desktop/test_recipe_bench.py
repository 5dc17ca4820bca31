"""The recipe bench: boards, steps, variations, comparing."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QFileDialog

from driving import LEFT, QTest, arrived, drag, press, type_text
from nimble_quake.samples import sample_path
from nimble_quake.session.summaries import step_summary
from nimble_quake.session.verbs import items, maps
from nimble_quake.shot.paths import find


class TestRecipe:
    def test_add_from_the_board(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        QTest.mouseClick(window.map_bay.add_button, LEFT)
        board = window.board
        assert board.isVisible()
        assert window.frames.shot_override is not None
        qtbot.keyClicks(board.search, "pixel")
        assert board.cells.entries[0].title == "Pixelate"
        QTest.keyClick(board.search, Qt.Key.Key_Return)
        assert not board.isVisible()
        assert window.frames.shot_override is None
        assert [step.kind for step in window.session.shot.maps[0].recipe][-1] == "pixelate"
        assert window.session.selection.step.endswith("/pixelate")

    def test_thumbnails_move(self, window, qtbot):
        window.show_board()
        cells = window.board.cells
        qtbot.waitUntil(lambda: "noise:Noise" in cells.images, timeout=20_000)
        first = cells.images["noise:Noise"]
        qtbot.waitUntil(lambda: cells.images["noise:Noise"] != first, timeout=20_000)
        QTest.keyClick(window.board, Qt.Key.Key_Escape)
        assert not window.board.isVisible()

    def test_recipes_are_tried_and_used(self, window, qtbot):
        window.show_board("recipes")
        board = window.board
        assert len(board.cells.entries) >= 24
        qtbot.keyClicks(board.search, "ribbed")
        assert board.cells.entries[0].title == "Ribbed glass"
        assert window.frames.shot_override.maps[-1].name == "Ribbed glass"
        QTest.keyClick(board.search, Qt.Key.Key_Return)
        assert window.session.shot.maps[-1].name == "Ribbed glass"
        assert window.session.raw("plates/title/effects/push/map") == window.session.shot.maps[-1].id

    def test_variations_are_taken(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/noise")
        before = window.session.shown("maps/heat-columns/steps/noise/seed")
        QTest.mouseClick(window.map_bay.vary, LEFT)
        board = window.board
        assert [entry.title for entry in board.cells.entries][:2] == ["As it is", "Variation 1"]
        qtbot.waitUntil(lambda: len(board.cells.images) >= 6, timeout=20_000)
        QTest.keyClick(board.cells, Qt.Key.Key_Right)
        QTest.keyClick(board.cells, Qt.Key.Key_Return)
        assert window.session.shown("maps/heat-columns/steps/noise/seed") != before
        window.session.undo()
        assert window.session.shown("maps/heat-columns/steps/noise/seed") == before

    def test_one_step_alone_and_two_compared(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/noise")
        shot = window.session.shot
        window.map_bay.toggle_solo("maps/heat-columns/steps/noise")
        arrived(window, qtbot)
        assert [step.on for step in window.frames.last.request.shot.maps[0].recipe] == [True, False, False, False]
        assert window.session.shot is shot
        window.map_bay.toggle_solo("maps/heat-columns/steps/noise")
        window.map_bay.compare_with("maps/heat-columns/steps/noise")
        arrived(window, qtbot)
        assert window.map_bay.viewer.tags == ("after Noise", "finished")
        assert (window.frames.last.map != window.frames.last.other_map).any(), "not a step beside itself"
        window.session.select(step="maps/heat-columns/steps/blur")
        arrived(window, qtbot)
        assert window.map_bay.viewer.second is not None
        assert window.map_bay.viewer.tags == ("after Noise", "after Blur")
        window.session.set("maps/heat-columns/steps/blur/radius", 9.5)
        arrived(window, qtbot)
        assert window.frames.costs.of("maps/heat-columns/steps/blur") > 0

    def test_a_step_alone_ends_with_the_step_and_with_the_shot(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        window.map_bay.toggle_solo("maps/heat-columns/steps/blur")
        items.remove_item(window.session, "maps/heat-columns/steps/blur")
        arrived(window, qtbot)
        assert window.frames.solo == ""
        window.map_bay.toggle_solo("maps/heat-columns/steps/noise")
        window.files.open_path(sample_path())
        assert window.frames.solo == ""
        assert not window.map_bay.solo.isChecked()

    def test_both_sets_of_handles_go_with_their_button(self, window):
        window.picture_bay.handles_button.click()
        assert window.picture_bay.handles.grips() == window.picture_bay.step_handles.grips() == []

    def test_a_row_says_what_is_the_steps_own(self, window):
        """Not what all steps have, such as when a staggered one begins; nor numbers that do not count as it is set."""
        words = {}
        for kind in ("curve", "invert", "blur", "contrast"):
            items.swap_kind(window.session, "maps/heat-columns/steps/blur", kind)
            words[kind] = step_summary(window.session, "maps/heat-columns/steps/blur")
        assert words["curve"] == words["invert"] == ""
        assert words["blur"].startswith("gaussian, ")
        assert words["contrast"]

    def test_a_curve_is_drawn_on_the_histogram(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        items.swap_kind(window.session, "maps/heat-columns/steps/blur", "curve")
        arrived(window, qtbot)
        pad = window.map_bay.settings.editors["points"].pad
        assert max(pad.bars) > 0
        before = window.session.shown("maps/heat-columns/steps/blur/points")
        at = pad.place_of((0.5, 0.9)).toPoint()
        QTest.mouseClick(pad, LEFT, Qt.KeyboardModifier.NoModifier, at)
        points = window.session.shown("maps/heat-columns/steps/blur/points")
        assert len(points) == len(before) + 1
        assert points[2] == pytest.approx((0.5, 0.9), abs=0.02)
        QTest.keyClick(pad, Qt.Key.Key_Delete)
        assert window.session.shown("maps/heat-columns/steps/blur/points") == before

    def test_every_place_of_a_step_has_a_handle_in_both_viewers(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        items.swap_kind(window.session, "maps/heat-columns/steps/blur", "twirl")
        window.session.set("maps/heat-columns/steps/blur/centre", (640.0, 600.0))
        for viewer in (window.map_bay.viewer, window.picture_bay.viewer):
            window.session.set("maps/heat-columns/steps/blur/centre", (640.0, 600.0))
            start = viewer.to_widget(640, 600).toPoint()
            drag(viewer, start, viewer.to_widget(900, 500).toPoint())
            assert window.session.shown("maps/heat-columns/steps/blur/centre") == pytest.approx((900, 500), abs=6)

    def test_a_recipe_file_is_dropped_and_a_map_copied(self, window, qtbot, tmp_path, monkeypatch):
        path = tmp_path / "mine.nquake-recipe"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
        window.session.select(map="maps/heat-columns")
        window.files.maps.save()
        count = len(window.session.shot.maps)
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        window.dropEvent(
            QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
        )
        assert len(window.session.shot.maps) == count + 1
        window.show_board("yours")
        assert [entry.title for entry in window.board.cells.entries] == ["Heat columns"]
        window.board.shut()
        window.files.maps.copy("maps/slow-swell")
        window.files.maps.paste()
        assert window.session.shot.maps[-1].name == "Slow swell"

    def test_drag_to_reorder(self, window):
        window.session.select(map="maps/heat-columns")
        rows = window.map_bay.recipe
        drag(rows, QPoint(100, 15), QPoint(100, 33 * 2 + 30))
        assert [step.id for step in window.session.shot.maps[0].recipe] == ["levels", "fade", "noise", "blur"]
        window.session.undo()
        assert [step.id for step in window.session.shot.maps[0].recipe] == ["noise", "levels", "fade", "blur"]

    def test_keyboard(self, window):
        rows = window.map_bay.recipe
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/noise")
        rows.setFocus()
        QTest.keyClick(rows, Qt.Key.Key_Down)
        assert window.session.selection.step.endswith("levels")
        QTest.keyClick(rows, Qt.Key.Key_Return)
        assert not window.session.shot.maps[0].recipe[1].on
        QTest.keyClick(rows, Qt.Key.Key_Up, Qt.KeyboardModifier.AltModifier)
        assert window.session.shot.maps[0].recipe[0].id == "levels"
        QTest.keyClick(rows, Qt.Key.Key_Delete)
        assert [step.id for step in window.session.shot.maps[0].recipe] == ["noise", "fade", "blur"]

    def test_eye_and_swap(self, window):
        rows = window.map_bay.recipe
        QTest.mouseClick(rows, LEFT, pos=QPoint(rows.width() - 10, 15))
        assert not window.session.shot.maps[0].recipe[0].on
        window.map_bay.swap.setFocus()
        type_text("Gradient")
        assert window.session.shot.maps[0].recipe[0].kind == "gradient"

    def test_looks_are_offered_in_the_panel_and_tried_while_hovered(self, window):
        swap, step = window.map_bay.swap, "maps/heat-columns/steps/noise"
        swap.showPopup()
        at = swap.findText("Noise: cracks")
        assert at > 0
        swap.view().setCurrentIndex(swap.model().index(at, 0))
        tried = find(window.frames.shot_override, step)
        assert (tried.values["base"], tried.name) == ("edge", "Cracks")
        swap.hidePopup()
        assert window.frames.shot_override is None
        assert window.session.shown(f"{step}/base") != "edge"
        swap.setFocus()
        for _ in range(at - swap.currentIndex()):
            press(Qt.Key.Key_Down)
        assert window.session.shown(f"{step}/base") == "edge"
        assert window.session.shown(f"{step}/churn") == 0.1
        press(Qt.Key.Key_M, Qt.KeyboardModifier.ControlModifier)
        path = window.session.selection.map
        assert window.session.name_of(path) == "Map"
        assert find(window.session.shot, path).recipe == (), "a new map begins with no step"

    def test_a_map_is_called_after_its_source_until_it_is_named(self, window):
        first, second = (maps.new_map(window.session, "ribs") for _ in range(2))
        assert [window.session.name_of(path) for path in (first, second)] == ["Ribs", "Ribs 2"]
        items.rename(window.session, first, "Glass")
        assert [window.session.name_of(path) for path in (first, second)] == ["Glass", "Ribs"]

    def test_on_the_recipes_tab_recipes_come_first(self, window):
        press(Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier)
        type_text("rib")
        board = window.board
        assert board.head.text() == "Use a recipe"
        assert board.cells.entries[0].tab == "recipes"
        title = board.cells.current.title
        press(Qt.Key.Key_Return)
        assert window.session.name_of(window.session.selection.map) == title

    def test_maps_views_and_tabs(self, window, qtbot):
        for view in ("red", "contour", "needles", "distance", "slope", "alpha", "value"):
            window.map_bay.choose_view(view)
            arrived(window, qtbot)
            assert window.frames.last.error == ""
        QTest.mouseClick(window.map_bay.tabs, LEFT, pos=QPoint(int(window.map_bay.tabs.boxes()[1][2].center().x()), 10))
        assert window.session.selection.map == "maps/slow-swell"
        window.map_bay.step_view.activated.emit(2)
        arrived(window, qtbot)
        assert window.frames.last.request.steps == 0
