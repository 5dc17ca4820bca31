"""The range that plays is prepared: on request with its progress, or while one does nothing, in the memory for it."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import Qt

from driving import arrived, press
from nimble_quake.desktop.viewers import frames, preparing
from nimble_quake.shot.edits.set_value import set_value

RANGE = range(10, 18)


@pytest.fixture
def ranged(window, qtbot):
    """The bench with a short range that plays, and the playhead in it."""
    window.session.edit("Range", msgspec.structs.replace(window.session.shot, loop=(RANGE.start, RANGE.stop)))
    window.session.set_frame(14)
    arrived(window, qtbot)
    window.picture_bay.viewer.setFocus()
    return window


def ready(window) -> list[int]:
    return sorted(frame for frame, now in window.frames.prepared().items() if now)


def test_on_request_all_of_the_range_and_nothing_else(ranged, qtbot):
    press(Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    assert ranged.status.work.isVisible()
    qtbot.waitUntil(lambda: ready(ranged) == list(RANGE), timeout=30_000)
    qtbot.waitUntil(lambda: not ranged.status.work.isVisible(), timeout=5000)
    assert ranged.session.frame == 14, "nobody moved the playhead"


def test_it_plays_at_once_and_stays_ready_afterwards(ranged, qtbot):
    press(Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: ready(ranged) == list(RANGE), timeout=30_000)
    before = ranged.frames.scheduler.finished
    shown: list[int] = []
    ranged.frames.arrived.connect(lambda response: shown.append(response.request.frame))
    press(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: len(set(shown)) >= 4, timeout=10_000)
    assert ranged.frames.scheduler.finished == before, "nothing was computed"
    press(Qt.Key.Key_Space)
    assert not ranged.frames.playing
    assert ready(ranged) == list(RANGE)


def test_what_does_not_fit_is_said_and_the_nearest_come_first(ranged, qtbot):
    size = ranged.preparing.frame_size()
    ranged.frames.scheduler.budget = int(size * 3.5)
    said: list[str] = []
    ranged.session.message.connect(said.append)
    press(Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    assert any(text.startswith("3 of 8 frames fit into") for text in said)
    qtbot.waitUntil(lambda: ready(ranged) == [14, 15, 16], timeout=30_000)
    qtbot.waitUntil(lambda: not ranged.status.work.isVisible(), timeout=5000)


def test_while_one_does_nothing_and_only_where_it_is_wanted(ranged, qtbot, monkeypatch):
    monkeypatch.setattr(preparing, "IDLE", 20)
    ranged.preparing.preferences.prepares = False
    arrived(ranged, qtbot)
    qtbot.wait(300)
    assert len(ready(ranged)) <= 1
    ranged.preparing.preferences.prepares = True
    arrived(ranged, qtbot)
    qtbot.waitUntil(lambda: ready(ranged) == list(RANGE), timeout=30_000)
    assert not ranged.status.work.isVisible(), "nobody asked for it"


def test_it_is_given_up_where_one_goes_on_working(ranged, qtbot):
    press(Qt.Key.Key_Space, Qt.KeyboardModifier.ShiftModifier)
    ranged.session.set_frame(12)
    arrived(ranged, qtbot)
    qtbot.waitUntil(lambda: not ranged.status.work.isVisible(), timeout=5000)
    assert ranged.frames.last.request.frame == 12


class TestCoarseFirst:
    """While something is dragged that takes long, half the scale is shown first, then the frame itself."""

    def seen(self, window, qtbot, strength: float) -> list[Any]:
        found: list[Any] = []
        window.frames.arrived.connect(found.append)
        window.session.change(set_value(window.session.shot, "plates/title/effects/push/strength", strength))
        qtbot.waitUntil(lambda: bool(found) and not found[-1].request.coarse, timeout=20_000)
        window.frames.arrived.disconnect(found.append)
        return found

    def test_half_the_scale_and_then_the_frame_itself(self, window, qtbot, monkeypatch):
        monkeypatch.setattr(frames, "COARSE_FROM", -1.0)
        arrived(window, qtbot)
        window.session.begin("Drag")
        coarse, *_, fine = self.seen(window, qtbot, 0.5)
        window.session.commit()
        wanted = window.frames.request(window.session.frame, probe=True)
        assert coarse.request.coarse
        assert coarse.request.scale == pytest.approx(wanted.scale / 2)
        assert fine.request == wanted
        assert abs(fine.picture.shape[0] - 2 * coarse.picture.shape[0]) <= 1
        tall, wide = (n // 2 for n in coarse.picture.shape[:2])
        smaller = fine.picture[: 4 * tall, : 4 * wide].astype(float)
        smaller = smaller.reshape(2 * tall, 2, 2 * wide, 2, 4).mean(axis=(1, 3))
        assert np.abs(smaller - coarse.picture[: 2 * tall, : 2 * wide]).mean() < 3, (
            "half size is the frame made smaller"
        )

    def test_not_where_nothing_is_dragged_nor_where_it_is_quick(self, window, qtbot, monkeypatch):
        monkeypatch.setattr(frames, "COARSE_FROM", -1.0)
        arrived(window, qtbot)
        assert not any(response.request.coarse for response in self.seen(window, qtbot, 0.4))
        monkeypatch.setattr(frames, "COARSE_FROM", 1e9)
        window.session.begin("Drag")
        assert not any(response.request.coarse for response in self.seen(window, qtbot, 0.6))
        window.session.commit()
