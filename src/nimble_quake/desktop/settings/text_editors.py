"""The editor of words."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QLineEdit, QPlainTextEdit, QWidget

from nimble_quake.desktop.settings.bound import Bound
from nimble_quake.params.kinds import Words
from nimble_quake.session.state import Session


class Page(QPlainTextEdit):
    """A page of several lines. Escape leaves the words as they were, Ctrl+Return or a click elsewhere takes them."""

    left = pyqtSignal()
    given_up = pyqtSignal()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is None or event.reason() != Qt.FocusReason.PopupFocusReason:
            self.left.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.given_up.emit()
        elif event is not None and _is_return(event) and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            _give_keyboard_on(self)
        else:
            super().keyPressEvent(event)


class Line(QLineEdit):
    """A line. Return takes, Escape leaves the words as they were."""

    given_up = pyqtSignal()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.given_up.emit()
                return True
            if _is_return(event):
                _give_keyboard_on(self)
                return True
        return super().event(event)


def _is_return(event: QKeyEvent) -> bool:
    return event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)


def _give_keyboard_on(edit: QWidget) -> None:
    """Give the keyboard to the panel an editor lies in, so that the next key is a command again."""
    parent = edit.parentWidget()
    while parent is not None and not isinstance(parent, QAbstractScrollArea):
        parent = parent.parentWidget()
    if parent is not None:
        parent.setFocus()
    else:
        edit.clearFocus()


class WordsEditor(Bound):
    """A line, or a small page where lines may be broken. What is typed is seen at once; it is one step."""

    def __init__(self, session: Session, path: str, param: Words, region: str) -> None:
        super().__init__(session, path, param, region)
        self.edit: Page | Line
        if param.lines:
            page = Page()
            page.left.connect(self._left)
            page.setFixedHeight(44)
            page.setTabChangesFocus(True)
            page.textChanged.connect(self._typed)
            self.edit = page
        else:
            line = Line()
            line.setFixedHeight(20)
            line.textEdited.connect(self._typed)
            line.editingFinished.connect(self._left)
            self.edit = line
        self.edit.given_up.connect(self._give_up)
        self.edit.setAccessibleName(param.label)
        self.edit.setToolTip(param.help)
        self.row.addWidget(self.edit)
        self.setFocusProxy(self.edit)
        self._typing = False

    def select_all(self) -> None:
        """Select the words, ready to be replaced."""
        self.edit.selectAll()

    def _text(self) -> str:
        return self.edit.toPlainText() if isinstance(self.edit, Page) else self.edit.text()

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

    def _give_up(self) -> None:
        if self._typing:
            self._typing = False
            self.session.abort()
        self.refresh()
        _give_keyboard_on(self.edit)

    def refresh(self) -> None:
        value = str(self.session.shown(self.path) or "")
        if value == self._text():
            return
        self.edit.blockSignals(True)
        if isinstance(self.edit, Page):
            self.edit.setPlainText(value)
        else:
            self.edit.setText(value)
        self.edit.blockSignals(False)
