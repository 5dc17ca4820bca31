"""The name of a dial: back to its standard by a double-click, its menu, and a mark where a value has left it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QContextMenuEvent, QMouseEvent
from PyQt6.QtWidgets import QInputDialog, QLabel, QMenu

from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.operators.front.turning import left
from nimble_quake.params.drives import drives_in
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front, items
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find, siblings


class DialLabel(QLabel):
    """A dial's name. `help`: what turning it up does."""

    def __init__(self, session: Session, path: str, help: str, more: Callable[[], object]) -> None:
        super().__init__()
        self.session, self.path, self._help, self._more = session, path, help, more
        self.setFont(font())
        self.setMinimumWidth(30)
        self.setFixedHeight(20)
        self.refresh()

    def refresh(self) -> None:
        """Show its name, and whether all that stands behind it is what it says."""
        node = find(self.session.shot, self.path)
        if not isinstance(node, Node):
            return
        gone = left(self.session.shot, node)
        name = self.session.name_of(self.path)
        tone(self, "brass_text" if gone else "quiet")
        self.setText(f"! {name}" if gone else name)
        behind = ", ".join(front.whole_name(self.session, drive.path) for drive in drives_in(node.values))
        said = f"{len(gone)} of its values changed by hand: right-click to put back. " if gone else ""
        self.setToolTip(f"{said}{self._help}. Double-click: back to its standard.\nBehind it: {behind}")

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        front.to_standard(self.session, self.path)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.menu().exec(event.globalPos())

    def menu(self) -> QMenu:
        """Return what can be done with a dial."""
        session, path, menu = self.session, self.path, QMenu(self)
        node = find(session.shot, path)
        if not isinstance(node, Node):
            return menu
        if left(session.shot, node):
            menu.addAction("Put back what was changed by hand", lambda: front.put_back_on(session, path))
            menu.addAction("Go on from what was changed by hand", lambda: front.take_as_is(session, path))
            menu.addSeparator()
        menu.addAction("Back to its standard", lambda: front.to_standard(session, path))
        menu.addAction("Make this its standard", lambda: front.make_standard(session, path))
        menu.addSeparator()
        menu.addAction("Rename …", self._rename)
        row = siblings(session.shot, path)
        at = row.index(path)
        for words, to in (("Move up", at - 1), ("Move down", at + 1)):
            action = menu.addAction(words, lambda to=to: items.move_item(session, path, to))
            if action is not None:
                action.setEnabled(0 <= to < len(row))
        menu.addAction("Its range, its words, what is behind it …", lambda: self._more())
        menu.addSeparator()
        menu.addAction("Take it from the front", lambda: front.take_back(session, path))
        return menu

    def _rename(self) -> None:
        name, good = QInputDialog.getText(self, "Rename the dial", "Name", text=self.session.name_of(self.path))
        if good and name.strip():
            items.rename(self.session, self.path, name.strip())
