"""The command finder: type a few letters, press Enter."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from nimble_quake.session.actions import ACTIONS, Action


def matches(typed: str, action: Action) -> bool:
    """Return whether every typed word begins or lies in the action's words."""
    text = f"{action.menu} {action.title}".lower()
    return all(word in text for word in typed.lower().split())


class CommandFinder(QDialog):
    """Every action, by name."""

    def __init__(self, host: Any) -> None:
        super().__init__(host)
        self.host = host
        self.setWindowTitle("Commands")
        self.resize(460, 380)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Type what you want to do")
        self.search.setAccessibleName("Find a command")
        self.search.setMinimumHeight(28)
        self.list = QListWidget()
        self.list.setAccessibleName("Commands found")
        outer = QVBoxLayout(self)
        outer.addWidget(self.search)
        outer.addWidget(self.list)
        self.search.textChanged.connect(self._fill)
        self.list.itemActivated.connect(lambda _: self.run_chosen())
        self._fill("")

    def _fill(self, typed: str) -> None:
        self.list.clear()
        for action in ACTIONS:
            if matches(typed, action):
                item = QListWidgetItem(
                    f"{action.title}    {action.menu}" + (f"    {action.shortcut}" if action.shortcut else "")
                )
                item.setData(Qt.ItemDataRole.UserRole, action.id)
                if not action.enabled(self.host):
                    item.setFlags(Qt.ItemFlag.NoItemFlags)
                self.list.addItem(item)
        self.list.setCurrentRow(0)

    def run_chosen(self) -> None:
        """Close, then do what is chosen."""
        item = self.list.currentItem()
        if item is None or not item.flags() & Qt.ItemFlag.ItemIsEnabled:
            return
        action = next(a for a in ACTIONS if a.id == item.data(Qt.ItemDataRole.UserRole))
        self.accept()
        action.run(self.host)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.run_chosen()
        else:
            super().keyPressEvent(event)
