"""Ending as the system asks (Ctrl+C in the terminal, SIGTERM, SIGHUP): the work is kept for the next start."""

from __future__ import annotations

import os
import signal
from collections.abc import Callable

from PyQt6.QtCore import QSocketNotifier
from PyQt6.QtWidgets import QApplication
from PyQt6.sip import voidptr


def end_as_asked(app: QApplication, keep: Callable[[], object]) -> None:
    """Keep the work and leave the event loop, with the exit code 128 + signal, as soon as a signal comes.

    Python runs a handler only between two lines of Python, and Qt may wait in C for long: a byte in a pipe wakes it.
    """
    reading, writing = os.pipe()
    for end in (reading, writing):
        os.set_blocking(end, False)

    def handle(number: int, _: object) -> None:
        keep()
        app.exit(128 + number)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, handle)
    signal.set_wakeup_fd(writing, warn_on_full_buffer=False)
    notifier = QSocketNotifier(voidptr(reading), QSocketNotifier.Type.Read, app)
    notifier.activated.connect(lambda *_: _emptied(reading))
    app.destroyed.connect(lambda _: signal.set_wakeup_fd(-1))


def _emptied(reading: int) -> None:
    """Take the bytes that woke us; the handlers run on the way."""
    while True:
        try:
            if not os.read(reading, 64):
                return
        except BlockingIOError:
            return
