"""Plates turned in depth and the shot camera, against OpenCV's projection; pins by four points."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.plates.depth import Camera, carried, plain_camera, plane
from nimble_quake.render.plates.pins import unpinned
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Node, Plate, Shot

FRAME = (640.0, 360.0)


def places(count: int = 12) -> np.ndarray:
    return np.random.default_rng(3).uniform((0, 0), FRAME, (count, 2))


def seen(matrix: np.ndarray, at: np.ndarray) -> np.ndarray:
    found = np.column_stack([at, np.ones(len(at))]) @ matrix.T
    return np.asarray(found[:, :2] / found[:, 2:])


@pytest.mark.parametrize(("tilt", "swing", "away"), [(0, 0, 0), (40, 0, 0), (-30, 25, 100), (0, 70, -80)])
@pytest.mark.parametrize("eye", [None, ((400.0, 120.0, 700.0), (300.0, 180.0, 0.0), 50.0)])
def test_a_plane_is_seen_where_opencv_sees_it(tilt, swing, away, eye):
    """cv2.projectPoints with the same eye; its axes are right, down and ahead."""
    camera = plain_camera(FRAME) if eye is None else Camera(*eye)
    about, at = (320.0, 200.0), places()
    own = seen(camera.seen(FRAME) @ plane(about, tilt, swing, away), at)
    space = (plane(about, tilt, swing, away) @ np.column_stack([at, np.ones(len(at))]).T)[:3].T
    ahead = np.subtract(camera.target, camera.eye)
    ahead = ahead / np.linalg.norm(ahead)
    right = np.cross((0, -1, 0), ahead)
    right = right / np.linalg.norm(right)
    turn = np.stack([right, np.cross(right, ahead) * 1.0, ahead])
    if turn[1][1] < 0:
        turn[1] *= -1
    focal = FRAME[1] / 2 / math.tan(math.radians(camera.field) / 2)
    lens = np.array([[focal, 0, FRAME[0] / 2], [0, focal, FRAME[1] / 2], [0, 0, 1]])
    turned = (space - np.array(camera.eye)) @ turn.T
    theirs, _ = cv2.projectPoints(turned, np.zeros(3), np.zeros(3), lens, None)
    assert np.abs(own - theirs[:, 0]).max() < 1e-6


def test_without_depth_nothing_is_moved():
    matrix = plain_camera(FRAME).seen(FRAME) @ plane((100.0, 50.0), 0, 0, 0)
    assert np.abs(seen(matrix, places()) - places()).max() < 1e-9


def test_farther_is_smaller_as_its_distance_says():
    camera = plain_camera(FRAME)
    matrix = camera.seen(FRAME) @ plane((320.0, 180.0), 0, 0, camera.eye[2])
    assert np.abs(seen(matrix, places()) - ((places() - (320, 180)) / 2 + (320, 180))).max() < 1e-9


@given(st.lists(st.tuples(st.floats(-40, 40), st.floats(-40, 40)), min_size=4, max_size=4))
def test_four_points_carry_a_plane_exactly(moves):
    """cv2.getPerspectiveTransform of the same four points (references 8.7: corners map exactly)."""
    before = np.array([(100.0, 60.0), (520.0, 80.0), (500.0, 300.0), (120.0, 290.0)])
    after = before + np.array(moves)
    found = carried(before, after)
    assert found is not None
    assert np.abs(seen(found, before) - after).max() < 1e-3
    theirs = cv2.getPerspectiveTransform(before.astype(np.float32), after.astype(np.float32))
    assert np.abs(found / found[2, 2] - theirs).max() < 1e-3


def test_three_points_or_points_on_a_line_carry_nothing():
    line = np.array([(n * 10.0, n * 20.0) for n in range(4)])
    assert carried(line[:3], line[:3]) is None
    found = carried(line, line * 2)
    assert found is None or np.isfinite(found).all()


def shot_of(*plates: Plate) -> Shot:
    return Shot(width=640, height=360, plates=plates)


def square(**values: object) -> Plate:
    size = {"form": "rectangle", "width": 200.0, "height": 200.0, "colour": (1.0, 1.0, 1.0, 1.0)}
    return Plate(id="s", kind="shape", values={**size, **values})


def picture(*plates: Plate, scale: float = 1.0) -> np.ndarray:
    return frame_picture(frame_job(Engine(), shot_of(*plates), 0), scale)


def test_a_tilted_plate_is_drawn_where_its_corners_are_seen():
    plate = square(tilt=50.0, swing=20.0)
    shot = shot_of(plate)
    job = frame_job(Engine(), shot, 0)
    operator = job.operator("plate", plate, "plates/s")
    placement = unpinned(job, operator, plate)  # type: ignore[arg-type]
    assert placement.seen is not None
    w, h = placement.box
    corners = np.array([placement.shown(x, y) for x, y in ((0, 0), (w, 0), (w, h), (0, h))], np.float32)
    expected = np.zeros((360, 640), np.uint8)
    cv2.fillConvexPoly(expected, np.rint(corners * 16).astype(np.int32), 255, shift=4)
    found = picture(plate)[..., 0] > 0.5
    assert (found != (expected > 127)).mean() < 0.004
    back = placement.own(*placement.shown(20.0, 30.0))
    assert back == pytest.approx((20, 30), abs=1e-6)


def test_half_size_is_the_whole_made_smaller():
    plate = square(tilt=60.0, swing=30.0)
    whole, half = picture(plate), picture(plate, scale=0.5)
    smaller = whole.reshape(180, 2, 320, 2, 4).mean(axis=(1, 3))
    assert np.abs(smaller - half).mean() < 0.004


def test_edge_on_and_behind_the_eye_nothing_is_seen():
    ground = picture()
    for values in ({"swing": 90.0}, {"away": -5000.0}, {"tilt": 1e4}, {"away": 1e6}):
        found = picture(square(**values))
        assert np.isfinite(found).all()
        if "tilt" not in values:
            assert np.abs(found - ground).max() < 0.6


def test_a_camera_that_stands_as_none_does_changes_nothing_and_moved_it_moves_near_things_more():
    near, far = square(away=-200.0, position=(320.0, 180.0)), square(away=400.0, position=(320.0, 180.0))
    still = Plate(id="c", kind="camera")
    assert np.array_equal(picture(still, square()), picture(square()))

    def middle(plate: Plate, camera: Plate) -> float:
        white = picture(camera, plate)[..., 0] > 0.5
        return float(np.nonzero(white.any(axis=0))[0].mean())

    aside = Plate(id="c", kind="camera", values={"stands": (420.0, 180.0), "target": (420.0, 180.0)})
    assert middle(near, still) == pytest.approx(middle(far, still), abs=1)
    assert middle(near, aside) < middle(far, aside) < 320
    off = Plate(id="c", kind="camera", on=False, values=aside.values)
    assert middle(near, off) == pytest.approx(middle(near, still), abs=0.1)


def test_effects_act_on_what_is_seen_of_it_and_a_dragged_camera_is_never_stale():
    engine = Engine()
    glow = Node(id="g", kind="blur", values={"radius": 6.0})
    base = square(tilt=50.0)
    plate = Plate(id="s", kind="shape", values=base.values, effects=(glow,))
    found = []
    for x in (320.0, 420.0, 320.0):
        camera = Plate(id="c", kind="camera", values={"stands": (x, 180.0)})
        found.append(frame_picture(frame_job(engine, shot_of(camera, plate), 0), 0.5).copy())
    assert np.array_equal(found[0], found[2])
    assert not np.array_equal(found[0], found[1])
