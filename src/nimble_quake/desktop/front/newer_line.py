"""Says that a newer version of a starter is there, with two buttons: take it, or stay."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from nimble_quake.desktop.theme.look import tone
from nimble_quake.desktop.widgets.parts import quiet
from nimble_quake.session.starting import versions
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front


class NewerLine(QWidget):
    """Hidden while there is none."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._found: versions.Newer | None = None
        self._asked: object = None
        self.words = QLabel()
        tone(self.words, "brass_text")
        self.take_button, self.stay_button = QPushButton(), QPushButton()
        self.take_button.setToolTip("The newer starter takes its place; your dials and slots stay as they are")
        self.stay_button.setToolTip("Leave it as it is, and say no more of this version")
        self.take_button.clicked.connect(self._take)
        self.stay_button.clicked.connect(self._stay)
        buttons = QHBoxLayout()
        for button in (self.take_button, self.stay_button):
            button.setFixedHeight(22)
            buttons.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 4, 8, 4)
        column.setSpacing(4)
        column.addWidget(self.words)
        column.addWidget(quiet("your dials and slots stay", 11))
        column.addLayout(buttons)
        self.hide()

    def refresh(self) -> None:
        """Look whether there is a newer version; files are looked at only where what was made with one has changed."""
        asked = (front.owner_in_front(self.session), *(n for n in self.session.shot.front if n.kind == "origin"))
        if asked == self._asked:
            return
        self._asked = asked
        self._found = versions.newer(self.session)
        self.setVisible(self._found is not None)
        if self._found is not None:
            old, new = self._found.made_with, self._found.version
            self.words.setText(f"Made with version {old}; {new} is there")
            self.take_button.setText(f"Take {new}")
            self.stay_button.setText(f"Stay with {old}")

    def _take(self) -> None:
        if self._found is not None:
            versions.take(self.session, self._found)

    def _stay(self) -> None:
        if self._found is not None:
            versions.stay(self.session, self._found)
