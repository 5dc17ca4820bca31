"""The name of a value beside its editor."""

from __future__ import annotations

from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QLabel, QWidget

from nimble_quake.desktop.theme.look import tone
from nimble_quake.params.kinds import Param
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value


class NameLabel(QLabel):
    """A value's name; a double-click goes back to the default."""

    def __init__(self, session: Session, path: str, param: Param) -> None:
        super().__init__(param.label)
        self._holder: QWidget | None = None
        self._name = param.label
        self.session, self.path, self.param = session, path, param
        unit = param.unit
        self._help = f"{param.help}{f' ({unit})' if unit else ''}. Double-click: back to its default."
        self._why = self._dials = ""
        self.setToolTip(self._help)
        self.setMinimumWidth(20)

    def show_fault(self, why: str) -> None:
        """Mark a value that is not what its motion says now, and say why; empty: it is."""
        if why == self._why:  # asked for each frame that plays
            return
        self._why = why
        tone(self, "fault_text" if why else "quiet")
        self.setText(f"! {self._name}" if why else self._name)
        self.setToolTip(why or self._help)

    def show_dials(self, names: str) -> None:
        """Mark a value that stands behind a dial, and say which; empty: it stands behind none."""
        if names == self._dials:
            return
        self._dials = names
        marked = self.font()
        marked.setUnderline(bool(names))
        self.setFont(marked)
        if not self._why:
            self.setToolTip(f"{self._help}\nGoes along with the dial {names}." if names else self._help)

    def show_name(self, name: str) -> None:
        """Call the row so; a mark of a fault stays."""
        if name != self._name:
            self._name = name
            self.setText(f"! {name}" if self._why else name)

    def watch(self, holder: QWidget) -> None:
        """Let what holds it be seen while it is."""
        self._holder = holder

    def setVisible(self, visible: bool) -> None:
        super().setVisible(visible)
        if self._holder is not None:
            self._holder.setVisible(visible)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        label = f"Back to default: {self.session.label_of(self.path)}"
        self.session.edit(label, set_value(self.session.shot, self.path, None))
