"""The names and functions of a formula, listed under its field: each explained, put in, or tried by an example."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QLineEdit, QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.widgets.parts import line
from nimble_quake.motion.formula_help import EXPLAINED, Explained, explained_at

HIGH = 132


class FormulaHelp(QWidget):
    """A list that goes along with the cursor of a formula's field; what it shows is put in by Return or two clicks."""

    def __init__(self, edit: QLineEdit) -> None:
        super().__init__()
        self.edit = edit
        self.list = QListWidget()
        self.list.setAccessibleName("Names and functions")
        self.list.setFixedHeight(HIGH)
        for each in EXPLAINED:
            item = QListWidgetItem(each.written)
            item.setToolTip(each.about)
            item.setData(Qt.ItemDataRole.UserRole, each)
            self.list.addItem(item)
        self.about = QLabel()
        self.about.setWordWrap(True)
        self.about.setMinimumHeight(34)
        self.about.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.example = QLabel()
        self.example.setFont(font(11))
        self.put = QPushButton("Put in")
        self.put.setToolTip("Put it in at the cursor (Return)")
        self.use = QPushButton("Try the example")
        self.use.setToolTip("Take the example in place of the formula; Cancel brings the old value back")
        for button in (self.put, self.use):
            button.setFixedHeight(24)
            button.setAutoDefault(False)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(6)
        outer.addWidget(self.list)
        outer.addWidget(self.about)
        outer.addWidget(line(self.example, None, self.put, 6, self.use, height=28, margins=(0, 0)))
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemActivated.connect(lambda _: self._put_in())
        self.put.clicked.connect(self._put_in)
        self.use.clicked.connect(self._try)
        edit.cursorPositionChanged.connect(lambda _, place: self._follow(place))
        self.list.setCurrentRow(0)
        self._follow(edit.cursorPosition())

    def chosen(self) -> Explained:
        """Return what is explained now."""
        item = self.list.currentItem()
        found: Explained = item.data(Qt.ItemDataRole.UserRole) if item is not None else EXPLAINED[0]
        return found

    def _show(self) -> None:
        each = self.chosen()
        self.about.setText(f"{each.written}: {each.about}")
        self.example.setText(each.example)

    def _follow(self, place: int) -> None:
        """Show what the cursor stands in."""
        found = explained_at(self.edit.text(), place)
        if found is not None:
            self.list.setCurrentRow(EXPLAINED.index(found))

    def _put_in(self) -> None:
        """Put a name in, or a call with its arguments, the first of them selected."""
        written, at = self.chosen().written, self.edit.cursorPosition()
        self.edit.insert(written)
        self.edit.setFocus()
        name, bracket, rest = written.partition("(")
        first = rest.rstrip(")").split(",")[0]
        if bracket and first:
            self.edit.setSelection(at + len(name) + 1, len(first))

    def _try(self) -> None:
        self.edit.setText(self.chosen().example)
        self.edit.setFocus()
