"""From other threads back to the window's: results are handed over by an object that is never deleted.

A signal of a widget that is emitted by another thread while the widget goes away ends the program; so no thread but the
window's own touches a signal of anything that can go away.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import ParamSpec

from PyQt6 import sip
from PyQt6.QtCore import QObject, pyqtSignal

P = ParamSpec("P")


class _Carrier(QObject):
    """Runs calls on the thread it was made on; lives as long as the program."""

    call = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.call.connect(self._run)

    def _run(self, call: Callable[[], None]) -> None:
        call()


_carriers: list[_Carrier] = []


def on_window_thread(owner: QObject, take: Callable[P, None]) -> Callable[P, None]:
    """Return a function for any thread, which lets `take` be called on the window's; not if `owner` is gone by then.

    Ask for it on the window's thread.
    """
    if not _carriers:
        _carriers.append(_Carrier())
    emit = _carriers[0].call.emit

    def hand_over(*args: P.args, **kwargs: P.kwargs) -> None:
        def call() -> None:
            if not sip.isdeleted(owner):
                take(*args, **kwargs)

        emit(call)

    return hand_over
