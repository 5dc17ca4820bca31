"""A real window, offscreen, with a small shot; it must close without leaving threads behind."""

from __future__ import annotations

import gc
import threading
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication, QMessageBox

from nimble_quake.desktop.app import application, make_window
from nimble_quake.desktop.theme import roles
from nimble_quake.desktop.viewers import preparing
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.media.pool import MediaPool
from nimble_quake.render.engine import Engine
from nimble_quake.samples import sample_path
from nimble_quake.session import state

OPEN = Callable[..., BenchWindow]
FILES = MediaPool()
"""The files of all windows: a clip that one has decoded as far as the playhead is not decoded again by the next."""


@pytest.fixture
def app(qapp: QApplication) -> QApplication:
    """The application in its dark theme; dressing it takes seconds, so it is done when it is not."""
    if not qapp.property("dressed") or roles.roles() is not roles.DARK:
        application("dark")
        qapp.setProperty("dressed", True)
    return qapp


@pytest.fixture
def opened(app: QApplication, qtbot, monkeypatch: pytest.MonkeyPatch) -> Iterator[OPEN]:
    """Returns a function that opens a shot in a window and waits for its first frame."""
    made: list[BenchWindow] = []
    monkeypatch.setattr(QMessageBox, "question", lambda *a, **k: QMessageBox.StandardButton.Discard)
    monkeypatch.setattr(state, "Engine", partial(Engine, media=FILES))
    monkeypatch.setattr(preparing, "IDLE", 3_600_000)  # nothing is prepared unless a test asks for it

    def open_shot(path: Path | None = None, size: tuple[int, int] = (1280, 800)) -> BenchWindow:
        window = make_window(path)
        window.resize(*size)
        window.show()
        made.append(window)
        qtbot.waitUntil(lambda: window.frames.last is not None, timeout=30_000)
        return window

    yield open_shot
    for window in made:
        window.close()
        window.deleteLater()
    made.clear()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    app.processEvents()
    gc.collect()
    left = [thread.name for thread in threading.enumerate() if thread.name.startswith(("frames-", "render"))]
    assert left == []


@pytest.fixture
def window(opened: OPEN) -> BenchWindow:
    """The bench with the first sample."""
    return opened(sample_path())
