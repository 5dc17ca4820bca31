"""The chooser that swaps a step for another kind, its looks included; each is tried while it is under the pointer."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFocusEvent

from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.operators.base import Operator
from nimble_quake.operators.steps import Step
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find


class SwapChooser(Chooser):
    """Shows the kind of the selected step; choosing another swaps it, and what both have in common stays.

    What else there is it lists once it has the keys or is opened: all kinds of a family are loaded for that.
    """

    def __init__(self, session: Session, frames: Frames) -> None:
        super().__init__("Swap this step for another kind")
        self.session, self.frames = session, frames
        self.setToolTip("Swap this step for another kind; what both have in common stays")
        self._listed: list[type[Operator]] = []
        self._looks: list[items.LookOfKind] = []
        self._open = False
        self.opens.connect(self._list_all)
        self.highlighted.connect(self._try)
        self.activated.connect(self._take)

    def show_step(self, path: str) -> None:
        """Show the step at a path; hidden where there is none that we know."""
        operator = self.session.operator(path) if path else None
        node = find(self.session.shot, path) if path else None
        self.setVisible(operator is not None)
        if operator is None or not isinstance(node, Node):
            return
        if operator not in self._listed:
            self._list([operator])
        if self.hasFocus():
            self._list_all()
        self._show_kind(node)

    def _show_kind(self, node: Node) -> None:
        looks = [look for look in self._looks if look.kind == node.kind]
        here = next((look for look in looks if look.name and look.name == node.name), None)
        self.setCurrentIndex(self._looks.index(here or looks[0]))

    def _list_all(self) -> None:
        """List every kind of the step's family; what is shown stays."""
        path = self.session.selection.step
        operator, node = self.session.operator(path) if path else None, find(self.session.shot, path) if path else None
        if operator is not None and isinstance(node, Node):
            self._list(self.session.engine.operators.all(operator.family))
            self._show_kind(node)

    def _list(self, operators: list[type[Operator]]) -> None:
        if operators == self._listed:
            return
        self._listed, self._looks = operators, []
        self.clear()
        for operator in operators:
            if not issubclass(operator, Step):
                continue
            for name, help, values in (("", operator.help, {}), *operator.looks):
                self._looks.append(items.LookOfKind(operator.kind, name, values))
                self.addItem(f"{operator.title}: {name.lower()}" if name else operator.title)
                self.setItemData(self.count() - 1, help, Qt.ItemDataRole.ToolTipRole)

    def _try(self, index: int) -> None:
        path = self.session.selection.step
        if self._open and path and 0 <= index < len(self._looks):
            self.frames.with_override(items.with_look(self.session.shot, path, self._looks[index]))

    def _take(self, index: int) -> None:
        if self.session.selection.step:
            items.swap_look(self.session, self.session.selection.step, self._looks[index])

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._list_all()
        super().focusInEvent(event)

    def showPopup(self) -> None:
        self._open = True
        super().showPopup()

    def hidePopup(self) -> None:
        self._open = False
        super().hidePopup()
        self.frames.with_override(None)
