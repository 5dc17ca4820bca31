"""Collect: the shot with all its media into a folder or zip, copied aside, with progress and a way to stop."""

from __future__ import annotations

import threading
from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QFileDialog, QWidget

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.errors import Cancelled, NimbleQuakeError
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.collecting import collect_all, needed_by
from nimble_quake.session.work import Work
from nimble_quake.shotfile.collected import ZIP, Collection

FILTER = f"A folder (*);;A zip (*{ZIP})"


class Collecting(QObject):
    """Copies one shot at a time."""

    def __init__(self, window: QWidget, session: Session, status: StatusLine) -> None:
        super().__init__(window)
        self._window, self._session, self._status = window, session, status
        self._work: Work | None = None
        self._thread: threading.Thread | None = None
        self._hand_over = on_window_thread(self, self._say)

    @property
    def busy(self) -> bool:
        """Whether a shot is being copied."""
        return self._thread is not None and self._thread.is_alive()

    def ask(self) -> None:
        """Ask for a new folder, or a zip, and copy the shot into it."""
        if self.busy:
            self._status.say("A shot is being collected already")
            return
        what = needed_by(self._session.to_keep(), self._session.path)
        home = self._session.path.parent if self._session.path is not None else Path.home()
        name, chosen = QFileDialog.getSaveFileName(self._window, "Collect into", str(home / what.name), FILTER)
        if name:
            to = Path(name)
            self.begin(what, to.with_name(to.name + ZIP) if ZIP in chosen and to.suffix.lower() != ZIP else to)

    def begin(self, what: Collection, to: Path) -> None:
        """Copy what a shot needs, aside."""
        work = self._work = Work(f"Collecting {what.name}", what.size // 1000)
        self._status.show_work(work)

        def copy() -> None:
            try:
                collect_all(what, to, work)
                left = f"; {len(what.missing)} files are not there" if what.missing else ""
                said, good = f"Collected in {to}: {len(what.files)} files{left}", not what.missing
            except Cancelled:
                said, good = "Nothing was collected", True
            except NimbleQuakeError as wrong:
                said, good = wrong.line(), False
            finally:
                work.end()
            self._hand_over(said, good)

        self._thread = threading.Thread(target=copy, name="collecting", daemon=True)
        self._thread.start()

    def _say(self, said: str, good: bool) -> None:
        (self._status.say if good else self._status.report_problem)(said)

    def shut(self) -> None:
        """Stop what is under way; nothing of it stays."""
        if self._work is not None and self._thread is not None:
            self._work.stop()
            self._thread.join(5)
