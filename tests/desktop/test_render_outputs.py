"""Several outputs in one go, settings by name, and those of the last time, in the render dialog."""

from __future__ import annotations

import av
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QInputDialog

from driving import click, press
from nimble_quake.cli.main import main
from nimble_quake.export.outputs import Output, file_beside
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.storage import render_settings
from nimble_quake.session.storage.preferences import folder
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shotfile.files import write_shot


@pytest.fixture
def dialog(window, tmp_path, monkeypatch, qtbot):
    """The dialog, asked for four frames at a third of the size; nothing renders by itself."""
    monkeypatch.setattr(Queue, "start", lambda self: None)
    window.queue.root = tmp_path / "queue"
    return shown(window, tmp_path, qtbot)


def shown(window, tmp_path, qtbot):
    dialog = window.dialogs.show_render()
    fields = dialog.fields
    fields.where.setText(str(tmp_path / "cut.mp4"))
    fields.size_box.setCurrentIndex(2)
    fields.first.setValue(4)
    fields.last.setValue(7)
    dialog.activateWindow()
    qtbot.waitUntil(dialog.isActiveWindow)
    return dialog


def choose(fields, key: str) -> None:
    fields.format.setCurrentIndex(fields.format.findData(key))


def three(dialog) -> None:
    """A clip, an intermediate and pictures."""
    choose(dialog.fields, "prores-4444")
    click(dialog.outputs.more)
    choose(dialog.fields, "png")
    click(dialog.outputs.more)
    choose(dialog.fields, "mp4")


def test_a_clip_pictures_and_an_intermediate_in_one_go(dialog, tmp_path, qtbot):
    three(dialog)
    assert dialog.go.text() == "Render 3"
    assert "2 files more" in dialog.said.text()
    click(dialog.go)
    qtbot.waitUntil(lambda: dialog.said.text().startswith("Done"), timeout=60_000)
    assert dialog.said.text().startswith("Done: cut.mp4, cut.mov, 4 pictures.")
    made = sorted(path.name for path in tmp_path.iterdir() if path.is_file())
    assert made == ["cut.mov", "cut.mp4", *(f"cut_000{n}.png" for n in (4, 5, 6, 7))]
    with av.open(str(tmp_path / "cut.mov")) as clip:
        assert sum(1 for _ in clip.decode(video=0)) == 4


def test_all_go_into_the_queue(dialog, window):
    three(dialog)
    click(dialog.later)
    assert sorted(entry.order.file.name for entry in window.queue.entries()) == ["cut.mov", "cut.mp4", "cut_####.png"]


def test_kept_by_name_taken_again_and_forgotten(dialog, window, tmp_path, monkeypatch, qtbot):
    three(dialog)
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("Delivery", True))
    click(dialog.outputs.keep)
    wanted = dialog.outputs.all()
    press(Qt.Key.Key_Escape)
    again = shown(window, tmp_path, qtbot)
    assert again.outputs.others == []
    names = again.outputs.names
    names.setCurrentIndex(names.findText("Delivery"))
    names.activated.emit(names.currentIndex())  # as a choice by mouse or keys does
    assert again.outputs.all() == wanted
    assert again.fields.chosen_format().key == "mp4"
    click(again.outputs.forget)
    assert "Delivery" not in render_settings.settings()
    assert names.findText("Delivery") < 0


def test_the_last_ones_are_offered(dialog, window, tmp_path, qtbot):
    three(dialog)
    click(dialog.later)
    again = shown(window, tmp_path, qtbot)
    assert again.outputs.names.itemText(1) == "Last time"
    assert [output.format for output in render_settings.settings()[render_settings.LAST]] == [
        "prores-4444",
        "png",
        "mp4",
    ]


def test_one_of_the_list_is_edited_below_and_taken_out_by_keys(dialog):
    three(dialog)
    chosen = dialog.outputs.list
    chosen.setCurrentRow(1)
    chosen.setFocus()
    press(Qt.Key.Key_Return)
    assert dialog.fields.chosen_format().key == "png"
    assert [output.format for output in dialog.outputs.others] == ["prores-4444", "mp4"]
    chosen.setCurrentRow(0)
    press(Qt.Key.Key_Delete)
    assert [output.format for output in dialog.outputs.others] == ["mp4"]


def test_what_one_of_them_cannot_be_stops_all_before_anything_is_written(dialog, tmp_path):
    three(dialog)
    (tmp_path / "cut.mov").mkdir()
    click(dialog.go)
    assert "folder of this name" in dialog.said.text()
    assert not list(tmp_path.glob("cut*.mp4"))


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        '{"a": 5}',
        '{"a": [{"format": "of nobody"}]}',
        '{"a": [{"format": "mp4", "scale": -1}]}',
        '{"a": [{"format": "mp4", "every": 0}]}',
        "[" * 5000,
    ],
)
def test_damaged_settings_are_none(text):
    file = folder("config") / "render-settings.json"
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(text)
    assert render_settings.settings() == {}
    file.unlink()


def test_names_are_told_apart(tmp_path):
    taken = {tmp_path / "a.mkv", tmp_path / "a-ffv1.mkv"}
    assert file_beside(tmp_path / "a.mp4", Output("ffv1"), taken).name == "a-ffv1-2.mkv"
    assert file_beside(tmp_path / "a_####.exr", Output("png"), taken).name == "a_####.png"


def test_the_shell_renders_all_of_a_name(tmp_path, capsys):
    shot = Shot(width=32, height=32, length=3, plates=(Plate(id="f", kind="fill"),))
    write_shot(shot, tmp_path / "a.nquake")
    assert main(["render", str(tmp_path / "a.nquake"), "-o", str(tmp_path / "a"), "--settings", "Nothing"]) == 2
    assert "keep some" in capsys.readouterr().err
    render_settings.keep("Delivery", (Output("prores"), Output("png", every=2), Output("ffv1-10"), Output("ffv1")))
    assert main(["render", str(tmp_path / "a.nquake"), "-o", str(tmp_path / "a"), "--settings", "Delivery"]) == 0
    made = sorted(path.name for path in tmp_path.iterdir() if path.is_file())
    assert made == ["a-ffv1-10.mkv", "a.mkv", "a.mov", "a.nquake", "a_0000.png", "a_0002.png"]
    assert main(["render", str(tmp_path / "a.nquake"), "-o", str(tmp_path / "b"), "--settings", "Delivry"]) == 2
    assert "Delivery" in capsys.readouterr().err
    render_settings.keep("Delivery", ())
