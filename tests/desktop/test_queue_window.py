"""The render queue in the window: orders are given, moved, paused and removed with mouse and keys."""

from __future__ import annotations

import threading

import pytest
from PyQt6.QtCore import QPoint, Qt

from driving import click, press, type_text
from nimble_quake.desktop.dialogs.queue_dialog import QueueDialog, second_words, state_words
from nimble_quake.desktop.lines.queue_note import QueueNote, note
from nimble_quake.export.order import prepared_frame
from nimble_quake.farm.where import Where
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.queue.running import run_queue
from nimble_quake.session.queue.stored import Status, put, take

ALT = Qt.KeyboardModifier.AltModifier


@pytest.fixture
def bench(window, tmp_path, monkeypatch):
    """The window with a queue of its own, which nothing renders by itself."""
    monkeypatch.setattr(Queue, "start", lambda self: None)
    window.queue.root = tmp_path / "queue"
    return window


def give(window, path, frames=(10, 13)):
    """Order frames at a third of the size through the render dialog."""
    dialog = window.dialogs.show_render()
    dialog.fields.where.setText(str(path))
    dialog.fields.size_box.setCurrentIndex(2)
    dialog.fields.first.setValue(frames[0])
    dialog.fields.last.setValue(frames[1])
    click(dialog.later)
    return dialog


@pytest.fixture
def queue_dialog(bench, tmp_path, qtbot):
    """The queue with three orders, opened by its shortcut."""
    for name in "abc":
        give(bench, tmp_path / f"{name}.mp4")
    bench.activateWindow()
    bench.setFocus()
    press(Qt.Key.Key_R, Qt.KeyboardModifier.ControlModifier | ALT)
    dialog = next(found for found in bench.findChildren(QueueDialog) if found.isVisible())
    qtbot.waitUntil(dialog.list.hasFocus)
    return dialog


def names(dialog):
    return [entry.order.file.name for entry in dialog.queue.entries()]


def test_an_order_is_given_and_kept_as_it_was(bench, tmp_path):
    dialog = give(bench, tmp_path / "a.mp4")
    assert not dialog.isVisible()
    order = bench.queue.entries()[0].order.order()
    assert (order.first, order.last, order.path, order.shot) == (10, 13, tmp_path / "a.mp4", bench.session.shot)
    assert order.scale == pytest.approx(1 / 3)
    bench.session.set("plates/title/size", 44.0)
    assert bench.queue.entries()[0].order.order().shot.plate("title").values["size"] != 44.0


def test_what_cannot_be_ordered_is_said_and_the_dialog_stays(bench, tmp_path):
    give(bench, tmp_path / "a.mp4")
    for path, words in ((tmp_path / "a.mp4", "waits already"), (tmp_path / "none" / "b.mp4", "not there")):
        dialog = give(bench, path)
        assert dialog.isVisible()
        assert words in dialog.said.text()
        dialog.close()
    assert len(bench.queue.entries()) == 1


def test_keys_choose_move_and_remove(queue_dialog):
    assert names(queue_dialog) == ["a.mp4", "b.mp4", "c.mp4"]
    press(Qt.Key.Key_Down)
    press(Qt.Key.Key_Down)
    assert queue_dialog.chosen().order.file.name == "c.mp4"
    press(Qt.Key.Key_Up, ALT)
    assert names(queue_dialog) == ["a.mp4", "c.mp4", "b.mp4"]
    assert queue_dialog.chosen().order.file.name == "c.mp4"
    press(Qt.Key.Key_Down, ALT)
    assert names(queue_dialog) == ["a.mp4", "b.mp4", "c.mp4"]
    press(Qt.Key.Key_Delete)
    assert names(queue_dialog) == ["a.mp4", "b.mp4"]


