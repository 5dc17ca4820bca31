"""The menu of the shot's states: keep what is now, go back, compare."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from nimble_quake.desktop.viewers.against import Against
from nimble_quake.session.state import Session
from nimble_quake.session.states import states


class StatesMenu:
    """Opens the menu. `compare` is called when a state is to be seen beside what is now, or none any more."""

    def __init__(self, session: Session, against: Against, owner: QWidget, compare: Callable[[], object]) -> None:
        self.session, self.against, self.owner, self._compare = session, against, owner, compare

    def menu(self) -> QMenu:
        """Return the menu: the states, what is done with one, and with all."""
        menu = QMenu(self.owner)
        menu.addAction("Keep this state …", self.keep)
        kept = self.session.shot.states
        if kept:
            menu.addSection("Go to")
        for each in kept:
            action = menu.addAction(each.name, lambda id=each.id: states.go_to(self.session, id))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(states.is_now(self.session, each.id))
        if kept:
            menu.addSeparator()
            self._add(menu, "Compare with", self.compare, checked=self.against.id)
            self._add(menu, "Keep anew", lambda id: states.renew(self.session, id))
            self._add(menu, "Rename", self.rename)
            self._add(menu, "Take away", lambda id: states.remove(self.session, id))
        return menu

    def _add(self, menu: QMenu, words: str, does: Callable[[str], object], checked: str = "") -> None:
        part = menu.addMenu(words)
        assert part is not None
        for each in self.session.shot.states:
            action = part.addAction(each.name, lambda id=each.id: does(id))
            assert action is not None
            action.setCheckable(bool(checked))
            action.setChecked(each.id == checked)

    def keep(self) -> None:
        """Ask for a name, and keep all values as they are."""
        name, good = QInputDialog.getText(self.owner, "Keep this state", "Name", text=states.unused_name(self.session))
        if good and name.strip():
            states.keep(self.session, name.strip())

    def rename(self, id: str) -> None:
        """Ask for another name."""
        old = states.state(self.session, id)
        if old is not None:
            name, good = QInputDialog.getText(self.owner, "Rename the state", "Name", text=old.name)
            if good and name.strip():
                states.rename(self.session, id, name.strip())

    def compare(self, id: str) -> None:
        """Show a state beside what is now, parted by a line; or the untouched picture again."""
        self.against.id = "" if self.against.id == id else id
        self._compare()
