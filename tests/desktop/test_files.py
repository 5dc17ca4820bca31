"""Opening, saving, recovering and rendering from the window."""

from __future__ import annotations

import errno
import os
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from driving import LEFT, QTest, press
from nimble_quake.desktop import app as desktop_app
from nimble_quake.session.storage import preferences, recovery
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import read_shot, write_shot


class TestFiles:
    def test_save_open_and_recent(self, window, tmp_path, monkeypatch):
        path = tmp_path / "mine.nquake"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
        window.session.set("plates/title/size", 99.0)
        assert window.session.dirty
        assert window.files.save()
        assert read_shot(path) == window.session.to_keep()
        assert window.preferences.recent[0] == str(path)
        window.session.set("plates/title/size", 100.0)
        assert window.files.save()
        window.session.take(Shot())
        assert window.files.open_path(path)
        assert window.session.shown("plates/title/size") == 100

    def test_what_cannot_be_opened_leaves_the_shot(self, window, tmp_path):
        (tmp_path / "bad.nquake").write_text("{")
        before = window.session.shot
        assert not window.files.open_path(tmp_path / "bad.nquake")
        assert window.session.shot is before
        assert "bad.nquake" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_full_disk_while_saving(self, window, tmp_path, monkeypatch):
        window.session.path = tmp_path / "x.nquake"

        def full(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(os, "fsync", full)
        assert not window.files.save()
        monkeypatch.undo()
        assert "No space left" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_autosave_and_recovery(self, window, monkeypatch):
        crashed = recovery.Autosave()
        window.session.set("plates/title/size", 77.0)
        crashed.write(window.session.to_keep(), None)
        crashed.abandon()
        window.session.take(Shot())
        window.picture_bay.viewer.setFocus()
        desktop_app.offer_recovery(window)
        assert window.lost.isVisible()
        assert "Lost work: Lantern Row opener, " in window.lost.words.text()
        assert window.focusWidget() is window.picture_bay.viewer, "it takes no keys"
        press(Qt.Key.Key_Space)
        press(Qt.Key.Key_Space)
        assert window.session.shot == Shot()
        window.lost.discard_button.click()
        assert len(recovery.lost_shots()) == 1, "it can be had back for a while"
        window.lost.back_button.click()
        window.lost.open_button.click()
        assert not window.lost.isVisible()
        assert window.session.shown("plates/title/size") == 77
        assert window.session.dirty
        assert recovery.lost_shots() == []  # it lies in this session's own file now
        assert len(list(preferences.folder("state").glob("unsaved-*.json"))) == 1
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)

    def test_a_missing_shot_is_opened_from_its_backup(self, window, tmp_path, monkeypatch):
        path = tmp_path / "a.nquake"
        write_shot(Shot(name="one"), path)
        write_shot(Shot(name="two"), path)
        path.unlink()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Open)
        assert window.files.open_path(path)
        assert window.session.shot.name == "one"
        assert window.session.dirty
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)

    def test_closing_asks(self, window, monkeypatch):
        window.session.set("plates/title/size", 77.0)
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
        assert not window.close()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)


class TestRender:
    def test_render_and_cancel(self, window, qtbot, tmp_path):
        dialog = window.dialogs.show_render()
        dialog.fields.where.setText(str(tmp_path / "o.mp4"))
        dialog.fields.size_box.setCurrentIndex(2)
        dialog.fields.first.setValue(10)
        dialog.fields.last.setValue(13)
        assert "4 frames, about" in dialog.said.text()
        QTest.mouseClick(dialog.go, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert dialog.said.text().startswith("Done: o.mp4")
        assert (tmp_path / "o.mp4").exists()
        dialog.fields.last.setValue(140)
        dialog.fields.where.setText(str(tmp_path / "p.mp4"))
        QTest.mouseClick(dialog.go, LEFT)
        QTest.mouseClick(dialog.cancel, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert [p.name for p in tmp_path.glob("*.mp4")] == ["o.mp4"]
        dialog.fields.format.setCurrentIndex(dialog.fields.format.findData("png16"))
        assert dialog.fields.where.text().endswith("p_####.png")
        dialog.fields.where.setText("/none/x.mp4")
        QTest.mouseClick(dialog.go, LEFT)
        assert "not there" in dialog.said.text()
        dialog.close()


class TestRecipeFiles:
    """Maps leave and come back as files and through the clipboard; nothing is half done when it goes wrong."""

    MAP = "maps/heat-columns"

    def test_saved_under_its_ending_and_opened_again(self, window, tmp_path, monkeypatch):
        target = tmp_path / "columns"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
        window.files.maps.save(self.MAP)
        file = tmp_path / "columns.nquake-recipe"
        assert file.exists()
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(file), ""))
        count = len(window.session.shot.maps)
        window.files.maps.ask_recipe()
        maps = window.session.shot.maps
        assert len(maps) == count + 1
        kinds = [step.kind for step in window.session.shot.map("heat-columns").recipe]
        new = next(map for map in maps if f"maps/{map.id}" == window.session.selection.map)
        assert [step.kind for step in new.recipe] == kinds
        window.session.undo()
        assert len(window.session.shot.maps) == count

    def test_a_dialog_that_is_left_writes_nothing(self, window, tmp_path, monkeypatch):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("", ""))
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: ("", ""))
        before = window.session.shot
        window.files.maps.save(self.MAP)
        window.files.maps.ask_recipe()
        window.files.save_copy()
        assert window.session.shot is before

    @pytest.mark.parametrize("text", ["", "{}", "not a recipe", '{"nquake-recipe": 1, "map": {"recipe": 7}}', "[1, 2"])
    def test_a_file_that_is_none_is_told_in_one_line(self, window, tmp_path, text):
        file = tmp_path / "bad.nquake-recipe"
        file.write_text(text, encoding="utf-8")
        before = window.session.shot
        window.files.maps.open_recipe(file)
        boxes = window.findChildren(QMessageBox)
        assert len(boxes) == 1
        assert boxes[0].text()
        assert "\n" not in boxes[0].text()
        assert window.session.shot is before
        boxes[0].close()

    def test_the_clipboard_carries_a_map_and_refuses_other_text(self, window, app):
        window.files.maps.copy(self.MAP)
        count = len(window.session.shot.maps)
        window.files.maps.paste()
        assert len(window.session.shot.maps) == count + 1
        app.clipboard().setText("half past nine")
        before = window.session.shot
        window.files.maps.paste()
        assert window.session.shot is before
        assert window.status.hint.text()

    def test_a_copy_leaves_the_shot_where_it_was(self, window, tmp_path, monkeypatch):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "copy"), ""))
        path = window.session.path
        window.files.save_copy()
        assert read_shot(tmp_path / "copy.nquake").name == window.session.shot.name
        assert window.session.path == path
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: ("/proc/none/copy", ""))
        window.files.save_copy()
        for box in window.findChildren(QMessageBox):
            assert "\n" not in box.text()
            box.close()


def test_a_shot_called_like_a_path_is_saved_beside_and_leaves_the_menus_their_room(window, monkeypatch):
    asked: list[str] = []

    def ask(parent, title, start, *more):
        asked.append(start)
        return "", ""

    monkeypatch.setattr(QFileDialog, "getSaveFileName", ask)
    window.session.edit("", set_shot(window.session.shot, name='"/lantern/row.mp4" ' * 12))
    window.session.path = None
    window.files.save_as()
    assert Path(asked[0]).parent == Path.home()
    assert window.dialogs.show_render().fields.order().path.parent == Path.home()
    bar = window.top.menu_bar
    assert bar.width() >= bar.sizeHint().width()
    assert window.top.name.width() < 260