def test_pause_and_go_on(queue_dialog):
    click(queue_dialog.pause)
    assert queue_dialog.queue.entries()[0].state == "paused"
    assert queue_dialog.pause.text() == "Go on"
    click(queue_dialog.pause)
    assert queue_dialog.queue.entries()[0].state == "waiting"
    click(queue_dialog.wait, QPoint(8, queue_dialog.wait.height() // 2))
    assert queue_dialog.queue.paused
    assert queue_dialog.queue.next() is None


def test_rendered_in_the_background_and_told(queue_dialog, bench, tmp_path, qtbot, monkeypatch):
    """The note in the status line says how far; the end of each order is told; the list shows it."""
    told: list[str] = []
    bench.session.message.connect(told.append)
    line = bench.findChild(QueueNote)
    line.look()
    assert line.isVisible()
    assert line.text() == "Queue: 3 wait"
    seen: list[str] = []

    def watched(*all):
        if bench.queue.entries()[0].state == "running":
            seen.append(note([entry for entry in bench.queue.entries() if not entry.finished], paused=False))
        return prepared_frame(*all)

    monkeypatch.setattr("nimble_quake.export.rendering.prepared_frame", watched)
    thread = threading.Thread(target=run_queue, args=(bench.queue,))
    thread.start()
    qtbot.waitUntil(lambda: not thread.is_alive(), timeout=60_000)
    line.look()
    assert sorted(told) == [f"{name}.mp4 is rendered" for name in "abc"]
    assert not line.isVisible()
    assert seen
    assert seen[0].startswith("a.mp4 0%")
    assert seen[0].endswith("2 wait")
    queue_dialog.look()
    assert [state_words(entry) for entry in queue_dialog.queue.entries()] == ["Done"] * 3
    assert all((tmp_path / f"{name}.mp4").is_file() for name in "abc")
    click(queue_dialog.clear)
    assert names(queue_dialog) == []
    assert queue_dialog.said.isVisible()
    assert all((tmp_path / f"{name}.mp4").is_file() for name in "abc")


def test_missing_frames_are_named_and_asked_for_again(queue_dialog):
    entry = queue_dialog.queue.entries()[0]
    failures = {11: "plates/c: too large - make it smaller"}
    put(entry.folder / "status.json", Status("incomplete", 3, failures=failures))
    queue_dialog.look()
    shown = queue_dialog.chosen()
    assert state_words(shown) == "Frames are missing"
    assert second_words(shown) == "frame 11: plates/c: too large - make it smaller"
    assert not queue_dialog.pause.isEnabled()
    click(queue_dialog.missing)
    assert queue_dialog.queue.next().id == entry.id
    assert queue_dialog.chosen().state == "waiting"


def test_orders_whose_process_was_killed_are_taken_up_again(bench, tmp_path, monkeypatch):
    """The window starts another after a while; not where the queue is at work."""
    started: list[bool] = []
    monkeypatch.setattr(Queue, "start", lambda self: started.append(True))
    monkeypatch.setattr("nimble_quake.desktop.lines.queue_note.STARTED_EVERY", 0.0)
    give(bench, tmp_path / "a.mp4")
    line = bench.findChild(QueueNote)
    started.clear()
    with bench.queue.lock():
        line.look()
    assert started == []
    line.look()
    assert started == [True]


def test_escape_leaves_no_timer_behind(queue_dialog, bench, qtbot):
    press(Qt.Key.Key_Escape)
    qtbot.waitUntil(lambda: bench.findChildren(QueueDialog) == [])
    shown = bench.dialogs.show_queue()
    assert bench.dialogs.show_queue() is shown


def test_a_drag_changes_the_order(queue_dialog):
    """As the list tells it after a drop."""
    model = queue_dialog.list.model()
    assert model.moveRow(queue_dialog.list.rootIndex(), 0, queue_dialog.list.rootIndex(), 3)
    assert names(queue_dialog) == ["b.mp4", "c.mp4", "a.mp4"]
    queue_dialog.look()
    assert model.moveRow(queue_dialog.list.rootIndex(), 2, queue_dialog.list.rootIndex(), 1)
    assert names(queue_dialog) == ["b.mp4", "a.mp4", "c.mp4"]


def test_machines_are_chosen_and_kept_with_the_order(bench, tmp_path, qtbot):
    dialog = bench.dialogs.show_render()
    machines = dialog.fields.machines
    dialog.fields.where.setText(str(tmp_path / "a.mp4"))
    assert not machines.workers.isVisible()
    dialog.activateWindow()
    machines.by.setFocus()
    qtbot.waitUntil(machines.by.hasFocus)
    press(Qt.Key.Key_Down)
    press(Qt.Key.Key_Down)
    assert machines.address.isVisible()
    click(dialog.later)
    assert dialog.isVisible()
    assert "address" in dialog.said.text()
    dialog.activateWindow()
    click(machines.address)
    qtbot.waitUntil(machines.address.hasFocus)
    type_text("tls://room:8786")
    machines.keys = tmp_path
    click(dialog.later)
    assert not dialog.isVisible()
    entry = bench.queue.entries()[0]
    assert take(entry.folder / "machines.json", Where) == Where("tls://room:8786", 0, tmp_path, False)


def test_workers_render_what_the_dialog_asks_for(bench, tmp_path, qtbot):
    """One worker process, a few small frames: the same picture as rendered here."""
    dialog = bench.dialogs.show_render()
    machines = dialog.fields.machines
    dialog.fields.where.setText(str(tmp_path / "a_##.png"))
    for box, wanted in ((dialog.fields.format, "png"), (dialog.fields.size_box, 1 / 3), (machines.by, "workers")):
        box.setCurrentIndex(box.findData(wanted))
    dialog.fields.where.setText(str(tmp_path / "a_##.png"))
    machines.workers.setValue(1)
    dialog.fields.first.setValue(10)
    dialog.fields.last.setValue(11)
    click(dialog.go)
    qtbot.waitUntil(lambda: not dialog.running(), timeout=120_000)
    assert "Done" in dialog.said.text(), dialog.said.text()
    assert sorted(path.name for path in tmp_path.glob("a_*.png")) == ["a_10.png", "a_11.png"]
    dialog.close()


def test_machines_that_cannot_be_reached_are_said(bench, tmp_path, qtbot):
    dialog = bench.dialogs.show_render()
    machines = dialog.fields.machines
    dialog.fields.where.setText(str(tmp_path / "a.mp4"))
    machines.by.setCurrentIndex(machines.by.findData("others"))
    dialog.activateWindow()
    click(machines.address)
    qtbot.waitUntil(machines.address.hasFocus)
    type_text("tcp://198.51.100.7:8786")
    click(dialog.go)
    qtbot.waitUntil(lambda: not dialog.running(), timeout=60_000)
    assert "plain" in dialog.said.text() or "keys" in dialog.said.text(), dialog.said.text()
    assert list(tmp_path.glob("*.mp4")) == []
    dialog.close()
