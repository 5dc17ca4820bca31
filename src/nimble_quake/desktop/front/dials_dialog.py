"""Dials looked after: their names, ranges, words, order, and what stands behind them."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.widgets.parts import bare, heading, line, quiet, worded
from nimble_quake.session.fronts.filling import front_path
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front, items
from nimble_quake.shot.paths import siblings


class DialsDialog(QDialog):
    """A list of what is at the front, and the settings of the chosen one. All of it can be undone."""

    def __init__(self, session: Session, chosen: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Dials and slots")
        self.resize(620, 420)
        self.session = session
        self.list = QListWidget()
        self.list.setFixedWidth(190)
        self.list.setAccessibleName("Dials and slots")
        self.name = QLineEdit()
        self.name.setAccessibleName("Name of the dial")
        self.name.setMaxLength(200)
        self.settings = SettingsPanel(session, "ember", names=74)
        up = worded("Up", "Further up in the panel", lambda: self._move(-1))
        down = worded("Down", "Further down in the panel", lambda: self._move(1))
        away = bare("trash", "Take it from the front; what is behind it stays as it is", self._take_back)
        side = QVBoxLayout()
        side.addWidget(self.list, 1)
        side.addWidget(line(up, down, away, None, height=28, margins=(0, 0)))
        form = QVBoxLayout()
        form.addWidget(heading("Name"))
        form.addWidget(self.name)
        form.addWidget(self.settings, 1)
        form.addWidget(quiet("A range is what the field spans; a value behind it can have two ends of its own.", 11))
        form.addWidget(
            line(None, worded("Close", "Back to the bench; all of it can be undone", self.accept), height=30)
        )
        row = QHBoxLayout(self)
        row.addLayout(side)
        row.addLayout(form, 1)
        self._fill(chosen)
        self.list.currentItemChanged.connect(lambda *_: self._choose())
        self.name.editingFinished.connect(self._rename)
        session.changed.connect(self._changed)
        self.finished.connect(lambda _: session.changed.disconnect(self._changed))
        self._choose()

    def chosen(self) -> str:
        """Return the path of the chosen dial; empty for none."""
        item = self.list.currentItem()
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""

    def _fill(self, chosen: str) -> None:
        self.list.blockSignals(True)
        self.list.clear()
        for node in front.in_front(self.session):
            item = QListWidgetItem(node.name or node.id)
            item.setData(Qt.ItemDataRole.UserRole, front_path(node))
            self.list.addItem(item)
            if front_path(node) == chosen:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None and self.list.count():
            self.list.setCurrentRow(0)
        self.list.blockSignals(False)

    def _choose(self) -> None:
        self.settings.show_node(self.chosen())
        self.name.setText(self.session.name_of(self.chosen()) if self.chosen() else "")
        self.name.setEnabled(bool(self.chosen()))

    def _changed(self, found: set[str]) -> None:
        shown = [(self._path(n), self._text(n)) for n in range(self.list.count())]
        if shown != [(front_path(node), node.name or node.id) for node in front.in_front(self.session)]:
            self._fill(self.chosen())
            self._choose()
        self.settings.refresh()

    def _path(self, row: int) -> str:
        item = self.list.item(row)
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""

    def _text(self, row: int) -> str:
        item = self.list.item(row)
        return item.text() if item is not None else ""

    def _rename(self) -> None:
        path, name = self.chosen(), self.name.text().strip()
        if path and name and name != self.session.name_of(path):
            items.rename(self.session, path, name)

    def _move(self, way: int) -> None:
        path = self.chosen()
        row = siblings(self.session.shot, path)
        if path in row and 0 <= row.index(path) + way < len(row):
            items.move_item(self.session, path, row.index(path) + way)

    def _take_back(self) -> None:
        if self.chosen():
            front.take_back(self.session, self.chosen())
