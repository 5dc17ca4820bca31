"""The shot collected from the menu: asked for a place, copied aside, said."""

from __future__ import annotations

import zipfile

from PyQt6.QtWidgets import QFileDialog

from nimble_quake.samples import sample_path
from nimble_quake.session.actions import ACTIONS
from nimble_quake.shotfile.files import read_shot

COLLECT = next(action for action in ACTIONS if action.id == "collect")


def test_it_is_copied_aside_and_said(opened, qtbot, tmp_path, monkeypatch):
    window = opened(sample_path("lantern-row"))
    before = window.session.shot
    answers = [(str(tmp_path / "handed"), "A folder (*)"), (str(tmp_path / "row"), "A zip (*.zip)"), ("", "")]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: answers.pop(0))
    COLLECT.run(window)
    qtbot.waitUntil(lambda: (tmp_path / "handed").is_dir())
    collecting = window.files.collecting
    qtbot.waitUntil(lambda: "Collected in" in window.status.hint.text())
    qtbot.waitUntil(lambda: not collecting.busy)
    (file,) = (tmp_path / "handed").glob("*.nquake")
    assert [plate.id for plate in read_shot(file).plates] == [plate.id for plate in before.plates]
    COLLECT.run(window)
    qtbot.waitUntil((tmp_path / "row.zip").is_file)
    assert zipfile.is_zipfile(tmp_path / "row.zip")
    qtbot.waitUntil(lambda: not collecting.busy)
    COLLECT.run(window)
    assert not collecting.busy
    assert window.session.shot is before
