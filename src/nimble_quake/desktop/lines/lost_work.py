"""Work that a session left unsaved, in the status line: it stays until one chooses, and never takes the keys."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import datetime

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.parts import linked, quiet
from nimble_quake.session.storage.recovery import Lost

NAME = 180
"""Pixels of a shot's name."""
TAKE_BACK = 10_000
"""Milliseconds in which what was discarded can be had back; then its file is removed."""


class LostWork(QWidget):
    """Offers lost shots one after the other, the newest first. `open_shot` returns whether a shot was opened."""

    def __init__(self, open_shot: Callable[[Lost], bool]) -> None:
        super().__init__()
        self._open_shot = open_shot
        self._waiting: list[Lost] = []
        self._discarded: Lost | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(TAKE_BACK)
        self._soon.timeout.connect(self._remove)
        self.words, self.more = QLabel(), quiet("", 11)
        self.words.setFont(font(12, strong=True))
        tone(self.words, "fault_text")
        self.open_button = linked("Open", "Open it as a shot that is not saved", self._open)
        self.discard_button = linked("Discard", "Remove it for good", self._discard)
        self.back_button = linked("Bring it back", "Do not remove it", self._bring_back)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for widget in (self.words, self.open_button, self.discard_button, self.back_button, self.more):
            row.addWidget(widget)
        self.setAccessibleName("Lost work")
        self.hide()

    def offer(self, lost: Sequence[Lost]) -> None:
        """Offer shots until they are opened or discarded."""
        self._waiting = [*lost]
        self._show()

    def close_now(self) -> None:
        """The session ends: what was discarded is removed."""
        self._remove()

    def _show(self) -> None:
        gone = self._discarded is not None
        self.setVisible(bool(self._waiting) or gone)
        self.open_button.setVisible(not gone)
        self.discard_button.setVisible(not gone)
        self.back_button.setVisible(gone)
        if self._discarded is not None:
            self.words.setText(f"Discarded {self._discarded.shot.name}")
        elif self._waiting:
            lost, others = self._waiting[0], len(self._waiting) - 1
            name = self.words.fontMetrics().elidedText(lost.shot.name, Qt.TextElideMode.ElideRight, NAME)
            self.words.setText(f"Lost work: {name}, {_when(lost)}")
            self.more.setText(f"and {others} more" if others else "")
        self.more.setVisible(bool(self.more.text()) and not gone)

    def _open(self) -> None:
        if self._waiting and self._open_shot(self._waiting[0]):
            self._waiting.pop(0)
            self._show()

    def _discard(self) -> None:
        self._remove()
        self._discarded = self._waiting.pop(0)
        self._soon.start()
        self._show()

    def _bring_back(self) -> None:
        if self._discarded is not None:
            self._waiting.insert(0, self._discarded)
        self._discarded = None
        self._soon.stop()
        self._show()

    def _remove(self) -> None:
        if self._discarded is not None:
            self._discarded.throw_away()
        self._discarded = None
        self._show()


def _when(lost: Lost) -> str:
    """The time it was kept at; of another day the date too."""
    then = datetime.fromtimestamp(lost.kept_at)
    return f"{then:%H:%M}" if then.date() == datetime.now().date() else f"{then:%-d %B, %H:%M}"
