"""The window, used with mouse and keys; then the document is looked at, and the other way round."""

from __future__ import annotations

import errno
import time
from fractions import Fraction
from pathlib import Path

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from helpers import coded, write_png
from nimble_quake.desktop import app as desktop_app
from nimble_quake.desktop.boards.command_finder import CommandFinder
from nimble_quake.desktop.dialogs.shot_dialog import ShotDialog
from nimble_quake.desktop.dialogs.small import PreferencesDialog, ShortcutsDialog
from nimble_quake.motion.kinds import Formula, Keys
from nimble_quake.samples import sample_path
from nimble_quake.session import recovery, verbs
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.preferences import Preferences
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile import files
from nimble_quake.shotfile.files import read_shot

LEFT = Qt.MouseButton.LeftButton
REACH = "plates/title/quakes/push/reach_x"


def arrived(window, qtbot) -> None:
    """Wait for the frame of what is set now."""
    frames = window.frames
    frames.last = None
    frames.ask()

    def here() -> bool:
        wanted = frames.request(window.session.frame, probe=True)
        return frames.last is not None and frames.last.request == wanted

    qtbot.waitUntil(here, timeout=20_000)


def drag(widget: QWidget, start: QPoint, end: QPoint, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mousePress(widget, LEFT, modifiers, start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, start + (end - start) * share)
        QTest.qWait(1)
    QTest.mouseRelease(widget, LEFT, modifiers, end)


def test_the_demo_is_shown(window):
    assert window.windowTitle() == "Lantern Row opener - Nimble Quake"
    assert window.picture_bay.viewer.image is not None
    assert window.map_bay.viewer.image is not None
    assert [row.title for row in window.map_bay.recipe.rows] == ["Noise", "Levels", "Fade to rest", "Blur"]
    assert [row.path for row in window.picture_bay.stack.rows][:2] == ["plates/title", "plates/title/quakes/push"]


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800), (2560, 1440)])
def test_nothing_needs_more_room_than_there_is(opened, size):
    from nimble_quake.samples import sample_path

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


class TestNumbers:
    """Slide-fields."""

    def field(self, window, name="reach_y"):
        return window.coupling.settings.editors[name].field

    def test_drag_is_one_step(self, window):
        field, before = self.field(window), len(window.session.history.past)
        drag(field, QPoint(40, 10), QPoint(70, 10))
        assert window.session.shown("plates/title/quakes/push/reach_y") == 18 + 30 * field._step(
            Qt.KeyboardModifier.NoModifier
        )
        assert len(window.session.history.past) == before + 1
        window.session.undo()
        assert field.value == 18

    def test_fine_and_coarse(self, window):
        field = self.field(window)
        plain, fine, coarse = (
            field._step(m)
            for m in (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.ControlModifier,
            )
        )
        assert fine < plain < coarse

    def test_typing_a_sum(self, window):
        field = self.field(window)
        field.setFocus()
        for typed, value in (("1920/3", 640.0), ("-12.5", -12.5), ("+10", -2.5), ("*2", -5.0), ("nonsense", -5.0)):
            field.edit_text()
            field._editor.setText(typed)
            QTest.keyClick(field._editor, Qt.Key.Key_Return)
            assert window.session.shown("plates/title/quakes/push/reach_y") == value

    def test_beyond_the_usual_range_up_to_the_hard_limit(self, window):
        field = self.field(window)
        field.edit_text()
        field._editor.setText("99999999")
        QTest.keyClick(field._editor, Qt.Key.Key_Return)
        assert window.session.shown("plates/title/quakes/push/reach_y") == 20000

    def test_keys_and_name(self, window):
        field = self.field(window)
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Up)
        assert field.value > 18
        label = window.coupling.settings._labels["reach_y"]
        QTest.mouseDClick(label, LEFT)
        assert window.session.raw("plates/title/quakes/push/reach_y") is None
        assert field.value == 30

    def test_mark_sets_it_moving_only_when_asked(self, window):
        field = self.field(window)
        drag(field, QPoint(40, 10), QPoint(60, 10))
        assert not isinstance(window.session.raw("plates/title/quakes/push/reach_y"), Keys)
        QTest.mouseClick(field, LEFT, pos=QPoint(8, 10))
        assert isinstance(window.session.raw("plates/title/quakes/push/reach_y"), Keys)
        assert field._motion == "pinned"
        assert any(row.path.endswith("push/reach_y") for row in window.time.lanes.rows)

    def test_the_document_changes_the_field(self, window):
        window.session.edit("x", set_value(window.session.shot, "plates/title/quakes/push/reach_y", 77.0))
        assert self.field(window).value == 77


