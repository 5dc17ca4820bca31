"""Shots to go on with: recent ones, and work that was lost, each a row with what is known of it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.parts import linked, quiet
from nimble_quake.session.storage.recovery import Lost

MOST = 5
"""Rows of each."""
NAME = 70
"""Pixels of the name of a shot that was not saved: its buttons stay within the column."""


def when(seconds: float) -> str:
    """Return a time as one says it: "today 14:10", "yesterday", "3 November"."""
    then, now = datetime.fromtimestamp(seconds), datetime.now()
    days = (now.date() - then.date()).days
    return f"today {then:%H:%M}" if days == 0 else "yesterday" if days == 1 else f"{then.day} {then:%B}"


class GoOn(QWidget):
    """The rows. `open_path` opens a shot's file, `open_lost` lost work and says whether it did."""

    def __init__(self, open_path: Callable[[Path], object], open_lost: Callable[[Lost], bool]) -> None:
        super().__init__()
        self._open_path, self._open_lost = open_path, open_lost
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)
        self._lost: list[Lost] = []
        self._recent: list[str] = []

    def show_shots(self, recent: list[str], lost: list[Lost]) -> None:
        """Show recent files, the newest first, and lost work."""
        self._recent, self._lost = recent, lost
        while (item := self._rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for each in lost[:MOST]:
            self._rows.addWidget(self._lost_row(each))
        for name in recent[:MOST]:
            self._rows.addWidget(self._recent_row(Path(name)))
        self.setVisible(bool(recent or lost))

    def _recent_row(self, path: Path) -> QWidget:
        there = path.is_file()
        row = QPushButton(path.stem)
        row.setProperty("row", True)
        row.setFixedHeight(24)
        row.setEnabled(there)
        row.setToolTip(str(path) if there else f"{path}: the file is not there")
        row.clicked.connect(lambda: self._open_path(path))
        said = f"{path.parent.name} · {when(path.stat().st_mtime)}" if there else "the file is not there"
        note = quiet(said, 11)
        note.setMinimumWidth(0)
        return _beside(row, note)

    def _lost_row(self, lost: Lost) -> QWidget:
        words = QLabel()
        name = words.fontMetrics().elidedText(lost.shot.name, Qt.TextElideMode.ElideRight, NAME)
        words.setText(f"Not saved: {name}, {when(lost.kept_at)}")
        words.setToolTip(lost.shot.name)
        words.setFont(font(12))
        tone(words, "fault_text")
        take = linked("Open", "Open it as a shot that is not saved", lambda: self._open_lost(lost))
        drop = linked("Discard", "Remove it for good", lambda: self._discard(lost))
        return _beside(words, take, drop)

    def _discard(self, lost: Lost) -> None:
        lost.throw_away()
        self._forget(lost)

    def _forget(self, lost: Lost) -> None:
        self.show_shots(self._recent, [each for each in self._lost if each is not lost])


def _beside(*widgets: QWidget) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(8)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    holder.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return holder
