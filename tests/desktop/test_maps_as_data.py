"""An ST map leaves by the render dialog and comes back by a coupling that looks up, in the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QPushButton

from driving import QTest, arrived, click, press
from nimble_quake.export.data import data_of
from nimble_quake.export.formats import format_named
from nimble_quake.export.order import Order
from nimble_quake.export.stored import stored
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


def test_the_dialog_follows_what_is_rendered(window, qtbot, tmp_path):
    """Data picks a format that holds it and a file of its own; what was set is there when the dialog opens again."""
    dialog = window.dialogs.show_render()
    fields = dialog.fields
    assert fields.where.text().endswith(".mp4")
    fields.what.setCurrentIndex(fields.what.findData("st"))
    fields.of.setCurrentIndex(fields.of.findData("lanterns"))
    assert fields.format.currentData() == "exr-float"
    assert Path(fields.where.text()).name.endswith("-st-map-market-street_####.exr")
    fields.what.setCurrentIndex(fields.what.findData("mask"))
    assert fields.format.currentData() == "png16"
    fields.what.setCurrentIndex(fields.what.findData("picture"))
    assert fields.format.currentData() == "mp4"
    fields.what.setCurrentIndex(fields.what.findData("st"))
    fields.size_box.setCurrentIndex(1)
    fields.first.setValue(3)
    fields.where.setText("")
    fields.where.setFocus()
    QTest.keyClicks(fields.where, str(tmp_path / "mine_##.exr"))
    dialog.close()
    again = window.dialogs.show_render().fields
    assert (again.what.currentData(), again.size_box.currentIndex(), again.first.value()) == ("st", 1, 3)
    assert again.where.text() == str(tmp_path / "mine_##.exr")


def test_the_queue_says_what_of_the_shot_is_rendered(window, tmp_path):
    order = Order(window.session.shot, tmp_path / "a_##.exr", 0, 1, 1.0, "st:lanterns", format_named("exr-float"))
    kept = stored(order, (), None)
    assert kept.words == "ST map of Market street"


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
