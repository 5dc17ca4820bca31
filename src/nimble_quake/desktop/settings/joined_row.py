"""Two values of a panel that belong together: in one row under one name, or linked across two rows."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QWidget

from nimble_quake.desktop.theme.look import give_icon
from nimble_quake.desktop.widgets.parts import bare
from nimble_quake.motion.motion import is_moving
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


class PairLink:
    """Links two numbers, one along each axis: while it is on, one is scaled as the other is. No value of the shot.

    Links that were set or taken off are kept with the session; else a pair is linked that is meant to be, while its two
    numbers are alike. One that moves is linked to nothing.
    """

    def __init__(self, session: Session, first: str, second: str, *, meant: bool) -> None:
        """first, second: the values' paths. meant: they are linked from the start."""
        self.session, self.paths, self._meant = session, (first, second), meant

    @property
    def on(self) -> bool:
        """Whether they are linked now."""
        if any(is_moving(self.session.raw(path)) for path in self.paths):
            return False
        first, second = (self.session.shown(path) for path in self.paths)
        return self.session.links.get(self.paths[1], self._meant and first == second)

    def toggle(self) -> None:
        """Link them, or let them go."""
        self.session.links[self.paths[1]] = not self.on

    def other(self, path: str) -> str:
        """Return the path of the other one."""
        return self.paths[1] if path == self.paths[0] else self.paths[0]


class LinkedName(QWidget):
    """A row's name with the link to the row above it: a toggle value of the node, or a `PairLink`."""

    def __init__(self, session: Session, link: str | PairLink, label: QWidget | None, tip: str) -> None:
        """link: the path of the toggle, or what links them. label: the name; None where it stands elsewhere."""
        super().__init__()
        self.session, self.link = session, link
        self.button: QToolButton = bare("link", tip, self._toggle, toggles=True)
        self.button.setAccessibleName("Linked")
        self.button.setFixedSize(16, 20)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        if label is not None:
            row.addWidget(label, 1)
        row.addWidget(self.button)

    def refresh(self) -> None:
        """Show whether they are linked."""
        on = self.link.on if isinstance(self.link, PairLink) else bool(self.session.shown(self.link))
        self.button.setChecked(on)
        give_icon(self.button, "link" if on else "link-off")

    def _toggle(self) -> None:
        if isinstance(self.link, PairLink):
            self.link.toggle()
            self.refresh()
        else:
            self.session.set(self.link, not self.session.shown(self.link))
