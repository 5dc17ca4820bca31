"""The command finder: type a few letters of a command or a field, press Return."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from nimble_quake.desktop.boards.ranking import rank
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.host import Host
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects, items


@dataclass(frozen=True)
class Entry:
    """Something the finder offers: what it does, where it is found, its shortcut."""

    title: str
    where: str
    run: Callable[[], object]
    shortcut: str = ""
    on: bool = True
    called: str = ""
    """Other words for it."""


def matches(typed: str, entry: Entry) -> bool:
    """Return whether every typed word begins or lies in the entry's words."""
    text = f"{entry.where} {entry.title} {entry.called}".lower()
    return all(word in text for word in typed.lower().split())


def entries(host: Host, panels: Sequence[SettingsPanel], focus: Callable[[str], object]) -> list[Entry]:
    """Return every action, then every field of some panels, then all that can be added.

    focus: goes to the value at a path, and opens the section it is folded in.
    """
    found = [Entry(a.title, a.menu, partial(a.run, host), a.shortcut, bool(a.enabled(host)), a.called) for a in ACTIONS]
    for panel in panels:
        owner = host.session.name_of(panel.path) if panel.path else ""
        for param in panel.params():
            where = f"{param.section}, field of {owner}" if param.section else f"field of {owner}"
            go = partial(focus, f"{panel.path}/{param.name}")
            found.append(Entry(param.label, where, go, called=f"{param.called} {param.group}"))
    return found + _additions(host.session)


def _additions(session: Session) -> list[Entry]:
    """All sources, shapers, quakes and finishes, each of which adds itself."""
    found, operators = [], session.engine.operators
    for word in ("source", "shaper"):
        for operator in operators.all(word):
            add = partial(items.new_step, session, operator.kind)
            found.append(Entry(operator.title, f"add this {word}", add, called=f"{operator.called} {operator.help}"))
    for operator in operators.playing("effect"):
        word = "quake" if operator.family == "quake" else "finish"
        add = partial(effects.new_effect, session, operator.kind)
        on = bool(session.selection.plate)
        found.append(Entry(operator.title, f"add this {word}", add, on=on, called=f"{operator.called} {operator.help}"))
    return found


class CommandFinder(QDialog):
    """Every action and every field on the bench, by name."""

    def __init__(self, found: list[Entry], parent: QWidget) -> None:
        super().__init__(parent)
        self._entries = found
        self._found: list[Entry] = []
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
        self._found = [entry for entry in self._entries if matches(typed, entry)]
        if typed.strip():
            self._found.sort(key=lambda entry: rank(entry.title, typed.strip().lower()))
        for entry in self._found:
            item = QListWidgetItem("    ".join(part for part in (entry.title, entry.where, entry.shortcut) if part))
            if not entry.on:
                item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        if not self._found:
            item = QListWidgetItem(f"Nothing is called “{typed.strip()}”: no command, and no field on the bench")
            item.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(item)
        first = next((n for n, entry in enumerate(self._found) if entry.on), 0)
        self.list.setCurrentRow(first)

    def run_chosen(self) -> None:
        """Close, then do what is chosen."""
        row = self.list.currentRow()
        if not 0 <= row < len(self._found) or not self._found[row].on:
            return
        self.accept()
        self._found[row].run()

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
