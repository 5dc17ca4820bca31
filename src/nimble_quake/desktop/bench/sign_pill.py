"""A small sign over the map, with its cure."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from nimble_quake.desktop.bench.signs import Sign
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
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("Sign")
        self.hide()

    def show_signs(self, found: list[Sign]) -> None:
        """Show the worst sign, and how many more there are."""
        self._sign = found[0] if found else None
        self.setVisible(bool(found))
        if found:
            more = f"  (+{len(found) - 1})" if len(found) > 1 else ""
            self.words.setText(found[0].text + more)
            self.words.setToolTip("\n".join(sign.text for sign in found))
            self.button.setText(found[0].cure)
            self.adjustSize()

    def _mend(self) -> None:
        if self._sign:
            self._sign.mend()
