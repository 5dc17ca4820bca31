"""Escape in mid-drag, in every editor of every operator: the value and the history are as they were before."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractButton, QComboBox, QMainWindow, QWidget

from driving import QTest, press, session_with, unfolded
from nimble_quake.desktop.letting_go import lets_go
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.settings.picture_editors import ColourWell
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session

KINDS: dict[tuple[str, ...], tuple[str, str]] = {}
for operator in registry().all():  # one for each set of editors: their parameters' sorts and traits
    traits = sorted({f"{param.kind} {param.unit} {param.accumulates}" for param in operator.declared.values()})
    KINDS.setdefault(tuple(traits), (operator.family, operator.kind))
UNDRAGGED = (QAbstractButton, QComboBox, Chooser, ColourWell)
ROWS = sorted(KINDS.values())


class Window(QMainWindow):
    """What holds the panel, and takes the keys that nobody takes, as the program's own window does."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        lets_go(self.session, event)


def parts_of(editor: QWidget) -> list[QWidget]:
    """The widgets of an editor that may be dragged; a button, or a list, does something else when it is pressed."""
    parts = [editor, *editor.findChildren(QWidget)]
    return [part for part in parts if part.isVisible() and part.width() > 12 and not isinstance(part, UNDRAGGED)]


@pytest.mark.parametrize(("family", "kind"), ROWS, ids=[f"{f}-{k}" for f, k in ROWS])
def test_a_drag_is_taken_back(app, qtbot, family, kind):  # type: ignore[no-untyped-def]
    session, path = session_with(family, kind)
    window = Window(session)
    qtbot.addWidget(window)
    panel = SettingsPanel(session, "brass", names=62)
    window.setCentralWidget(panel)
    window.resize(288, 900)
    unfolded(panel, kind)
    window.show()
    panel.show_node(path)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    panel.setFocus()
    for name, editor in list(panel.editors.items()):
        for part in parts_of(editor):
            before, steps = session.shot, len(session.history.past)
            places = [QPoint(part.width() * n // 10, part.height() // 2) for n in (5, 7, 9, 2, 4)]
            QTest.mousePress(part, Qt.MouseButton.LeftButton, pos=places[0])
            for place in places[1:3]:
                QTest.mouseMove(part, place)
            moved = session.history.gesturing and session.shot != before
            if moved:
                press(Qt.Key.Key_Escape)
                assert session.shot == before, name
                for place in places[3:]:
                    QTest.mouseMove(part, place)
            QTest.mouseRelease(part, Qt.MouseButton.LeftButton, pos=places[-1])
            if moved:
                assert not session.history.gesturing, name
                assert not session.awaits_release, f"{name}: the next change would be passed over"
                assert (session.shot, len(session.history.past)) == (before, steps), name


def test_what_comes_after_it_counts(app):
    """The drag is over with its button; the next gesture, step or typed number is one of its own."""
    session, path = session_with("source", "noise")
    for end in (session.commit, lambda: session.begin("Another"), lambda: session.edit("Other", session.shot)):
        session.begin("Drag")
        session.set(f"{path}/octaves", 2.0)
        session.let_go()
        session.set(f"{path}/octaves", 3.0)
        assert session.raw(f"{path}/octaves") is None
        end()
        session.set(f"{path}/octaves", 5.0)
        assert session.raw(f"{path}/octaves") == 5.0
        session.commit()
        session.undo()
