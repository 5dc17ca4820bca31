"""Two values in one row of a panel: what chooses, and how much, under one name."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QWidget

from nimble_quake.desktop.theme.look import give_icon
from nimble_quake.desktop.widgets.parts import bare
from nimble_quake.session.state import Session


class JoinedRow(QWidget):
    """Holds two editors side by side; it is seen while either is."""

    def __init__(self, first: QWidget, second: QWidget) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        for editor, stretch in ((first, 6), (second, 7)):
            editor.setSizePolicy(QSizePolicy.Policy.Ignored, editor.sizePolicy().verticalPolicy())
            row.addWidget(editor, stretch)


class LinkedName(QWidget):
    """A row's name with the link to the row above it: a toggle value of the node."""

    def __init__(self, session: Session, path: str, label: QWidget, tip: str) -> None:
        super().__init__()
        self.session, self.path = session, path
        self.button: QToolButton = bare("link", tip, self._toggle, toggles=True)
        self.button.setAccessibleName("Linked")
        self.button.setFixedSize(16, 20)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(label, 1)
        row.addWidget(self.button)

    def refresh(self) -> None:
        """Show whether they are linked."""
        on = bool(self.session.shown(self.path))
        self.button.setChecked(on)
        give_icon(self.button, "link" if on else "link-off")

    def _toggle(self) -> None:
        self.session.set(self.path, not self.session.shown(self.path))
