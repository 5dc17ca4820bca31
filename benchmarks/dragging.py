"""A number dragged with the mouse, and how long its picture takes to be on the screen."""

from __future__ import annotations

import statistics
import time
from typing import Any

from PyQt6 import QtTest
from PyQt6.QtCore import QCoreApplication, QEventLoop, QPoint, Qt
from PyQt6.QtWidgets import QApplication

from nimble_quake.desktop.app import settle
from nimble_quake.desktop.viewers import frames
from nimble_quake.desktop.window import BenchWindow
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.shot.model import Shot

COUNT, WARM = 60, 10
MOUSE: Any = QtTest.QTest
"""Its stubs declare its static functions as methods."""
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def dragged(app: QApplication, made: BenchWindow, *, coarse: bool) -> float:
    """Return the milliseconds from a move of the mouse over a number until its picture is painted.

    The next move comes at once. coarse: the first picture is at half the preview's scale, as where frames are slow.
    """
    shown: list[Shot] = []

    def take(response: BenchResponse) -> None:
        if response.picture is not None:
            shown.append(response.request.shot)

    made.frames.arrived.connect(take)
    made.frames.partly_arrived.connect(take)
    usual, frames.COARSE_FROM = frames.COARSE_FROM, -1.0 if coarse else 1e9
    editor: Any = made.coupling.settings.editors["reach_y"]
    field = editor.field
    field.setFocus()
    MOUSE.mousePress(field, LEFT, NONE, QPoint(30, 8))
    taken: list[float] = []
    for n in range(WARM + COUNT):
        began = time.perf_counter()
        MOUSE.mouseMove(field, QPoint(36 + n, 8))
        while not shown or shown[-1] is not made.session.shot:
            QCoreApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        made.picture_bay.viewer.repaint()
        taken.append((time.perf_counter() - began) * 1000)
    MOUSE.mouseRelease(field, LEFT, NONE, QPoint(36 + WARM + COUNT, 8))
    frames.COARSE_FROM = usual
    settle(app, made)
    return statistics.median(taken[WARM:])
