"""The chooser that swaps a step for another kind, its looks included; each is tried while it is under the pointer."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.operators.steps import Step
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.shot.model import Node
from nimble_quake.shot.paths import find


class SwapChooser(Chooser):
    """Shows the kind of the selected step; choosing another swaps it, and what both have in common stays."""

    def __init__(self, session: Session, frames: Frames) -> None:
        super().__init__("Swap this step for another kind")
        self.session, self.frames = session, frames
        self.setToolTip("Swap this step for another kind; what both have in common stays")
        self._family = ""
        self._looks: list[items.LookOfKind] = []
        self._open = False
        self.highlighted.connect(self._try)
        self.activated.connect(self._take)

    def show_step(self, path: str) -> None:
        """Show the step at a path; hidden where there is none that we know."""
        operator = self.session.operator(path) if path else None
        node = find(self.session.shot, path) if path else None
        self.setVisible(operator is not None)
        if operator is None or not isinstance(node, Node):
            return
        if operator.family != self._family:
            self._fill(operator.family)
        named = (look for look in self._looks if look.kind == node.kind)
        here = next((look for look in named if look.name and look.name == node.name), None)
        first = here or next(look for look in self._looks if look.kind == node.kind)
        self.setCurrentIndex(self._looks.index(first))

    def _fill(self, family: str) -> None:
        self._family, self._looks = family, []
        self.clear()
        for operator in self.session.engine.operators.all(family):
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

    def showPopup(self) -> None:
        self._open = True
        super().showPopup()

    def hidePopup(self) -> None:
        self._open = False
        super().hidePopup()
        self.frames.with_override(None)
