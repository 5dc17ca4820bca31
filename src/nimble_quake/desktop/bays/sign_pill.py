"""A small sign over the map, with its cure; several are read one after the other, each can be put away."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from nimble_quake.desktop.bays.signs import Sign
from nimble_quake.desktop.theme.look import give_icon, icon
from nimble_quake.desktop.widgets.parts import bare, quiet

RETURNS = 1.0
"""A sign that was put away returns when its figure has changed by more than this."""


class SignPill(QWidget):
    """A sign on the map: what is off, a button that mends it, the next one, and one that puts it away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(7, 3, 3, 3)
        row.setSpacing(5)
        picture = QLabel()
        picture.setPixmap(icon("warning", "fault_on_sign").pixmap(15, 15))
        self.words = QLabel()
        self.button = QPushButton()
        self.button.setFixedHeight(22)
        self.button.clicked.connect(self._mend)
        self.back = bare("back", "The sign before", lambda: self._turn(-1))
        self.count = quiet("", 11)
        self.on = bare("forward", "The next sign", lambda: self._turn(1))
        self.away = bare(
            "close", "Put this sign away; it returns when its figure changes by more than 1", self._put_away
        )
        for button, name in ((self.back, "back"), (self.on, "forward"), (self.away, "close")):
            give_icon(button, name, "on_sign")
        for widget in (picture, self.words, self.button, self.back, self.count, self.on, self.away):
            row.addWidget(widget)
        self._all: list[Sign] = []
        self._found: list[Sign] = []
        self._at, self._room = 0, 480
        self._put_by: dict[str, float] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Sign")
        self.hide()

    def show_signs(self, found: list[Sign]) -> None:
        """Show signs, the worst first, without those that were put away and are as they were."""
        self._put_by = {
            sign.key: self._put_by[sign.key]
            for sign in found
            if sign.key in self._put_by and abs(sign.figure - self._put_by[sign.key]) <= RETURNS
        }
        self._all, key = found, self._sign().key if self._found else ""
        self._found = [sign for sign in found if sign.key not in self._put_by]
        self._at = next((n for n, sign in enumerate(self._found) if sign.key == key), 0)
        self._show()

    def forget(self) -> None:
        """Let all signs be shown again, as for another shot."""
        self._put_by = {}

    def _sign(self) -> Sign:
        return self._found[self._at]

    def _show(self) -> None:
        self.setVisible(bool(self._found))
        if not self._found:
            return
        several = len(self._found) > 1
        for widget in (self.back, self.count, self.on):
            widget.setVisible(several)
        self.count.setText(f"{self._at + 1} of {len(self._found)}")
        self.words.setToolTip(self._sign().text)
        self.button.setText(self._sign().cure)
        self.button.setVisible(bool(self._sign().cure))
        self._fit_words()

    def set_room(self, pixels: int) -> None:
        """Keep within so many pixels; what does not fit of the words is in their tooltip."""
        self._room = pixels
        self._fit_words()

    def _fit_words(self) -> None:
        if not self._found:
            return
        shown = [
            *([self.button] if self._sign().cure else []),
            self.away,
            *([self.back, self.count, self.on] if len(self._found) > 1 else []),
        ]
        taken = sum(widget.sizeHint().width() + 5 for widget in shown) + 34
        room = max(40, self._room - taken)
        self.words.setText(self.words.fontMetrics().elidedText(self._sign().text, Qt.TextElideMode.ElideRight, room))
        self.adjustSize()

    def _turn(self, way: int) -> None:
        self._at = (self._at + way) % len(self._found)
        self._show()

    def _put_away(self) -> None:
        if self._found:
            self._put_by[self._sign().key] = self._sign().figure
            self.show_signs(self._all)

    def _mend(self) -> None:
        if self._found:
            self._sign().mend()
