"""What the tests of the window share: waiting for a frame, dragging."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

LEFT = Qt.MouseButton.LeftButton
REACH = "plates/title/quakes/push/reach_x"


def arrived(window, qtbot) -> None:
    """Wait for the frame of what is set now."""
    frames = window.frames
    frames.last = None
    frames.ask()

    def here() -> bool:
        wanted = frames.request(window.session.frame, probe=True)
        return frames.last is not None and frames.last.request == wanted

    qtbot.waitUntil(here, timeout=20_000)


def drag(widget: QWidget, start: QPoint, end: QPoint, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mousePress(widget, LEFT, modifiers, start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, start + (end - start) * share)
        QTest.qWait(1)
    QTest.mouseRelease(widget, LEFT, modifiers, end)
