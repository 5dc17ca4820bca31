"""An ST map leaves by the render dialog and comes back by a coupling that looks up, in the real window."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QPushButton

from driving import arrived, click, press
from nimble_quake.export.data import data_of
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.session.verbs import effects, items
from nimble_quake.shotfile.files import read_shot


@pytest.fixture
def st_maps(window, qtbot, tmp_path):
    """Two frames of the title's ST map, ordered in the dialog."""
    dialog = window.dialogs.show_render()
    dialog.activateWindow()
    dialog.fields.what.setFocus()
    qtbot.waitUntil(dialog.fields.what.hasFocus)
    for _ in range(dialog.fields.what.findData("st")):
        press(Qt.Key.Key_Down)
    assert dialog.fields.what.currentData() == "st"
    dialog.fields.of.setFocus()
    press(Qt.Key.Key_Home)
    dialog.fields.format.setCurrentIndex(dialog.fields.format.findData("exr-half"))
    assert "exact to 0.31 px only" in dialog.said.text()
    dialog.fields.format.setCurrentIndex(dialog.fields.format.findData("exr-float"))
    assert "(i + 0.5) / width is the pixel itself" in dialog.said.text()
    dialog.fields.where.setText(str(tmp_path / "st_##.exr"))
    dialog.fields.first.setValue(40)
    dialog.fields.last.setValue(41)
    click(dialog.go)
    qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
    assert dialog.said.text().startswith("Done: 2 pictures")
    plate = dialog.fields.of.currentData()
    dialog.close()
    assert sorted(path.name for path in tmp_path.glob("*.exr")) == ["st_40.exr", "st_41.exr"]
    return plate, tmp_path


def test_there_and_back(window, qtbot, st_maps, monkeypatch):
    plate, folder = st_maps
    session = window.session
    wanted = data_of(frame_job(Engine(), session.shot, 40), 1.0, f"moves:{plate}")[..., :2]
    session.select(plate="plates/lanterns")
    effects.new_effect(session, "look_up")
    arrived(window, qtbot)
    path = session.selection.quake
    buttons = [b for b in window.coupling.findChildren(QPushButton, "file") if b.isVisible()]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(folder / "st_41.exr"), ""))
    click(buttons[0])
    assert session.raw(f"{path}/file") == str(folder / "st_##.exr")
    arrived(window, qtbot)
    for effect in session.shot.plate("lanterns").effects:
        if not path.endswith(f"/{effect.id}"):
            items.switch(session, f"plates/lanterns/effects/{effect.id}")
    target = folder / "mine.nquake"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    assert window.files.save()
    back = read_shot(target)
    assert back == session.to_keep()
    got = data_of(frame_job(Engine(), back, 0), 1.0, "moves:lanterns")[..., :2]
    assert np.abs(wanted).max() > 1
    assert np.abs(got - wanted).max() < 0.01
