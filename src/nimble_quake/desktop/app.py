"""Starting the desktop program."""

from __future__ import annotations

import gc
import os
import sys
import time
from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QApplication

from nimble_quake.desktop.ending import end_as_asked
from nimble_quake.desktop.faults import catch_faults
from nimble_quake.desktop.theme import look
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.raster.threads.memory import give_back, memory_mb
from nimble_quake.samples import FOLDER
from nimble_quake.session.kernels import compile_apart, compile_aside
from nimble_quake.session.leftovers import sweep_aside
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences as prefs
from nimble_quake.session.storage import recovery

MUCH_MEMORY = 800
"""MB from which on freed memory goes back to the system now and then; below, keeping it makes frames faster."""

SETTLED = 2
"""After so many collections of garbage all modules, classes and the window are there."""


def collect_here(app: QApplication) -> None:
    """Let Python collect garbage only from this thread's event loop.

    A collection can start on any thread at any allocation; one that begins on a render thread, or inside a paint
    event, and finds an old widget there, deletes it in the wrong place.
    """
    if app.findChild(QTimer, "collector") is not None:
        return
    gc.disable()
    runs = 0

    def collect() -> None:
        nonlocal runs
        runs += 1
        if runs <= SETTLED:  # what is there by now stays, and going through it takes 20 to 70 ms
            gc.freeze()
        else:
            gc.collect(1 if gc.get_count()[2] < 12 else 2)

    timer = QTimer(app)
    timer.setObjectName("collector")
    timer.setInterval(1500)
    timer.timeout.connect(collect)
    timer.start()
    spare = QTimer(app)
    spare.setInterval(20_000)
    spare.timeout.connect(lambda: give_back() if memory_mb() > MUCH_MEMORY else None)
    spare.start()


def application(theme: str) -> QApplication:
    """Return the application, dressed in a theme."""
    found = QApplication.instance()
    app = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Nimble Quake")
    app.setDesktopFileName("nimble-quake")
    look.apply(app, theme)
    app.setLayoutDirection(Qt.LayoutDirection.LeftToRight)  # all that is painted here lies so, whatever the language
    sys.setswitchinterval(0.001)  # render threads wait less for a window that paints, and it for them
    collect_here(app)
    return app


def is_sample(shot: Path) -> bool:
    """Return whether a file is one of our sample shots, which are saved under names of their own."""
    return shot.absolute().is_relative_to(FOLDER)


def make_window(shot: Path | None = None, preferences: prefs.Preferences | None = None) -> BenchWindow:
    """Return a window with a shot open; a file that cannot be opened leaves a new shot and a message."""
    window = BenchWindow(Session(), preferences or prefs.Preferences())
    if shot is not None and window.files.open_path(shot) and is_sample(shot):
        window.session.path = None
        window.top.show_shot()
    return window


def load_the_rest(window: BenchWindow) -> None:
    """Load all operators once the first picture is there: boards and lists will ask for them."""

    def load() -> None:
        window.session.engine.operators.all()

    def begin(_: object) -> None:
        window.frames.arrived.disconnect(begin)
        window.frames.scheduler.later("operators", load)

    window.frames.arrived.connect(begin)


def start(shot: Path | None) -> int:
    """Run the program until its window is closed. Returns the exit code."""
    compile_apart()
    preferences = prefs.load()
    app = application(preferences.theme)
    window = make_window(shot, preferences)
    catch_faults(window.tell_fault, window.keeping.autosave)
    end_as_asked(app, window.keeping.leave_behind)
    window.show_fitted()
    load_the_rest(window)
    sweep_aside(preferences)
    window.queue.start()  # what was interrupted goes on
    compiling = compile_aside()
    if compiling is not None:
        window.status.show_work(compiling)
    if shot is None and preferences.start_page:
        window.beginning.show()
    elif shot is not None and is_sample(shot):
        window.frames.play()
    leave = os.environ.get("NIMBLE_QUAKE_QUIT")  # "window" or "frame": the bench and the smoke test time a start
    if leave == "window":
        QTimer.singleShot(0, lambda: _leave(window))
    elif leave:
        window.frames.arrived.connect(lambda _: QTimer.singleShot(0, lambda: _leave(window)))
    else:
        QTimer.singleShot(0, lambda: offer_recovery(window))
    code = int(app.exec())
    if compiling is not None:
        compiling.stop()
    window.frames.shut()
    window.deleteLater()
    app.processEvents()
    return code


def _leave(window: BenchWindow) -> None:
    """Say that what was waited for is there, for whoever takes the time, and close."""
    print("ready", flush=True)
    window.close()


def offer_recovery(window: BenchWindow) -> None:
    """Offer what sessions that did not end well have left, in the status line."""
    if not window.beginning.shown:  # the page shows it by itself
        window.lost.offer(recovery.lost_shots())


def save_picture(shot: Path, target: Path, *, frame: int = 40, size: tuple[int, int] = (1280, 800)) -> None:
    """Save a picture of the window with a shot open, without a display."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = application("dark")
    window = make_window(shot)
    window.resize(*size)
    window.show()
    window.session.set_frame(frame)
    settle(app, window)
    window.grab().save(str(target))
    window.session.saved = window.session.shot
    window.close()


def settle(app: QApplication, window: BenchWindow, seconds: float = 10.0) -> None:
    """Let the window come to rest: frames arrived, small pictures made."""
    until = time.monotonic() + seconds
    calm = 0
    while time.monotonic() < until and calm < 30:
        app.processEvents()
        time.sleep(0.01)
        busy = window.frames.scheduler.busy or window.frames.last is None
        calm = 0 if busy else calm + 1
