"""Cover: working out, aside, by how much a plate must be enlarged so that no gap shows."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from nimble_quake.desktop.aside import on_window_thread
from nimble_quake.desktop.lines.status_line import StatusLine
from nimble_quake.desktop.time.rows import span_of
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.render.shown.cover import cover_over
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects
from nimble_quake.session.work import Work
from nimble_quake.shot.paths import find


class Covering(QObject):
    """Looks through a plate's frames on a render thread, then enlarges it; another asking ends the one before."""

    def __init__(self, session: Session, frames: Frames, status: StatusLine) -> None:
        super().__init__(status)
        self.session, self.frames, self.status = session, frames, status
        self._work: Work | None = None
        self._hand_over = on_window_thread(self, self._take)

    def begin(self, path: str, *, moving: bool) -> None:
        """Look through all frames of a plate's span; `moving`: every frame gets what it needs itself."""
        self.stop()
        engine, shot, hand_over = self.session.engine, self.session.shot, self._hand_over
        first, end = span_of(self.session, path)
        frames = range(max(0, first), min(shot.length, max(first + 1, end)))
        work = self._work = Work(f"Cover for {self.session.name_of(path)}", len(frames))
        self.status.show_work(work)

        def look() -> None:
            found = cover_over(engine, shot, path, work.counted(frames))
            work.end()
            if not work.stopped:
                hand_over(path, found, moving)

        self.frames.scheduler.later("cover", look)

    def stop(self) -> None:
        """Stop what is under way; the plate stays as it is."""
        if self._work is not None:
            self._work.stop()

    def _take(self, path: str, needed: dict[float, float], moving: bool) -> None:
        if find(self.session.shot, path) is not None:
            effects.cover_plate(self.session, path, needed, moving=moving)
