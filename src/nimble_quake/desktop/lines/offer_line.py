"""Something that can be done by one click, in the status line until it is done, left, or something else is changed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from nimble_quake.desktop.theme.look import font
from nimble_quake.desktop.widgets.parts import linked
from nimble_quake.session.state import Session


class OfferLine(QWidget):
    """Takes no keys by itself; it is reached by Tab."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._run: Callable[[], object] = lambda: None
        self.words = QLabel()
        self.words.setFont(font(12, strong=True))
        self.take_button = linked("", "", self._take)
        self.leave_button = linked("Leave it", "Nothing is changed", self.hide)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for widget in (self.words, self.take_button, self.leave_button):
            row.addWidget(widget)
        self.setAccessibleName("Offer")
        self.hide()
        session.offered.connect(self.offer)
        session.changed.connect(lambda _: self.hide())

    def offer(self, text: str, words: str, run: Callable[[], object]) -> None:
        """Show an offer."""
        self._run = run
        self.words.setText(text)
        self.take_button.setText(words)
        self.take_button.setAccessibleName(words)
        self.show()

    def _take(self) -> None:
        self.hide()
        self._run()
