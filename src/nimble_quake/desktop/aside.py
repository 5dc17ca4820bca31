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
    """Runs calls on the thread it was made on; lives as long as the application."""

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
    if not _carriers or sip.isdeleted(_carriers[-1]):  # it goes with the application, of which a test may have several
        _carriers[:] = [_Carrier()]
    carrier = _carriers[-1]

    def hand_over(*args: P.args, **kwargs: P.kwargs) -> None:
        def call() -> None:
            if not sip.isdeleted(owner):
                take(*args, **kwargs)

        if not sip.isdeleted(carrier):
            carrier.call.emit(call)

    return hand_over
