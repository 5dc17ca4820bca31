"""What stands between the map and the picture: the coupling, or the front panel in its place."""

from __future__ import annotations

from PyQt6.QtWidgets import QStackedWidget

from nimble_quake.desktop.coupling.coupling import Coupling
from nimble_quake.desktop.front.panel import FrontPanel
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.paths import kind_of


class Middle(QStackedWidget):
    """A plate with a front of its own shows it when it is chosen; one of its quakes shows the coupling."""

    def __init__(self, session: Session, coupling: Coupling) -> None:
        super().__init__()
        self.session, self.coupling, self.front = session, coupling, FrontPanel(session)
        self.addWidget(coupling)
        self.addWidget(self.front)
        self._aimed = ""
        self._history: object = None
        self._count = 0
        """How many dials and slots there were."""
        self.front.behind_asked.connect(self.show_behind)
        coupling.front_asked.connect(self.show_front)
        session.selected.connect(self._selected)
        session.changed.connect(self._changed)

    @property
    def in_front(self) -> bool:
        """Whether the front panel is shown."""
        return self.currentWidget() is self.front

    def show_front(self) -> None:
        """Show the front panel."""
        self.setCurrentWidget(self.front)
        self.front.refresh()

    def ask_slots(self) -> None:
        """Show the front panel, the keys at its first slot."""
        self.show_front()
        self.front.focus_first()

    def show_behind(self) -> None:
        """Show the coupling."""
        self.setCurrentWidget(self.coupling)

    def toggle(self) -> None:
        """Show the front panel, or what is behind it."""
        if self.in_front:
            self.show_behind()
        else:
            self.ask_slots()

    def pick(self) -> None:
        """Bring values to the front by clicking on them."""
        self.front.pick()

    def _selected(self) -> None:
        aimed = self.session.selection.aimed
        if aimed == self._aimed:
            return
        self._aimed = aimed
        self.show_for(aimed)

    def show_for(self, path: str) -> None:
        """Show what belongs to a plate or an effect that was chosen, or clicked once more."""
        if kind_of(path) == "effect":
            self.show_behind()
        elif kind_of(path) == "plate" and front.owner_in_front(self.session):
            self.show_front()

    def _changed(self, found: set[str]) -> None:
        self.coupling.offer_front(bool(self.session.shot.front))
        if self.session.history is not self._history:  # another shot
            self._history, self._aimed = self.session.history, self.session.selection.aimed
            self.show_behind()
        elif len(self.session.shot.front) > self._count + 1 and front.owner_in_front(self.session):
            self.show_front()  # a starter was put on the plate
        self._count = len(self.session.shot.front)