def test_live_picture_while_dragging(window, qtbot):
    """Dragging a number shows new frames before it is let go."""
    field = window.coupling.settings.editors["reach_y"].field
    before = window.frames.last
    QTest.mousePress(field, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(40, 10))
    QTest.mouseMove(field, QPoint(90, 10))
    qtbot.waitUntil(
        lambda: window.frames.last is not before and window.frames.last.request.shot is window.session.shot,
        timeout=20_000,
    )
    QTest.mouseRelease(field, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(90, 10))


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
        assert window.session.raw("plates/title/quakes/push/map") == window.session.shot.maps[-1].id

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
        window.session.select(step="maps/heat-columns/steps/blur")
        arrived(window, qtbot)
        assert window.map_bay.viewer.second is not None
        assert window.map_bay.viewer.tags == ("after Noise", "after Blur")
        window.session.set("maps/heat-columns/steps/blur/radius", 9.5)
        arrived(window, qtbot)
        assert window.map_bay._costs["maps/heat-columns/steps/blur"] > 0

    def test_a_step_alone_ends_with_the_step_and_with_the_shot(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        window.map_bay.toggle_solo("maps/heat-columns/steps/blur")
        verbs.remove_item(window.session, "maps/heat-columns/steps/blur")
        arrived(window, qtbot)
        assert window.frames.solo == ""
        window.map_bay.toggle_solo("maps/heat-columns/steps/noise")
        window.open_path(sample_path())
        assert window.frames.solo == ""
        assert not window.map_bay.solo.isChecked()

    def test_both_sets_of_handles_go_with_their_button(self, window):
        window.picture_bay.handles_button.setChecked(False)
        window.picture_bay._show_handles(False)
        assert window.picture_bay.handles.grips() == window.picture_bay.step_handles.grips() == []

    def test_a_curve_is_drawn_on_the_histogram(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        verbs.swap_kind(window.session, "maps/heat-columns/steps/blur", "curve")
        arrived(window, qtbot)
        pad = window.map_bay.settings.editors["points"].pad
        assert max(pad.bars) > 0
        before = window.session.shown("maps/heat-columns/steps/blur/points")
        at = pad._at((0.5, 0.9)).toPoint()
        QTest.mouseClick(pad, LEFT, Qt.KeyboardModifier.NoModifier, at)
        points = window.session.shown("maps/heat-columns/steps/blur/points")
        assert len(points) == len(before) + 1
        assert points[2] == pytest.approx((0.5, 0.9), abs=0.02)
        QTest.keyClick(pad, Qt.Key.Key_Delete)
        assert window.session.shown("maps/heat-columns/steps/blur/points") == before

    def test_every_place_of_a_step_has_a_handle_in_both_viewers(self, window, qtbot):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        verbs.swap_kind(window.session, "maps/heat-columns/steps/blur", "swirl")
        window.session.set("maps/heat-columns/steps/blur/centre", (640.0, 600.0))
        for viewer in (window.map_bay.viewer, window.picture_bay.viewer):
            window.session.set("maps/heat-columns/steps/blur/centre", (640.0, 600.0))
            start = viewer.to_widget(640, 600).toPoint()
            drag(viewer, start, viewer.to_widget(900, 500).toPoint())
            assert window.session.shown("maps/heat-columns/steps/blur/centre") == pytest.approx((900, 500), abs=6)

    def test_a_recipe_file_is_dropped_and_a_map_copied(self, window, qtbot, tmp_path):
        path = tmp_path / "mine.nquake-recipe"
        window._write_recipe(window.session.shot.maps[0], path)
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
        window.copy_map("maps/slow-swell")
        window.paste_map()
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
        bay = window.map_bay
        bay.swap.activated.emit(bay.swap.findData("gradient"))
        assert window.session.shot.maps[0].recipe[0].kind == "gradient"

    def test_maps_views_and_tabs(self, window, qtbot):
        for view in ("red", "contour", "needles", "slope", "alpha", "value"):
            window.map_bay._choose_view(view)
            arrived(window, qtbot)
            assert window.frames.last.error == ""
        QTest.mouseClick(
            window.map_bay.tabs, LEFT, pos=QPoint(int(window.map_bay.tabs._boxes()[1][2].center().x()), 10)
        )
        assert window.session.selection.map == "maps/slow-swell"
        window.map_bay._choose_step_view(2)
        arrived(window, qtbot)
        assert window.frames.last.request.steps == 0


class TestCoupling:
    def test_graph_drags(self, window):
        window.session.set(REACH, 50.0)
        window.session.edit("still", set_value(window.session.shot, REACH, 50.0))
        graph = window.coupling.graph
        end = graph._end(50.0, 1.0).toPoint()
        drag(graph, end, end + QPoint(20, 0))
        assert window.session.shown(REACH) < 50
        rest = QPoint(int(graph._plot().left() - 15), int(graph._y(0.5)))
        drag(graph, rest, rest + QPoint(0, -20))
        assert window.session.shown("plates/title/quakes/push/rest_by") == "picked"
        assert window.session.shown("plates/title/quakes/push/rest") > 0.55

    def test_sign_and_its_cure(self, window, qtbot):
        window.session.set("maps/heat-columns/steps/noise/brightness", 0.2)
        arrived(window, qtbot)
        pill = window.map_bay.pill
        assert pill.isVisible()
        assert "slides" in pill.words.text()
        QTest.mouseClick(pill.button, LEFT)
        assert window.session.shown("plates/title/quakes/push/rest_by") == "picked"
        arrived(window, qtbot)
        assert "slides" not in pill.words.text() or not pill.isVisible()

    def test_why_nothing_moves(self, window, qtbot):
        window.session.set_frame(40)
        window.session.set("plates/title/quakes/push/strength", 0.0)
        arrived(window, qtbot)
        assert window.coupling.why.isVisible()
        assert "strength is 0" in window.coupling.why.text()


class TestPicture:
    def test_probe_in_both_viewers(self, window, qtbot):
        window.session.set_frame(40)
        arrived(window, qtbot)
        viewer = window.picture_bay.viewer
        QTest.mouseMove(viewer, viewer.to_widget(900, 300).toPoint())
        QTest.qWait(20)
        window.probing.show(QPointF(900, 300))
        assert window.map_bay.viewer.probe == window.picture_bay.viewer.probe
        assert window.map_bay.viewer.tag.startswith("value 0.")
        assert "px" in viewer.tag
        x, y = window.probing.push()
        origin = window.picture_bay.origin
        assert (origin[1].x(), origin[1].y()) == pytest.approx((900 - x, 300 - y))

    def test_views(self, window, qtbot):
        for view in ("untouched", "split", "difference", "alpha", "result"):
            window.picture_bay._choose_view(view)
            arrived(window, qtbot)
            assert window.frames.last.error == ""
            assert (window.picture_bay.viewer.second is not None) is (view == "split")

    def test_zoom_and_pan_together(self, window):
        viewer = window.picture_bay.viewer
        place = viewer.to_shot(QPointF(100, 100))
        viewer.state.zoom_about(QPointF(100, 100), 2.0, viewer.box(), 1280, 720)
        after = viewer.to_shot(QPointF(100, 100))
        assert (after.x(), after.y()) == pytest.approx((place.x(), place.y()))
        assert window.map_bay.viewer.zoom() == viewer.zoom()
        viewer.state.pan(QPointF(-2000, 0), viewer.box(), 1280, 720)  # beyond the frame
        assert viewer.to_shot(QPointF(0, 0)).x() > 1280
        viewer.state.show_all()
        assert viewer.state.fit

    def test_handles_move_scale_and_turn(self, window):
        viewer = window.picture_bay.viewer
        window.session.set_frame(40)
        drag(viewer, viewer.to_widget(640, 300).toPoint(), viewer.to_widget(700, 340).toPoint())
        x, y = window.session.shown("plates/title/position")
        assert (x, y) == pytest.approx((700, 340), abs=3)
        grips = {grip.sort: grip for grip in window.picture_bay.handles.grips()}
        corner = viewer.to_widget(grips["scale"].at.x(), grips["scale"].at.y())
        middle = viewer.to_widget(x, y)
        drag(viewer, corner.toPoint(), (middle + (corner - middle) * 0.5).toPoint())
        assert window.session.shown("plates/title/scale_x") == pytest.approx(0.5, abs=0.05)
        turn = viewer.to_widget(
            *next((g.at.x(), g.at.y()) for g in window.picture_bay.handles.grips() if g.sort == "turn")
        )
        drag(viewer, turn.toPoint(), (middle + QPointF(60, 0)).toPoint())
        assert window.session.shown("plates/title/turn") == pytest.approx(90, abs=4)

    def test_gradient_ends_on_the_map(self, window):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/fade")
        viewer = window.map_bay.viewer
        start = window.session.shown("maps/heat-columns/steps/fade/start")
        drag(viewer, viewer.to_widget(*start).toPoint(), viewer.to_widget(200, 500).toPoint())
        assert window.session.shown("maps/heat-columns/steps/fade/start") == pytest.approx((200, 500), abs=3)

    def test_dropped_files_become_plates(self, window, tmp_path):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(write_png(tmp_path / "drop.png", coded(32, 16))))])
        event = QDropEvent(QPointF(700, 200), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
        window.dropEvent(event)
        assert window.session.shot.plates[0].kind == "still"

    def test_stack_selects_folds_and_switches(self, window):
        stack = window.picture_bay.stack
        QTest.mouseClick(stack, LEFT, pos=QPoint(120, 22 * 4 + 8))
        assert window.session.selection.quake == "plates/lanterns/quakes/push"
        assert window.session.selection.map == "maps/slow-swell"
        QTest.mouseClick(stack, LEFT, pos=QPoint(8, 10))
        assert "plates/title/quakes/push" not in [row.path for row in stack.rows]

    def test_a_bad_formula_is_told_in_the_viewer(self, window, qtbot):
        window.session.set_frame(40)
        window.session.edit("x", set_value(window.session.shot, "plates/title/turn", Formula("1 / 0")))
        qtbot.waitUntil(lambda: "divides by zero" in window.picture_bay.message, timeout=20_000)
        window.session.undo()
        qtbot.waitUntil(lambda: window.picture_bay.message == "", timeout=20_000)

    def test_a_missing_file_can_be_found(self, window, qtbot, tmp_path, monkeypatch):
        verbs.plate_from_file(window.session, str(tmp_path / "gone.png"))
        arrived(window, qtbot)
        editor = window.picture_bay.settings.editors["file"]
        assert editor.button.text().startswith("Find")
        found = write_png(tmp_path / "found.png", coded(32, 16))
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(found), ""))
        QTest.mouseClick(editor.button, LEFT)
        assert window.session.raw(f"{window.session.selection.plate}/file") == str(found)


