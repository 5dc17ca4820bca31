"""The editor of words."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import (
    QLineEdit,
    QPlainTextEdit,
    QWidget,
)

from nimble_quake.desktop.settings.bound import Bound
from nimble_quake.params.kinds import (
    Words,
)
from nimble_quake.session.state import Session


class Page(QPlainTextEdit):
    """A page that says when the keyboard has left it."""

    left = pyqtSignal()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()


class WordsEditor(Bound):
    """A line, or a small page where lines may be broken."""

    def __init__(self, session: Session, path: str, param: Words, region: str) -> None:
        super().__init__(session, path, param, region)
        self.page: Page | None = None
        self.line: QLineEdit | None = None
        if param.lines:
            self.page = Page()
            self.page.left.connect(self._left)
            self.page.setFixedHeight(44)
            self.page.setTabChangesFocus(True)
            self.page.textChanged.connect(self._typed)
            edit: QWidget = self.page
        else:
            self.line = QLineEdit()
            self.line.setFixedHeight(20)
            self.line.textEdited.connect(self._typed)
            self.line.editingFinished.connect(self._left)
            edit = self.line
        edit.setAccessibleName(param.label)
        edit.setToolTip(param.help)
        self.row.addWidget(edit)
        self.setFocusProxy(edit)
        self._typing = False

    def _text(self) -> str:
        return self.page.toPlainText() if self.page else self.line.text() if self.line else ""

    def _typed(self) -> None:
        text = self._text()
        if text != self.session.shown(self.path):
            if not self._typing:
                self._typing = True
                self.begin()
            self.send(self.param.check(text[: getattr(self.param, "most", 5000)]))

    def _left(self) -> None:
        if self._typing:
            self._typing = False
            self.end()

    def refresh(self) -> None:
        value = str(self.session.shown(self.path) or "")
        if value == self._text():
            return
        target = self.page or self.line
        if target:
            target.blockSignals(True)
            self.page.setPlainText(value) if self.page else self.line.setText(value) if self.line else None
            target.blockSignals(False)
