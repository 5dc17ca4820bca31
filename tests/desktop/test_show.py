"""The picture alone, and missing files found together."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog

from driving import QTest, arrived
from helpers import speckled, write_png
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import missing
from nimble_quake.shot.model import Map, Node, Plate, Shot


def run(window, id: str) -> None:
    next(action for action in ACTIONS if action.id == id).run(window)


def test_it_shows_the_frame_steps_plays_and_leaves_all_as_it_was(window, qtbot):
    session, show = window.session, window.show_alone
    before, view = session.shot, window.frames.picture_view
    run(window, "show")
    qtbot.waitUntil(lambda: show.viewer.image is not None, timeout=20_000)
    assert window.frames.viewer_scale == max(0.05, show.scale())
    session.set_frame(10)
    QTest.keyClick(show, Qt.Key.Key_Right)
    assert session.frame == 11
    QTest.keyClick(show, Qt.Key.Key_U)
    arrived(window, qtbot)
    assert window.frames.picture_view == "untouched"
    QTest.keyClick(show, Qt.Key.Key_Space)
    assert window.frames.playing
    QTest.keyClick(show, Qt.Key.Key_Space)
    QTest.keyClick(show, Qt.Key.Key_Escape)
    assert not show.isVisible()
    assert window.frames.viewer_scale == max(0.05, window.picture_bay.viewer.zoom() * window.devicePixelRatioF())
    assert window.frames.picture_view == view
    assert session.shot is before


def test_missing_files_are_found_by_one_folder(tmp_path):
    """A still, a map's file and numbered pictures: one step; of two of one name the one in the like folder."""
    for place in ("new/a/sign.png", "new/b/sign.png", "new/deep/grain.png", "new/run/s_01.png", "new/run/s_02.png"):
        (tmp_path / place).parent.mkdir(parents=True, exist_ok=True)
        write_png(tmp_path / place, speckled(16, 9))
    still = Plate(id="s", kind="still", values={"file": "/gone/b/sign.png"})
    run_ = Plate(id="r", kind="clip", values={"file": "/gone/run/s_##.png"})
    lost = Plate(id="x", kind="still", values={"file": "/gone/nowhere.png"})
    grain = Map(id="m", name="M", recipe=(Node(id="p", kind="picture", values={"file": "/gone/grain.png"}),))
    session = Session()
    session.take(Shot(plates=(still, run_, lost), maps=(grain,)))
    assert set(missing.missing_files(session)) == {
        "/gone/b/sign.png",
        "/gone/run/s_##.png",
        "/gone/nowhere.png",
        "/gone/grain.png",
    }
    assert missing.find_in(session, tmp_path) == (3, 4)
    assert session.raw("plates/s/file") == str(tmp_path / "new/b/sign.png")
    assert session.raw("plates/r/file") == str(tmp_path / "new/run/s_##.png")
    assert session.raw("maps/m/steps/p/file") == str(tmp_path / "new/deep/grain.png")
    session.undo()
    assert session.raw("plates/s/file") == "/gone/b/sign.png"


def test_it_is_asked_in_the_window_and_said(window, tmp_path, monkeypatch):
    said: list[str] = []
    window.session.message.connect(said.append)
    run(window, "find-missing")
    assert said == ["No file is missing"]
    write_png(tmp_path / "sign.png", np.full((9, 16, 4), 200, np.uint8))
    still = Plate(id="s", kind="still", values={"file": "/gone/sign.png"})
    window.session.take(Shot(plates=(still,)))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a: str(tmp_path))
    run(window, "find-missing")
    assert said[-1] == "1 of 1 missing files found"
    assert window.session.raw("plates/s/file") == str(tmp_path / "sign.png")
