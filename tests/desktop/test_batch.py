"""The table in the window: pasted, checked, marked, queued."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton

from driving import QTest, press
from nimble_quake.desktop.dialogs.batch_dialog import BatchDialog
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.queue.queue import Queue


@pytest.fixture
def dialog(window, qtbot, tmp_path):
    window.files.open_sample("shockwave")
    queue = Queue(tmp_path / "queue")
    queue.start = lambda: None  # type: ignore[method-assign]
    made = BatchDialog(window.session, window.frames, queue, window)
    made.out.setText(str(tmp_path / "{name}-{size}.mp4"))
    qtbot.addWidget(made)
    made.show()
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    return made


def column(dialog: BatchDialog, name: str) -> int:
    return dialog.columns.index(name)


def test_rows_are_pasted_from_a_spreadsheet(dialog, qtbot):
    board = QApplication.clipboard()
    assert board is not None
    board.setText("noodles\t\tNOODLES\ntea\t\tTEA\n")
    dialog.table.setCurrentCell(0, 0)
    dialog.table.setFocus()
    press(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [dict(row.values)["name"] for row in dialog.rows()] == ["noodles", "tea"]
    assert dialog.words.text().startswith("2 clips")
    qtbot.waitUntil(lambda: not dialog.table.item(1, 0).icon().isNull(), timeout=20_000)


def test_what_is_wrong_and_what_is_too_long_is_marked_before_it_is_rendered(dialog):
    words, reach = column(dialog, "words"), column(dialog, "reach")
    rows = [[""] * len(dialog.columns) for _ in range(3)]
    rows[0][words], rows[1][words], rows[2][reach] = "OK", "MUCH TOO LONG FOR A FRAME", "wide"
    dialog.fill(rows)
    tips = [dialog.table.item(row, 0).toolTip() for row in range(3)]
    assert tips[0] == ""
    assert "beyond the frame" in tips[1]
    assert "expected a number" in tips[2]
    assert "1 cannot be made" in dialog.words.text()


def test_of_several_sizes_any_that_is_too_small_is_marked(dialog):
    """The narrow size comes before a wide one in which all fits."""
    words, size = column(dialog, "words"), column(dialog, "size")
    row = [""] * len(dialog.columns)
    row[words], row[size] = "BOOM", "200x720 1280x720"
    dialog.fill([row])
    assert "beyond the frame at 200 x 720" in dialog.table.item(0, 0).toolTip()
    assert dialog.words.text() == "2 clips, 1 with words beyond the frame: see the marked rows"


def test_they_wait_in_the_queue(dialog, tmp_path):
    name, words, size = (column(dialog, each) for each in ("name", "words", "size"))
    row = [""] * len(dialog.columns)
    row[name], row[words], row[size] = "a", "A", "320x180 180x320"
    dialog.fill([row])
    dialog.render_all()
    entries = dialog.queue.entries()
    assert sorted(Path(entry.order.path).name for entry in entries) == ["a-180x320.mp4", "a-320x180.mp4"]


def test_a_table_is_opened_and_two_hundred_rows_come_at_once(dialog, tmp_path):
    table = tmp_path / "t.csv"
    table.write_text("name,words,else\n" + "".join(f"n{n},WORD {n},x\n" for n in range(200)))
    dialog.open_table(table)
    assert len(dialog.rows()) == 200
    assert "else" in dialog.words.text()
    table.write_text("name\n")
    dialog.open_table(table)
    assert "no rows" in dialog.words.text()


def test_columns_are_known_by_their_titles_too_and_measures_come_along(dialog, tmp_path):
    table = tmp_path / "rows.csv"
    (reach,) = [node for node in dialog.session.shot.front if node.id == "reach"]
    table.write_text(f"NAME,{reach.name.upper()},length,colour of nothing\na,55,2,x\n", "utf-8")
    dialog.open_table(table)
    assert dict(dialog.rows()[0].values) == {"name": "a", "reach": "55", "length": "2"}
    assert dialog.words.text() == "Left out, no slot and no dial: colour of nothing"
    assert {"size", "length", "rate", "sound"} < set(dialog.columns)


def test_without_a_front_it_says_what_to_do(window):
    said: list[str] = []
    window.session.message.connect(said.append)
    window.session.take(msgspec.structs.replace(window.session.shot, front=()))
    next(action for action in ACTIONS if action.id == "batch").run(window)
    QTest.qWait(10)
    assert "front" in said[-1]


@pytest.mark.parametrize("name", ["no/such/folder/x.csv", ".", "good.csv"])
def test_a_table_that_cannot_be_saved_is_one_line(dialog, tmp_path, monkeypatch, name):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / name), ""))
    before = dialog.words.text()
    save = next(button for button in dialog.findChildren(QPushButton) if button.text().startswith("Save the table"))
    QTest.mouseClick(save, Qt.MouseButton.LeftButton)
    if name == "good.csv":
        assert (tmp_path / name).read_text(encoding="utf-8").startswith("name,")
    else:
        assert dialog.words.text() != before
        assert name.strip(".") in dialog.words.text()
        assert len(dialog.words.text().splitlines()) == 1
