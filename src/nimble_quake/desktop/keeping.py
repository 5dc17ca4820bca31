"""Unsaved work is kept: written now and then where a later session finds it, and lies there when the program ends."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from nimble_quake.desktop.dialogs.render_dialog import RenderDialog
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.session.state import Session
from nimble_quake.session.storage import recovery


class Keeping:
    """Writes what is not saved every so many seconds."""

    def __init__(self, window: QWidget, session: Session, status: StatusLine, seconds: int) -> None:
        self.window, self.session, self.status = window, session, status
        self.unsaved = recovery.Autosave()
        self._timer = QTimer(window)
        self._timer.setInterval(seconds * 1000)
        self._timer.timeout.connect(self.autosave)
        self._timer.start()

    def autosave(self) -> bool:
        """Write what is not saved where a later session will find it. Returns whether it is safe."""
        try:
            if self.session.dirty:
                self.unsaved.write(self.session.to_keep(), self.session.path)
            else:
                self.unsaved.forget()
            return True
        except NimbleQuakeError as wrong:
            self.status.say(wrong.line(), "fault_text")
            return False

    def leave_behind(self) -> None:
        """Make ready to end without a question: renders are stopped, what is not saved lies there at the next start."""
        for dialog in self.window.findChildren(RenderDialog):
            dialog.end()
        if self.autosave() and not self.session.dirty:
            self.unsaved.close()

    def close(self) -> None:
        """End it: what was written is of no use any more."""
        self._timer.stop()
        self.unsaved.close()
