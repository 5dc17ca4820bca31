"""Several outputs of one render, and settings by name: what is asked for together is kept and asked for again."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QComboBox, QFormLayout, QHBoxLayout, QInputDialog, QLabel, QListWidget, QPushButton, QWidget

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.export.data import in_words
from nimble_quake.export.formats import format_named
from nimble_quake.export.outputs import Output
from nimble_quake.session.storage import render_settings

AS_BELOW, LAST_TIME = "As below", "Last time"
WIDEST = "Rendered by"
"""The widest name of the fields below: names stand in one column."""
MOST_SEEN = 4


class RenderOutputs(QWidget):
    """The settings' names, and the outputs besides what the fields say. here: what the fields say now."""

    chosen = pyqtSignal(object)
    """An output that the fields should say."""
    changed = pyqtSignal()
    wrong = pyqtSignal(str)

    def __init__(self, here: Callable[[], Output]) -> None:
        super().__init__()
        self._here = here
        self.others: list[Output] = []
        self.names = QComboBox()
        self.names.setAccessibleName("Settings")
        self.names.setMinimumHeight(24)
        self.names.activated.connect(lambda _: self._take())
        self.keep = QPushButton("Keep as …")
        self.keep.setToolTip("Keep all that is asked for here under a name")
        self.keep.clicked.connect(self._keep)
        self.forget = QPushButton("Forget")
        self.forget.setToolTip("Forget the settings of this name")
        self.forget.clicked.connect(self._forget)
        self.more = QPushButton("And another")
        self.more.setToolTip("This is rendered too; then say what else")
        self.more.clicked.connect(self.add)
        self.list = QListWidget()
        self.list.setAccessibleName("Rendered too")
        self.list.setToolTip("Rendered too; Delete takes one out, Return edits it below")
        self.list.itemActivated.connect(lambda _: self._edit())
        QShortcut(QKeySequence(Qt.Key.Key_Delete), self.list, self._take_out, context=Qt.ShortcutContext.WidgetShortcut)
        self._lay_out()
        self._show_names(AS_BELOW)
        self._show()

    def _lay_out(self) -> None:
        form, row, self._also = QFormLayout(self), QHBoxLayout(), QLabel("Also")
        form.setContentsMargins(0, 0, 0, 0)
        form.setSpacing(8)
        row.addWidget(self.names, 1)
        for button in (self.keep, self.forget, self.more):
            row.addWidget(button)
        name = QLabel("Settings")
        name.setMinimumWidth(name.fontMetrics().horizontalAdvance(WIDEST))
        form.addRow(name, row)
        form.addRow(self._also, self.list)

    def all(self) -> tuple[Output, ...]:
        """Return all that is asked for, what the fields say last."""
        return (*self.others, self._here())

    def _show_names(self, now: str) -> None:
        kept = render_settings.settings()
        self.names.clear()
        self.names.addItem(AS_BELOW, None)
        if render_settings.LAST in kept:
            self.names.addItem(LAST_TIME, render_settings.LAST)
        for name in sorted(kept, key=str.casefold):
            if name:
                self.names.addItem(name, name)
        self.names.setCurrentIndex(max(0, self.names.findText(now)))
        self.forget.setEnabled(bool(self.names.currentData()))

    def _take(self) -> None:
        name = self.names.currentData()
        self.forget.setEnabled(bool(name))
        outputs = render_settings.settings().get(name, ()) if name is not None else ()
        if outputs:
            self.others = list(outputs[:-1])
            self.chosen.emit(outputs[-1])
        self._show()
        self.changed.emit()

    def _keep(self) -> None:
        name, good = QInputDialog.getText(self, "Keep these settings", "Name", text=str(self.names.currentData() or ""))
        name = name.strip()[: render_settings.LONGEST]
        if good and name and self._write(name, self.all()):
            self._show_names(name)

    def _forget(self) -> None:
        if self.names.currentData() and self._write(self.names.currentData(), ()):
            self._show_names(AS_BELOW)

    def _write(self, name: str, outputs: tuple[Output, ...]) -> bool:
        try:
            render_settings.keep(name, outputs)
        except (NimbleQuakeError, OSError) as wrong:
            self.wrong.emit(wrong.line() if isinstance(wrong, NimbleQuakeError) else f"{wrong.strerror or wrong}")
            return False
        return True

    def remember(self) -> None:
        """Offer all that is asked for as *Last time*; a full disk is no reason to stop."""
        try:
            render_settings.keep(render_settings.LAST, self.all())
        except (NimbleQuakeError, OSError):
            return

    def add(self) -> None:
        """Render what the fields say too, and let them say something else."""
        self.others.append(self._here())
        self._show()
        self.changed.emit()

    def _edit(self) -> None:
        """Let the fields say one of the list; what they said takes its place."""
        row = self.list.currentRow()
        if 0 <= row < len(self.others):
            here = self._here()
            self.chosen.emit(self.others[row])
            self.others[row] = here
            self._show()
            self.changed.emit()

    def _take_out(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.others):
            del self.others[row]
            self._show()
            self.changed.emit()

    def _show(self) -> None:
        self.list.clear()
        self.list.addItems([in_short(output) for output in self.others])
        for widget in (self._also, self.list):
            widget.setVisible(bool(self.others))
        self.list.setFixedHeight(max(1, self.list.sizeHintForRow(0)) * min(MOST_SEEN, len(self.others)) + 4)


def in_short(output: Output) -> str:
    """Return what an output is, in a line."""
    format = format_named(output.format)
    quality = next((f", {name.lower()}" for name, number in format.qualities if number == output.quality), "")
    what = f" of {in_words(output.what, {})}" if output.what != "picture" else ""
    return f"{format.label}{what}, {output.scale:.0%}{quality}"
