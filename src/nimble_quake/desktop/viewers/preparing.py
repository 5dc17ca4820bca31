"""The range that plays, computed beforehand: while one does nothing, or on request with its progress."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QObject, QTimer

from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.session.work import Work

IDLE = 1200
"""Milliseconds after the last change or move from which the range is prepared."""
LOOK = 150
"""Milliseconds from one look at how far it is to the next."""


class Preparing(QObject):
    """Prepares frames of the range that plays, from the playhead on, as many as there is memory for.

    A frame that is asked for comes first always: what is being prepared then is given up, and taken up again later.
    """

    def __init__(self, frames: Frames, show_work: Callable[[Work], None], preferences: Preferences) -> None:
        super().__init__(frames)
        self.frames, self._show_work, self.preferences = frames, show_work, preferences
        frames.scheduler.budget = preferences.frames_mb * 2**20
        self._work: Work | None = None
        self._range: frozenset[int] = frozenset()
        """The frames that are prepared on request."""
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._when_idle)
        self._look = QTimer(self)
        self._look.setInterval(LOOK)
        self._look.timeout.connect(self._count)
        frames.asked.connect(self.stop)
        frames.play_changed.connect(self.stop)
        frames.arrived.connect(self._rest)

    def begin(self) -> None:
        """Prepare the range now, and show how far it is."""
        self.stop()
        wanted, first, end = self._wanted(), *self.frames.span()
        if len(wanted) < end - first:
            self.frames.session.message.emit(
                f"{len(wanted)} of {end - first} frames fit into {self.frames.scheduler.budget // 2**20} MB: "
                "Preferences, memory for prepared frames"
            )
        self._work = Work("Prepare the range", len(wanted))
        self._show_work(self._work)
        self._range = frozenset(wanted)
        self._prepare(wanted)
        self._look.start()

    def stop(self) -> None:
        """Prepare no more; what is prepared stays."""
        self._look.stop()
        self._soon.stop()
        if self._work is not None:
            self._work.end()
            self._work = None
        if not self.frames.playing:
            self.frames.scheduler.prepare(())

    def _rest(self) -> None:
        if self.preferences.prepares and not self.frames.playing and self._work is None:
            self._soon.start(IDLE)

    def _when_idle(self) -> None:
        if self.frames.shot_override is not None:
            return  # a choice that is being tried
        self._prepare(self._wanted())

    def _prepare(self, wanted: list[int]) -> None:
        any_frame = self.frames.request(0, probe=False)
        self.frames.scheduler.prepare([replace(any_frame, frame=frame) for frame in wanted])

    def _wanted(self) -> list[int]:
        """The frames to prepare, the soonest first: as many as fit."""
        first, end = self.frames.span()
        here = min(max(self.frames.session.frame, first), end - 1)
        row = [*range(here, end), *range(first, here)]
        size = self.frame_size()
        return row[: max(1, self.frames.scheduler.budget // size)] if size else []

    def frame_size(self) -> int:
        """Return how many bytes a frame takes that is prepared, by the one that is shown."""
        last = self.frames.last
        if last is None:
            return 0
        shown = (last.picture, last.untouched, last.map, last.other_map)
        return sum(part.nbytes for part in shown if part is not None) + 8000

    def _count(self) -> None:
        if self._work is None:
            return
        if self._work.stopped:
            self.stop()
            return
        fresh = self.frames.prepared()
        self._work.done = sum(fresh.get(frame, False) for frame in self._range)
        if self._work.done >= self._work.total or not self.frames.scheduler.busy:
            self.stop()
