"""The way a keyed place goes, in the picture."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt

from driving import LEFT, QTest, arrived, drag
from nimble_quake.motion.kinds import Key, Keys, keys_of
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_value

PATH = "plates/title/position"
GOES = Keys(
    (
        Key(frame=0, value=(300.0, 200.0), after="straight"),
        Key(frame=40, value=(900.0, 200.0), after="straight"),
        Key(frame=60, value=(900.0, 600.0), after="straight"),
    )
)


@pytest.fixture
def moving(window):
    window.session.edit("Let move", set_value(window.session.shot, PATH, GOES))
    window.session.select(plate="plates/title", quake="", finish="")
    window.session.set_frame(20)
    return window


def pins(window):
    keyed = keys_of(window.session.raw(PATH))
    return [(key.frame, key.value) for key in keyed.keys]


def test_it_goes_through_every_frame_as_the_value_does(moving):
    (path,) = moving.picture_bay.handles.paths.paths()
    assert path.frames == list(range(61))
    assert (path.places[10].x(), path.places[10].y()) == pytest.approx((450, 200))
    assert (path.places[50].x(), path.places[50].y()) == pytest.approx((900, 400))
    assert [frame for frame, _ in path.pins] == [0, 40, 60]


def test_a_pin_is_dragged_where_it_lies_and_the_others_stay(moving):
    viewer = moving.picture_bay.viewer
    drag(viewer, viewer.to_widget(900, 600).toPoint(), viewer.to_widget(800, 500).toPoint())
    assert pins(moving)[:2] == [(key.frame, key.value) for key in GOES.keys[:2]]
    assert pins(moving)[2][1] == pytest.approx((800, 500), abs=3)
    assert moving.session.frame == 20
    QTest.keyClick(moving, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert pins(moving) == [(key.frame, key.value) for key in GOES.keys]


def test_a_click_on_a_pin_goes_to_its_frame(moving):
    viewer = moving.picture_bay.viewer
    QTest.mouseClick(viewer, LEFT, pos=viewer.to_widget(900, 200).toPoint())
    assert moving.session.frame == 40
    assert pins(moving) == [(key.frame, key.value) for key in GOES.keys]


def test_a_still_place_and_hidden_handles_have_none(moving, qtbot):
    moving.picture_bay.handles_button.click()
    assert moving.picture_bay.handles.paths.paths() == []
    moving.picture_bay.handles_button.click()
    moving.session.edit("Hold", set_value(moving.session.shot, PATH, (1.0, 2.0)))
    assert moving.picture_bay.handles.paths.paths() == []


@pytest.mark.parametrize("value", [{"swing": -30.0, "away": 200.0}, {"tilt": 30.0, "away": -200.0}])
def test_of_a_plate_in_depth_it_goes_where_the_plate_is_seen(moving, value):
    """Compared with where a small plate's opaque pixels lie in the rendered picture."""
    shot = moving.session.shot
    for name, number in (value | {"scale_x": 0.08, "scale_y": 0.08}).items():
        shot = set_value(shot, f"plates/title/{name}", number)
    moving.session.edit("Turn", shot)
    (path,) = moving.picture_bay.handles.paths.paths()
    grid = frame_grid(shot.width, shot.height)
    for frame in (0, 40):
        picture, _ = frame_job(moving.session.engine, shot, frame).plate_picture("title", grid, with_effects=False)
        ys, xs = np.nonzero(np.asarray(picture)[..., 3] > 0.3)
        found = ((xs.min() + xs.max() + 1) / 2, (ys.min() + ys.max() + 1) / 2)
        flat = GOES.keys[frame // 40].value
        assert found == pytest.approx((path.places[frame].x(), path.places[frame].y()), abs=4)
        assert found != pytest.approx(flat, abs=8)


def test_of_a_drawn_mask_it_goes_along_with_the_step(window, qtbot):
    step = "maps/heat-columns/steps/fade"
    goes = Keys((Key(frame=0, value=(100.0, 100.0)), Key(frame=30, value=(400.0, 300.0))))
    window.session.edit("Let move", set_value(window.session.shot, f"{step}/start", goes))
    window.session.select(map="maps/heat-columns", step=step)
    arrived(window, qtbot)
    (path,) = window.map_bay.handles.paths.paths()
    assert path.pins[-1] == (30, QPointF(400, 300))
    viewer = window.map_bay.viewer
    drag(viewer, viewer.to_widget(400, 300).toPoint(), viewer.to_widget(420, 330).toPoint())
    assert keys_of(window.session.raw(f"{step}/start")).keys[1].value == pytest.approx((420, 330), abs=4)
