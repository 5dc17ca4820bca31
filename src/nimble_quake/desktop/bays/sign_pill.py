"""A small sign over the map, with its cure."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from nimble_quake.desktop.bays.signs import Sign
from nimble_quake.desktop.theme.look import icon


class SignPill(QWidget):
    """A sign on the map: what is off, and a button that mends it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        row = QHBoxLayout(self)
        row.setContentsMargins(7, 3, 3, 3)
        row.setSpacing(7)
        picture = QLabel()
        picture.setPixmap(icon("warning", "fault_text").pixmap(15, 15))
        self.words = QLabel()
        self.button = QPushButton()
        self.button.setFixedHeight(22)
        self.button.clicked.connect(self._mend)
        for widget in (picture, self.words, self.button):
            row.addWidget(widget)
        self._sign: Sign | None = None
        self._words, self._room = "", 480
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Sign")
        self.hide()

    def show_signs(self, found: list[Sign]) -> None:
        """Show the worst sign, and how many more there are."""
        self._sign = found[0] if found else None
        self.setVisible(bool(found))
        if found:
            more = f"  (+{len(found) - 1})" if len(found) > 1 else ""
            self._words = found[0].text + more
            self.words.setToolTip("\n".join(sign.text for sign in found))
            self.button.setText(found[0].cure)
            self._fit_words()

    def set_room(self, pixels: int) -> None:
        """Keep within so many pixels; what does not fit of the words is in their tooltip."""
        self._room = pixels
        self._fit_words()

    def _fit_words(self) -> None:
        if self._sign is None:
            return
        room = max(40, self._room - 52 - self.button.sizeHint().width())
        self.words.setText(self.words.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room))
        self.adjustSize()

    def _mend(self) -> None:
        if self._sign:
            self._sign.mend()
