"""A table: a clip for each row, columns are slots and dials. Pasted from a spreadsheet, looked at, then queued."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import groupby
from pathlib import Path

from PyQt6.QtCore import QEvent, QSize, QTimer
from PyQt6.QtGui import QColor, QIcon, QImage, QKeyEvent, QKeySequence, QPixmap
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.viewer import image_of
from nimble_quake.desktop.widgets.parts import quiet
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.export.formats import format_of
from nimble_quake.export.order import Order
from nimble_quake.render.engine import Engine
from nimble_quake.render.shown.bench import frame_thumbnail
from nimble_quake.session.fronts.described import front_described
from nimble_quake.session.fronts.making import Measures
from nimble_quake.session.fronts.places import beyond_frame
from nimble_quake.session.fronts.tables import Row, RowOrder, jobs, own_columns, read_table
from nimble_quake.session.queue.queue import Queue
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Shot
from nimble_quake.shotfile.files import write_whole

THUMB = QSize(96, 54)
EMPTY_ROWS = 3


class BatchDialog(QDialog):
    """Rows of what fills the open shot's slots and turns its dials; each is checked while it is typed."""

    def __init__(self, session: Session, frames: Frames, queue: Queue, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"A table of {session.shot.name}")
        self.resize(900, 520)
        self.session, self.frames, self.queue = session, frames, queue
        self._shot, self._engine = session.shot, Engine()
        fronts, own = front_described(self._shot), own_columns(self._shot)
        self.columns = ["name", *(entry["name"] for entry in fronts), *(name for name in own if name != "name")]
        self._called = {node.name.casefold(): node.id for node in self._shot.front}
        self.table = QTableWidget(EMPTY_ROWS, len(self.columns))
        self.table.setHorizontalHeaderLabels(self.columns)
        self.table.setAccessibleName("Rows")
        self.table.setIconSize(THUMB)
        head = self.table.verticalHeader()
        if head is not None:
            head.setDefaultSectionSize(THUMB.height() + 4)
        self.table.installEventFilter(self)
        self.table.itemChanged.connect(lambda _: self._wait.start())
        self.out = QLineEdit(str(Path.home() / "{name}.mp4"))
        self.out.setAccessibleName("Files")
        self.out.setToolTip("{name}, {row}, {size} or any column stands for what is in it")
        self.out.textChanged.connect(lambda: self._wait.start())
        self.words = quiet("Paste rows from a spreadsheet, or type. Empty cells keep what the shot has.")
        self.put = QPushButton("Put them into the queue")
        self.put.setProperty("main", "true")
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(250)
        self._wait.timeout.connect(self.check)
        self._found: list[RowOrder] = []
        self._show = on_window_thread(self, self._show_picture)
        self._lay_out()
        self.check()

    def _lay_out(self) -> None:
        column, foot = QVBoxLayout(self), QHBoxLayout()
        column.addWidget(self.table, 1)
        row = QHBoxLayout()
        row.addWidget(quiet("Files"))
        row.addWidget(self.out, 1)
        column.addLayout(row)
        for text, tip, does in (
            ("Open a table …", "A CSV, or a JSON object a line", self._open),
            ("Save the table …", "As a CSV, for nimble-quake make --table", self._save),
            ("Add a row", "An empty one at the end", lambda: self.table.insertRow(self.table.rowCount())),
        ):
            button = QPushButton(text)
            button.setToolTip(tip)
            button.clicked.connect(partial(_call, does))
            foot.addWidget(button)
        foot.addWidget(self.words, 1)
        self.put.clicked.connect(lambda: self.render_all())
        foot.addWidget(self.put)
        column.addLayout(foot)

    # Rows

    def rows(self) -> list[Row]:
        """Return what is typed, row by row; empty rows are none."""
        found = []
        for number in range(self.table.rowCount()):
            cells = {name: self._cell(number, n) for n, name in enumerate(self.columns)}
            values = {name: cell for name, cell in cells.items() if cell != ""}
            if values:
                found.append(Row(number + 1, values))
        return found

    def _cell(self, row: int, column: int) -> str:
        item = self.table.item(row, column)
        return item.text() if item is not None else ""

    def fill(self, rows: list[list[str]], row: int = 0, column: int = 0) -> None:
        """Put cells into the table from a place on; rows are added."""
        self.table.blockSignals(True)
        self.table.setRowCount(max(self.table.rowCount(), row + len(rows)))
        for down, cells in enumerate(rows):
            for across, cell in enumerate(cells[: len(self.columns) - column]):
                self.table.setItem(row + down, column + across, QTableWidgetItem(cell))
        self.table.blockSignals(False)
        self.check()

    def check(self) -> None:
        """Make every row's shot, mark what is wrong or too long, and ask for its picture."""
        self._found = list(jobs(self._shot, self.rows(), self.out.text(), Measures()))
        self.table.blockSignals(True)
        wrong = long = 0
        for number, row in groupby(self._found, lambda job: job.row.number):
            clips = list(row)  # a row has one for each of its sizes: what is wrong with any of them is said
            said = [(job, words) for job in clips if (words := job.wrong or self._too_long(job.shot))]
            faults = sum(bool(job.wrong) for job in clips)
            wrong, long = wrong + faults, long + len(said) - faults
            self._mark(number - 1, "\n".join(dict.fromkeys(words for _, words in said)), fault=faults > 0)
            shown = (said[0][0] if said else clips[0]).shot
            if shown is not None:
                self._ask_picture(number - 1, shown)
        self.table.blockSignals(False)
        good = len(self._found) - wrong
        self.words.setText(_counted(good, long, wrong))
        self.put.setEnabled(good > 0)

    def _too_long(self, shot: Shot | None) -> str:
        names = beyond_frame(shot, self._engine) if shot is not None else []
        if shot is None or not names:
            return ""
        return f"{', '.join(names)} reaches beyond the frame at {shot.width} x {shot.height}"

    def _mark(self, row: int, said: str, *, fault: bool) -> None:
        tint = colour("fault" if fault else "brass", 70) if said else QColor(0, 0, 0, 0)
        for column in range(len(self.columns)):
            item = self.table.item(row, column)
            if item is None:
                item = QTableWidgetItem("")
                self.table.setItem(row, column, item)
            item.setBackground(tint)
            item.setToolTip(said)

    # Pictures

    def _ask_picture(self, row: int, shot: Shot) -> None:
        show, engine = self._show, self._engine

        def make() -> None:
            found = frame_thumbnail(engine, shot, shot.playhead, THUMB.width())
            if found is not None:
                show(row, image_of(found))

        self.frames.scheduler.later(f"row {row}", make)

    def _show_picture(self, row: int, image: QImage) -> None:
        item = self.table.item(row, 0)
        if item is not None:
            self.table.blockSignals(True)
            item.setIcon(QIcon(QPixmap.fromImage(image.copy())))
            self.table.blockSignals(False)

    # Done

    def eventFilter(self, watched: object, event: QEvent | None) -> bool:
        """Ctrl+V puts cells from a spreadsheet in from the current cell on."""
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if pressed and isinstance(event, QKeyEvent) and event.matches(QKeySequence.StandardKey.Paste):
            self.paste()
            return True
        return False

    def paste(self) -> None:
        """Put the clipboard's cells in from the current cell on."""
        board = QApplication.clipboard()
        text = board.text() if board is not None else ""
        rows = list(csv.reader(io.StringIO(text, newline=""), delimiter="\t" if "\t" in text else ","))
        if rows:
            self.fill(rows, max(0, self.table.currentRow()), max(0, self.table.currentColumn()))

    def _open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "A table", "", "Tables (*.csv *.jsonl *.json)")
        if name:
            self.open_table(Path(name))

    def open_table(self, path: Path) -> None:
        """Show a table; columns that are no slot and no dial are left out, and said."""
        try:
            columns, rows = read_table(path)
        except NimbleQuakeError as wrong:
            self.words.setText(wrong.line())
            return
        self.table.setRowCount(0)
        here = {name.casefold(): name for name in self.columns}
        names = {name: here.get(self._called.get(name.casefold(), name).casefold(), "") for name in columns}
        cells = [{names[name]: str(cell) for name, cell in row.values.items()} for row in rows]
        self.fill([[row.get(name, "") for name in self.columns] for row in cells])
        unknown = [name for name in columns if not names[name]]
        if unknown:
            self.words.setText(f"Left out, no slot and no dial: {', '.join(unknown)[:120]}")

    def _save(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", "", "Tables (*.csv)")
        if not name:
            return
        try:
            write_whole(Path(name), self._put)
        except NimbleQuakeError as wrong:
            self.words.setText(wrong.line())

    def _put(self, target: Path) -> None:
        with target.open("w", newline="", encoding="utf-8") as file:
            writer = csv.DictWriter(file, self.columns)
            writer.writeheader()
            writer.writerows(dict(row.values) for row in self.rows())

    def render_all(self) -> None:
        """Put every row that can be made into the queue."""
        self.check()
        count = 0
        try:
            for job in self._found:
                if job.shot is not None:
                    job.path.absolute().parent.mkdir(parents=True, exist_ok=True)
                    self._add(job.shot, job.path.absolute())
                    count += 1
            self.queue.start()
        except NimbleQuakeError as wrong:
            self.words.setText(wrong.line())
            return
        except OSError as wrong:
            self.words.setText(f"{self.out.text()}: {wrong.strerror}")
            return
        self.session.message.emit(f"{count} clips wait in the queue")
        self.accept()

    def _add(self, shot: Shot, path: Path) -> None:
        order = Order(shot, path, 0, shot.length - 1, format=format_of(path))
        self.queue.add(replace(order), self.session.engine, self.session.path, None)


def _counted(good: int, long: int, wrong: int) -> str:
    """How many clips there are, and how many of them are marked."""
    found = [f"{good} clip" if good == 1 else f"{good} clips"]
    found += [f"{long} with words beyond the frame"] if long else []
    found += [f"{wrong} cannot be made"] if wrong else []
    return ", ".join(found) + (": see the marked rows" if long or wrong else "")


def _call(does: Callable[[], object]) -> None:
    does()
