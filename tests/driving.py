"""What the tests of the window share: waiting for a frame, dragging."""

from __future__ import annotations

from typing import Any

from PyQt6 import QtTest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session
from nimble_quake.shot.model import Map, Node, Plate, Shot

QTest: Any = QtTest.QTest
"""Its stubs declare its static functions as methods."""

LEFT = Qt.MouseButton.LeftButton
REACH = "plates/title/effects/push/reach_x"


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
        at = start + (end - start) * share
        if modifiers == Qt.KeyboardModifier.NoModifier:
            QTest.mouseMove(widget, at)
        else:  # mouseMove knows of no keys
            places = QPointF(at), QPointF(widget.mapToGlobal(at))
            kind = QEvent.Type.MouseMove
            QApplication.sendEvent(widget, QMouseEvent(kind, *places, Qt.MouseButton.NoButton, LEFT, modifiers))
        QTest.qWait(1)
    QTest.mouseRelease(widget, LEFT, modifiers, end)


def focused() -> QWidget:
    """What has the keyboard, as a person's keys go to it."""
    found = QApplication.focusWidget()
    assert found is not None, "nothing has the focus"
    return found


def press(key: Qt.Key, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
    """Press a key on whatever has the focus."""
    QTest.keyClick(focused(), key, modifiers)


def type_text(text: str) -> None:
    """Type a text, each letter into whatever has the focus then."""
    for letter in text:
        QTest.keyClicks(focused(), letter)


def named(window: QWidget, name: str, kind: Any = QWidget) -> Any:
    """The visible widget a screen reader calls by this name."""
    found = [w for w in window.findChildren(kind) if w.isVisible() and w.accessibleName() == name]
    assert found, f"nothing is called {name!r}"
    return found[0]


def click(widget: QWidget, at: QPoint | None = None, button=LEFT) -> None:
    """Click a widget at a place, else in its middle."""
    QTest.mouseClick(widget, button, pos=widget.rect().center() if at is None else at)


def session_with(family: str, kind: str) -> tuple[Session, str]:
    """A session whose shot has the operator, and its path."""
    node = Node(id="x", kind=kind)
    session = Session()
    if family in ("source", "shaper"):
        steps = (node,) if family == "source" else (Node(id="base", kind="noise"), node)
        session.take(Shot(maps=(Map(id="m", name="M", recipe=steps),)))
        return session, "maps/m/steps/x"
    if family in ("quake", "finish"):
        session.take(Shot(plates=(Plate(id="p", kind="fill", effects=(node,)),)))
        return session, "plates/p/effects/x"
    if family == "sound":
        session.take(Shot(bands=(node,)))
        return session, "bands/x"
    if family == "front":
        session.take(Shot(front=(node,)))
        return session, "front/x"
    session.take(Shot(plates=(Plate(id="x", kind=kind),)))
    return session, "plates/x"


def unfolded(panel: SettingsPanel, kind: str) -> None:
    operators = [op for op in registry().all() if op.kind == kind]
    panel.opened[kind] = [section for op in operators for section in op.sections]
