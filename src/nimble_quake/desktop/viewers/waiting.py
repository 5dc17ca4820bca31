"""Whether what is shown is what was asked for, or has been something older for a while."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

from nimble_quake.render.shown.request import BenchRequest, BenchResponse

LATE = 300
"""Milliseconds after which what is not what was asked for is dimmed."""


class Waiting:
    """Tells of the map and of the picture whether they are late. It ends only with what was asked for last."""

    def __init__(self, owner: QObject, notify: Callable[[bool, bool], object]) -> None:
        self._notify = notify
        self._wanted: BenchRequest | None = None
        self._map_is_there = self._late = False
        self._said = (False, False)
        self._timer = QTimer(owner)
        self._timer.setSingleShot(True)
        self._timer.setInterval(LATE)
        self._timer.timeout.connect(self._are_late)

    def begin(self, request: BenchRequest) -> None:
        """A request was asked for."""
        self._wanted, self._map_is_there = request, False
        if not self._timer.isActive():
            self._timer.start()

    def take(self, response: BenchResponse) -> None:
        """A response is there, or its map alone."""
        if response.request is not self._wanted:
            return
        if response.partial and response.picture is None:
            self._map_is_there = True
            self._say()
        else:
            self.end()

    def end(self) -> None:
        """What is shown is what was asked for, or nobody waits."""
        self._timer.stop()
        self._wanted, self._late, self._map_is_there = None, False, False
        self._say()

    def _are_late(self) -> None:
        self._late = self._wanted is not None
        self._say()

    def _say(self) -> None:
        now = (self._late and not self._map_is_there, self._late)
        if now != self._said:
            self._said = now
            self._notify(*now)
