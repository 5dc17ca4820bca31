"""Exceptions of a live copy, made and changed in the window as a person does."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QToolButton, QWidget

from driving import click, focused, named, press, type_text
from nimble_quake.session.verbs import grouping, maps

COPY = "plates/title-copy"


def test_a_value_of_the_original_is_picked_and_changed_in_the_copy(window, qtbot):
    session, panel = window.session, window.picture_bay.settings
    path = grouping.live_copy(session, "plates/title")
    click(named(window, "Add an exception"))
    assert session.selection.plate == "plates/title", "the original's values are shown, to be clicked"
    label = next(w for w in window.findChildren(QLabel) if w.isVisible() and w.text() == "Size")
    click(label)
    exceptions = session.shown(f"{path}/exceptions")
    assert exceptions == (("plates/title/size", "150"),)
    assert session.selection.plate == path
    qtbot.waitUntil(lambda: any(w.accessibleName() == "Size" for w in panel.findChildren(QWidget) if w.isVisible()))
    field = named(panel, "Size")
    click(field)
    assert focused() is not None
    type_text("60")
    press(Qt.Key.Key_Return)
    assert session.shown(f"{path}/exceptions") == (("plates/title/size", "60"),)
    assert session.shown("plates/title/size") == 150
    click(next(w for w in window.findChildren(QToolButton) if w.accessibleName().startswith("As in the original")))
    assert session.shown(f"{path}/exceptions") == ()


def test_a_value_of_something_else_is_refused_in_words(window):
    session = window.session
    path = grouping.live_copy(session, "plates/title")
    said: list[str] = []
    session.message.connect(said.append)
    click(named(window, "Add an exception"))
    click(next(w for w in window.map_bay.findChildren(QLabel) if w.isVisible() and w.text() == "Octaves"))
    assert "no value of the original" in said[-1]
    assert session.shown(f"{path}/exceptions") == ()


def test_a_map_is_copied_with_exceptions_too(window, qtbot):
    """Another map as a source: a value of the original's step is clicked, and is another one in the copy."""
    session = window.session
    (first, *_) = session.shot.maps
    original = f"maps/{first.id}"
    path = maps.live_copy(session, original)
    assert session.selection.step.startswith(path)
    copy = session.selection.step
    click(named(window, "Add an exception"))
    assert session.selection.map == original
    session.select(map=original, step=f"{original}/steps/{first.recipe[0].id}")
    label = next(w for w in window.map_bay.findChildren(QLabel) if w.isVisible() and w.text() == "Octaves")
    click(label)
    ((exception, text),) = session.shown(f"{copy}/exceptions")
    assert exception == f"{original}/steps/{first.recipe[0].id}/octaves"
    assert text == "4"
    assert session.selection.step == copy
    session.undo()
    assert session.shown(f"{copy}/exceptions") == ()
