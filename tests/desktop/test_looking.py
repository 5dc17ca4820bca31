"""Ways to look at map and picture: round the frame, corners, two maps, guides that things snap to."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QInputDialog

from driving import LEFT, QTest, arrived, drag
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.views import screen_of_picture
from nimble_quake.session.states.sides import side_of
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shotfile.files import read_shot


def shown(window, qtbot, view):
    window.picture_bay.choose_view(view)
    arrived(window, qtbot)
    assert window.frames.last.error == ""
    return window.frames.last


class TestBeyond:
    def test_inside_it_is_the_frame_and_outside_what_lies_there(self, window, qtbot):
        window.session.set_frame(40)
        QTest.mouseClick(window.picture_bay.beyond_button, LEFT)
        response = shown(window, qtbot, "result")
        scale, n = response.request.scale, round(response.beyond * response.request.scale)
        assert n > 10
        job = frame_job(window.session.engine, window.session.shot, 40)
        whole = screen_of_picture(frame_picture(job, scale, shutter=False), "result", (0, 0, 0))
        inside = response.picture[n:-n, n:-n].astype(int)
        assert np.abs(inside - whole).mean() < 0.5
        above = Grid(0, -response.beyond, whole.shape[1], n, scale)
        there = screen_of_picture(frame_picture(job, grid=above, shutter=False), "result", (0, 0, 0)).astype(int)
        assert np.abs(response.picture[:n, n:-n].astype(int) - there).mean() < 0.5
        assert there[..., :3].max() > 0, "the market street goes on there"
        viewer = window.picture_bay.viewer
        frame, box = viewer.frame_rect(), viewer.box()
        assert box.contains(frame.adjusted(-10, -10, 10, 10)), "there is room round the frame"

    def test_views_of_two_pictures_stay_as_they_are(self, window, qtbot):
        QTest.mouseClick(window.picture_bay.beyond_button, LEFT)
        assert shown(window, qtbot, "split").beyond == 0
        assert window.picture_bay.viewer.state.around == 0
        assert shown(window, qtbot, "result").beyond > 0


class TestCorners:
    def test_each_cell_shows_the_full_size_pixels_of_its_place(self, window, qtbot):
        window.session.set_frame(60)
        response = shown(window, qtbot, "corners")
        job = frame_job(window.session.engine, window.session.shot, 60)
        whole = screen_of_picture(frame_picture(job, shutter=False), "result", (0, 0, 0))
        picture = response.picture.astype(int)
        assert np.abs(picture[0, 0, :3] - whole[0, 0, :3]).max() <= 1
        assert np.abs(picture[0, -1, :3] - whole[0, -1, :3]).max() <= 1
        assert np.abs(picture[-1, -1, :3] - whole[-1, -1, :3]).max() <= 1
        assert response.enlarged > 1.2

    def test_nothing_in_it_has_a_place_of_the_shot(self, window, qtbot):
        shown(window, qtbot, "corners")
        viewer = window.picture_bay.viewer
        before = window.session.shot
        drag(viewer, QPoint(250, 100), QPoint(300, 150))
        assert window.session.shot is before
        assert viewer.probe is None


class TestTwoMaps:
    def test_another_map_stands_beside_the_selected_one(self, window, qtbot):
        window.session.select(map="maps/heat-columns")
        window.map_bay.show_beside("maps/slow-swell")
        arrived(window, qtbot)
        both = window.frames.last
        assert window.map_bay.viewer.split == 0.5
        assert window.map_bay.viewer.tags == ("Slow swell", "Heat columns")
        window.session.select(map="maps/slow-swell")
        arrived(window, qtbot)
        assert window.frames.last.other_map is None
        assert (window.frames.last.map == both.other_map).mean() > 0.99
        assert window.map_bay.viewer.split is None


class TestStates:
    def test_kept_by_name_seen_beside_what_is_now_and_gone_back_to(self, window, qtbot, monkeypatch):
        monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Calm", True))
        session, bay = window.session, window.picture_bay
        session.set_frame(60)
        calm = shown(window, qtbot, "result").picture
        bay.states.keep()
        session.edit("Turn", set_value(session.shot, "plates/title/turn", 60.0))
        (state,) = session.shot.states
        bay.states.compare(state.id)
        arrived(window, qtbot)
        both = window.frames.last
        assert window.frames.picture_view == "split"
        assert bay.viewer.tags == ("Calm", "now")
        assert np.abs(both.untouched.astype(int) - calm).mean() < 0.5
        assert np.abs(both.picture.astype(int) - calm).mean() > 2
        menu = bay.states.menu()
        ticked = [action.text() for action in menu.actions() if action.isChecked()]
        assert ticked == []
        next(action for action in menu.actions() if action.text() == "Calm").trigger()
        assert session.raw("plates/title/turn") is None
        bay.states.compare(state.id)
        arrived(window, qtbot)
        assert bay.viewer.tags == ("untouched", "result")

    def test_sides_of_a_plate_and_of_a_map_are_flipped_by_a_click(self, window):
        session = window.session
        session.select(plate="plates/title", quake="", finish="", map="maps/heat-columns")
        for choice, path in ((window.picture_bay.sides, "plates/title"), (window.map_bay.sides, "maps/heat-columns")):
            QTest.mouseClick(choice, LEFT, pos=QPoint(choice.width() - 6, 8))
            assert side_of(session.shot, path) == "B"
            assert choice.value == "B"


class TestGuides:
    def test_own_lines_are_dragged_kept_in_the_file_and_dragged_off(self, window, tmp_path):
        window.picture_bay.guides.add(0)
        viewer = window.picture_bay.viewer
        assert window.session.shot.guides_x == (640.0,)
        window.session.select(plate="", quake="", finish="")
        drag(viewer, viewer.to_widget(640, 700).toPoint(), viewer.to_widget(320, 700).toPoint())
        (at,) = window.session.shot.guides_x
        assert at == pytest.approx(320, abs=3)
        window.session.save(tmp_path / "a.nquake")
        assert read_shot(tmp_path / "a.nquake").guides_x == (at,)
        drag(viewer, viewer.to_widget(at, 700).toPoint(), viewer.to_widget(-20, 700).toPoint())
        assert window.session.shot.guides_x == ()
        QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert window.session.shot.guides_x == (at,)

    def test_a_plate_snaps_to_the_middle_and_control_lets_go(self, window):
        session, viewer = window.session, window.picture_bay.viewer
        session.edit("Place", set_value(session.shot, "plates/title/position", (500.0, 250.0)))
        session.select(plate="plates/title", quake="", finish="")
        start, near = viewer.to_widget(500, 250).toPoint(), viewer.to_widget(645, 450).toPoint()
        drag(viewer, start, near)
        assert session.shown("plates/title/position")[0] == pytest.approx(640, abs=0.2)
        session.undo()
        drag(viewer, start, near, Qt.KeyboardModifier.ControlModifier)
        assert abs(session.shown("plates/title/position")[0] - 640) > 0.2
        session.undo()
        window.picture_bay.guides.toggle_snapping()
        drag(viewer, start, near)
        assert abs(session.shown("plates/title/position")[0] - 640) > 0.2

    def test_thirds_are_remembered(self, window):
        window.picture_bay.guides.toggle("thirds")
        xs, ys = window.picture_bay.guides.lines()
        assert xs == pytest.approx([1280 / 3, 2560 / 3])
        assert ys == pytest.approx([240, 480])
        assert window.preferences.guides == ["thirds"]
