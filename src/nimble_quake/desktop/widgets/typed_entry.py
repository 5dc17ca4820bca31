"""A line that is opened for typing on top of what it changes, and how typing ends."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QLineEdit, QWidget

Take = Callable[[str], str]
"""Takes what was typed; returns why it cannot be taken, or nothing."""


class TypedEntry(QLineEdit):
    """Return and Tab take, Escape leaves as it was, a click elsewhere takes. No key that ends typing does more.

    Text that cannot be taken stays, marked, with the reason in its tooltip; the owner has the focus afterwards.
    """

    def __init__(self, owner: QWidget, text: str, take: Take, within: QWidget | None = None) -> None:
        """within: what holds it, where that is not its owner."""
        super().__init__(text, within or owner)
        self._owner, self._take, self._ended = owner, take, False
        self.textEdited.connect(lambda: self._mark(""))

    def open(self, *, select: bool = True) -> None:
        """Show it, ready for typing."""
        self.show()
        self.setFocus()
        if select:
            self.selectAll()

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and self._key(event):
            event.accept()
            return True
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()  # while a name or a number is typed no key is a command
        return super().event(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        """Choose a number whole, not the digits on one side of its point: whoever double-clicks means to replace it."""
        super().mouseDoubleClickEvent(event)
        if not any(letter.isalpha() for letter in self.text()):
            self.selectAll()

    def _key(self, event: QKeyEvent) -> bool:
        """Return whether a key has ended typing, or was meant to."""
        key = event.key()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._end(refocus=True)
        elif key == Qt.Key.Key_Escape:
            self._close(refocus=True)
        elif key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            if self._end(refocus=True):
                self._owner.focusNextPrevChild(key == Qt.Key.Key_Tab)
        else:
            return False
        return True

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        reasons = Qt.FocusReason
        if event is not None and event.reason() not in (reasons.PopupFocusReason, reasons.ActiveWindowFocusReason):
            self._end(refocus=False)

    def _end(self, *, refocus: bool) -> bool:
        """Hand over what was typed; returns whether it was taken."""
        if self._ended:
            return True
        why = self._take(self.text())
        if why:
            self._mark(why)
            return False
        self._close(refocus=refocus)
        return True

    def _close(self, *, refocus: bool) -> None:
        if self._ended:
            return
        self._ended = True
        if refocus:
            self._owner.setFocus()
        self.hide()
        self.deleteLater()
        self._owner.update()

    def _mark(self, why: str) -> None:
        """Show that the text cannot be taken, and why; an empty reason takes the mark away."""
        self.setToolTip(why)
        self.setAccessibleDescription(why)
        if self.property("wrong") != bool(why):
            self.setProperty("wrong", bool(why))
            style = self.style()
            if style is not None:
                style.unpolish(self)
                style.polish(self)
