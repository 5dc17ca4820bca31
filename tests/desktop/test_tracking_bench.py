"""Tracking in the window: asked for by key, done aside, points picked in the picture, a plate pinned to them."""

from __future__ import annotations

import time
from fractions import Fraction

import cv2
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from driving import LEFT, QTest, arrived, press
from helpers import write_clip
from nimble_quake.desktop.dialogs.tracking_dialog import TrackingDialog
from nimble_quake.session.verbs import items, tracking
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import read_shot

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
W, H = 320, 180


@pytest.fixture
def street(window, tmp_path):
    """The window with a clip of a texture that slides 2 px a frame to the left."""
    rough = np.random.Generator(np.random.PCG64(5)).random((H, W + 80)).astype(np.float32)
    soft = cv2.normalize(cv2.GaussianBlur(rough, (0, 0), 2.5), None, 0, 255, cv2.NORM_MINMAX).astype(np.uint8)
    pictures = [cv2.cvtColor(soft[:, 2 * n : 2 * n + W], cv2.COLOR_GRAY2RGBA) for n in range(20)]
    clip = write_clip(tmp_path / "street.mkv", pictures, Fraction(24), "ffv1", "bgra")
    plate = Plate(id="street", name="Street", kind="clip", values={"file": str(clip)})
    window.session.take(Shot(width=W, height=H, rate=Fraction(24), length=20, plates=(plate,)))
    window.session.select(plate="plates/street")
    return window


def until_stopped(file, settings, work, store) -> None:
    while not work.stopped:
        time.sleep(0.01)


def tracked(window, qtbot) -> None:
    """Track the selected clip: the dialog by its keys, the work waited for."""

    def answer() -> None:
        dialog, focus = QApplication.activeModalWidget(), QApplication.focusWidget()
        if not isinstance(dialog, TrackingDialog) or focus is None or not dialog.isAncestorOf(focus):
            QTimer.singleShot(20, answer)  # a busy machine takes its time to show it, and to give it the keys
            return
        dialog.count.setFocus()
        press(Qt.Key.Key_Return)

    QTimer.singleShot(50, answer)
    press(Qt.Key.Key_T, CTRL | ALT)
    qtbot.waitUntil(lambda: window.tracking.tracks() is not None, timeout=20_000)
    qtbot.waitUntil(lambda: not window.status.work.isVisible(), timeout=5000)
    window.hide()  # the offscreen platform gives no window back its focus when a dialog closes
    window.show()
    window.activateWindow()
    window.picture_bay.viewer.setFocus()
    qtbot.waitUntil(lambda: QApplication.focusWidget() is not None)


class TestTracking:
    def test_a_plate_is_pinned_to_a_point_that_was_clicked(self, street, qtbot, tmp_path):
        window, session = street, street.session
        tracked(window, qtbot)
        points = window.tracking.points_now()
        assert len(points.ids) > 50
        viewer = window.picture_bay.viewer
        nearest = int(np.argmin(np.hypot(*(points.places - (W / 2, H / 2)).T)))
        at = viewer.to_widget(*points.places[nearest])
        QTest.mouseClick(viewer, LEFT, pos=QPoint(round(at.x()), round(at.y())))
        assert window.tracking.picked["plates/street"] == {int(points.ids[nearest])}
        mark = items.new_plate(session, "shape", width=30.0, height=30.0)
        press(Qt.Key.Key_P, CTRL | ALT)
        assert session.shown(f"{mark}/pin") == "street"
        grip = next(grip for grip in window.picture_bay.handles.grips() if grip.sort == "scale").at
        session.set_frame(10)
        then = next(grip for grip in window.picture_bay.handles.grips() if grip.sort == "scale").at
        assert then.x() - grip.x() == pytest.approx(-20, abs=0.5)
        session.save(tmp_path / "pinned.nquake")
        assert read_shot(tmp_path / "pinned.nquake") == session.to_keep()
        assert list((tmp_path / "pinned.tracks").glob("*.npz"))

    def test_points_are_picked_by_a_box_and_thrown_out(self, street, qtbot):
        window = street
        tracked(window, qtbot)
        viewer = window.picture_bay.viewer
        before = len(window.tracking.points_now().ids)
        first, last = (viewer.to_widget(*place) for place in ((20, 20), (140, 120)))
        QTest.mousePress(viewer, LEFT, pos=first.toPoint())
        QTest.mouseMove(viewer, last.toPoint())
        QTest.mouseRelease(viewer, LEFT, pos=last.toPoint())
        picked = len(window.tracking.picked["plates/street"])
        assert 5 < picked < before
        window.tracking.throw_out()
        assert len(window.tracking.points_now().ids) == before - picked
        window.tracking.take_back()
        assert len(window.tracking.points_now().ids) == before

    def test_it_is_stopped_and_says_why_it_cannot(self, street, qtbot, monkeypatch):
        window = street
        said: list[str] = []
        window.session.message.connect(said.append)
        items.new_plate(window.session, "fill")
        press(Qt.Key.Key_T, CTRL | ALT)
        assert "Choose a plate with a clip" in said[-1]
        window.session.select(plate="plates/street")
        monkeypatch.setattr(tracking, "track_file", until_stopped)
        window.tracking.begin(TrackingDialog("x", 0).settings())
        assert window.status.work.isVisible()
        store, file = window.session.engine.tracks, tracking.clip_file(window.session, "plates/street")
        assert store.is_under_way(file)
        QTest.mouseClick(window.status.work.halt, LEFT)
        assert not window.status.work.isVisible()
        qtbot.waitUntil(lambda: not store.is_under_way(file), timeout=5000)
        arrived(window, qtbot)
        assert window.tracking.tracks() is None