class TestTime:
    def lane(self, window, path=REACH):
        lanes = window.time.lanes
        return next((row, top) for row, top in lanes.tops() if row.path == path)

    def test_ruler_moves_the_playhead(self, window):
        lanes = window.time.lanes
        QTest.mouseClick(lanes, LEFT, pos=QPoint(int(lanes.x_of(75)), 8))
        assert abs(window.session.frame - 75) <= 1
        drag(lanes, QPoint(int(lanes.x_of(20)), 8), QPoint(int(lanes.x_of(60)), 8), Qt.KeyboardModifier.ShiftModifier)
        loop = window.session.shot.loop
        assert loop is not None
        assert abs(loop[0] - 20) <= 1
        assert abs(loop[1] - 60) <= 1

    def test_pins_drag_in_time_and_value(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        QTest.qWait(10)
        row, top = self.lane(window)
        lanes.snap = False
        key = window.session.raw(REACH).keys[2]
        at = QPoint(int(lanes.x_of(key.frame)), int(lanes.pin_y(key, row, top)))
        drag(lanes, at, at + QPoint(int(lanes.zoom * 5), -30))
        moved = window.session.raw(REACH).keys[2]
        assert moved.frame == pytest.approx(65, abs=1)
        assert moved.value > key.value + 5
        window.session.undo()
        assert window.session.raw(REACH).keys[2] == key

    def test_box_copy_paste_shape_delete(self, window):
        lanes = window.time.lanes
        _row, top = self.lane(window)
        drag(lanes, QPoint(int(lanes.x_of(30)), int(top + 2)), QPoint(int(lanes.x_of(70)), int(top + 22)))
        assert {frame for _, frame in lanes.chosen} == {36.0, 60.0}
        window.time.copy()
        window.session.set_frame(128)
        window.time.paste()
        assert any(key.frame == 128 for key in window.session.raw(REACH).keys)
        window.time.shape("hold", None)
        assert [key.after for key in window.session.raw(REACH).keys if key.frame == 128] == ["hold"]
        lanes.setFocus()
        QTest.keyClick(lanes, Qt.Key.Key_Delete)
        assert not any(key.frame == 128 for key in window.session.raw(REACH).keys)

    def test_bars_slide_and_trim(self, window):
        lanes = window.time.lanes
        lanes.snap = False
        _row, top = self.lane(window, "plates/title")
        y = int(top + 11)
        drag(lanes, QPoint(int(lanes.x_of(60)), y), QPoint(int(lanes.x_of(70)), y))
        plate = window.session.shot.plate("title")
        assert plate.start == pytest.approx(22, abs=1)
        drag(lanes, QPoint(int(lanes.x_of(plate.start)) + 2, y), QPoint(int(lanes.x_of(plate.start + 8)) + 2, y))
        assert window.session.shot.plate("title").start == pytest.approx(plate.start + 8, abs=1)

    def test_curve_handles(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        QTest.qWait(10)
        row, top = self.lane(window)
        (grip, at, _), *_ = lanes.handles(row, top)
        drag(lanes, at.toPoint(), at.toPoint() + QPoint(25, 0))
        assert window.session.raw(REACH).keys[0].ease[0] > 0.3
        assert grip == ("out", 0)

    def test_pin_fields(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        window.session.set_frame(61)
        panel = lanes.pin_panel
        assert panel.isVisible()
        assert panel.title.text() == "Pin 3 of 5"
        panel.after.activated.emit(panel.after.findData("hold"))
        assert window.session.raw(REACH).keys[2].after == "hold"
        panel.frame._change(66.0)
        panel.frame._end()
        assert window.session.raw(REACH).keys[2].frame == 66

    def test_transport_and_markers(self, window):
        QTest.keyClick(window, Qt.Key.Key_End)
        assert window.session.frame == 143
        QTest.keyClick(window, Qt.Key.Key_Home)
        window.time.to_pin(1)
        assert window.session.frame == 12
        window.time.mark()
        assert next(m.name for m in window.session.shot.markers) == "mark 5"

    def test_playing_in_a_loop_at_true_time(self, window, qtbot):
        window.frames.preview = "third"
        window.session.edit(
            "loop", Shot(**{f: getattr(window.session.shot, f) for f in Shot.__struct_fields__} | {"loop": (30, 42)})
        )
        window.session.set_frame(30)
        seen: list[int] = []
        window.frames.arrived.connect(lambda response: seen.append(response.request.frame))
        began = time.monotonic()
        QTest.keyClick(window, Qt.Key.Key_Space)
        assert window.frames.playing
        qtbot.waitUntil(lambda: len(seen) > 30, timeout=20_000)
        assert set(seen) <= set(range(30, 42))
        assert time.monotonic() - began > 0.5  # 24 a second, not as fast as it can
        QTest.keyClick(window, Qt.Key.Key_Space)
        assert not window.frames.playing


class TestFiles:
    def test_save_open_and_recent(self, window, tmp_path, monkeypatch):
        path = tmp_path / "mine.nquake"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
        window.session.set("plates/title/size", 99.0)
        assert window.session.dirty
        assert window.save()
        assert read_shot(path) == window.session.shot
        assert window.preferences.recent[0] == str(path)
        window.session.set("plates/title/size", 100.0)
        assert window.save()
        window.session.take(Shot())
        assert window.open_path(path)
        assert window.session.shown("plates/title/size") == 100

    def test_what_cannot_be_opened_leaves_the_shot(self, window, tmp_path):
        (tmp_path / "bad.nquake").write_text("{")
        before = window.session.shot
        assert not window.open_path(tmp_path / "bad.nquake")
        assert window.session.shot is before
        assert "bad.nquake" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_full_disk_while_saving(self, window, tmp_path, monkeypatch):
        window.session.path = tmp_path / "x.nquake"

        def full(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(files.os, "fsync", full)
        assert not window.save()
        monkeypatch.undo()
        assert "No space left" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_autosave_and_recovery(self, window, monkeypatch):
        window.session.set("plates/title/size", 77.0)
        window.autosave()
        monkeypatch.setattr(recovery, "_running", lambda file: False)
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Yes)
        window.session.take(Shot())
        desktop_app.offer_recovery(window)
        assert window.session.shown("plates/title/size") == 77
        assert window.session.dirty
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)

    def test_closing_asks(self, window, monkeypatch):
        window.session.set("plates/title/size", 77.0)
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
        assert not window.close()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)


class TestRender:
    def test_render_and_cancel(self, window, qtbot, tmp_path):
        dialog = window.show_render()
        dialog.where.setText(str(tmp_path / "o.mp4"))
        dialog.size_box.setCurrentIndex(2)
        dialog.first.setValue(10)
        dialog.last.setValue(13)
        assert "4 frames, about" in dialog.said.text()
        QTest.mouseClick(dialog.go, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert dialog.said.text().startswith("Done: o.mp4")
        assert (tmp_path / "o.mp4").exists()
        dialog.last.setValue(140)
        dialog.where.setText(str(tmp_path / "p.mp4"))
        QTest.mouseClick(dialog.go, LEFT)
        QTest.mouseClick(dialog.cancel, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert [p.name for p in tmp_path.glob("*.mp4")] == ["o.mp4"]
        dialog.format.setCurrentIndex(dialog.format.findData("png16"))
        assert dialog.where.text().endswith("p_####.png")
        dialog.where.setText("/none/x.mp4")
        QTest.mouseClick(dialog.go, LEFT)
        assert "not there" in dialog.said.text()
        dialog.close()


class TestDialogs:
    def test_every_action_is_found_and_safe(self, window):
        finder = CommandFinder(window)
        assert finder.list.count() == len(ACTIONS)
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
            "render",
            "preferences",
            "quit",
            "commands",
            "shortcuts",
            "about",
            "shot-settings",
            "new-file",
            "open-recipe",
            "save-recipe",
            "theme",
            "sample-1",
            "sample-2",
            "sample-3",
            "play",
        }
        for action in ACTIONS:
            if action.id not in quiet and action.enabled(window):
                action.run(window)
        window.frames.stop()

    def test_shot_dialog(self, qtbot):
        dialog = ShotDialog(Shot(), "New shot")
        qtbot.addWidget(dialog)
        dialog.sizes.setCurrentText("1080 × 1350 (4:5)")
        dialog._take_size()
        dialog.rate.setCurrentIndex(dialog.rate.findData("24000/1001"))
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
        window.toggle_theme()
        assert window.preferences.theme == "light"
        window.toggle_theme()


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
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert isinstance(window.session.shot.plates[0], Plate)
    assert window.session.shot.plates[0].quakes
    assert Path(str(tmp_path)).exists()
