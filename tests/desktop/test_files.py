"""Opening, saving, recovering and rendering from the window."""

from __future__ import annotations

import errno

from driving import LEFT
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from nimble_quake.desktop import app as desktop_app
from nimble_quake.session import recovery
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile import files
from nimble_quake.shotfile.files import read_shot


class TestFiles:
    def test_save_open_and_recent(self, window, tmp_path, monkeypatch):
        path = tmp_path / "mine.nquake"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
        window.session.set("plates/title/size", 99.0)
        assert window.session.dirty
        assert window.save()
        assert read_shot(path) == window.session.shot
        assert window.preferences.recent[0] == str(path)
        window.session.set("plates/title/size", 100.0)
        assert window.save()
        window.session.take(Shot())
        assert window.open_path(path)
        assert window.session.shown("plates/title/size") == 100

    def test_what_cannot_be_opened_leaves_the_shot(self, window, tmp_path):
        (tmp_path / "bad.nquake").write_text("{")
        before = window.session.shot
        assert not window.open_path(tmp_path / "bad.nquake")
        assert window.session.shot is before
        assert "bad.nquake" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_full_disk_while_saving(self, window, tmp_path, monkeypatch):
        window.session.path = tmp_path / "x.nquake"

        def full(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        monkeypatch.setattr(files.os, "fsync", full)
        assert not window.save()
        monkeypatch.undo()
        assert "No space left" in window.status.hint.text()
        for box in window.findChildren(QMessageBox):
            box.close()

    def test_autosave_and_recovery(self, window, monkeypatch):
        window.session.set("plates/title/size", 77.0)
        window.autosave()
        monkeypatch.setattr(recovery, "_running", lambda file: False)
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Yes)
        window.session.take(Shot())
        desktop_app.offer_recovery(window)
        assert window.session.shown("plates/title/size") == 77
        assert window.session.dirty
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)

    def test_closing_asks(self, window, monkeypatch):
        window.session.set("plates/title/size", 77.0)
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Cancel)
        assert not window.close()
        monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)


class TestRender:
    def test_render_and_cancel(self, window, qtbot, tmp_path):
        dialog = window.show_render()
        dialog.where.setText(str(tmp_path / "o.mp4"))
        dialog.size_box.setCurrentIndex(2)
        dialog.first.setValue(10)
        dialog.last.setValue(13)
        assert "4 frames, about" in dialog.said.text()
        QTest.mouseClick(dialog.go, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert dialog.said.text().startswith("Done: o.mp4")
        assert (tmp_path / "o.mp4").exists()
        dialog.last.setValue(140)
        dialog.where.setText(str(tmp_path / "p.mp4"))
        QTest.mouseClick(dialog.go, LEFT)
        QTest.mouseClick(dialog.cancel, LEFT)
        qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
        assert [p.name for p in tmp_path.glob("*.mp4")] == ["o.mp4"]
        dialog.format.setCurrentIndex(dialog.format.findData("png16"))
        assert dialog.where.text().endswith("p_####.png")
        dialog.where.setText("/none/x.mp4")
        QTest.mouseClick(dialog.go, LEFT)
        assert "not there" in dialog.said.text()
        dialog.close()
