"""While a number is dragged the pictures come first; what stands beside them follows, and ends where the hand does."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from PyQt6.QtCore import QObject, QPoint, Qt

from driving import LEFT, QTest, arrived, focused
from nimble_quake.desktop.pacing import paced
from nimble_quake.desktop.viewers import frames
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.session.state import Session

NONE = Qt.KeyboardModifier.NoModifier


def row_of(window, name: str) -> str:
    """What the row of an effect says beside its name."""
    return next(row.note for row in window.picture_bay.stack.rows if row.title == name)


def test_every_picture_is_seen_and_the_rest_follows(window, qtbot, monkeypatch):
    monkeypatch.setattr(frames, "COARSE_FROM", 1e9)
    arrived(window, qtbot)
    field = window.coupling.settings.editors["reach_x"].field
    shown = []
    window.frames.partly_arrived.connect(lambda response: shown.append(response))
    field.setFocus()
    assert focused() == field
    said = row_of(window, "Push")
    QTest.mousePress(field, LEFT, NONE, QPoint(40, 10))
    for n in range(5):
        QTest.mouseMove(field, QPoint(46 + 8 * n, 10))
        shot = window.session.shot
        qtbot.waitUntil(
            lambda of=shot: bool(shown) and shown[-1].picture is not None and shown[-1].request.shot is of,
            timeout=20_000,
        )
        assert field.number == window.session.shown("plates/title/effects/push/reach_x")
    QTest.mouseRelease(field, LEFT, NONE, QPoint(46 + 32, 10))
    pictures = [response.picture for response in shown if response.picture is not None]
    assert all((one != other).any() for one, other in zip(pictures, pictures[1:], strict=False))
    qtbot.waitUntil(lambda: window.frames.last.request.shot is window.session.shot, timeout=20_000)
    assert np.array_equal(window.frames.last.picture, pictures[-1])
    assert window.frames.last.reading is not None
    qtbot.waitUntil(lambda: row_of(window, "Push") != said, timeout=5000)


def test_what_is_removed_is_told_at_once(window):
    field = window.coupling.settings.editors["reach_x"].field
    field.setFocus()
    window.session.begin("Remove within a gesture")
    rows = len(window.picture_bay.stack.rows)
    title = window.session.shot.plate("title")
    plates = tuple(plate for plate in window.session.shot.plates if plate is not title)
    window.session.change(replace(window.session.shot, plates=plates))
    assert len(window.picture_bay.stack.rows) < rows
    window.session.abort()
    assert len(window.picture_bay.stack.rows) == rows


def test_nothing_that_waits_is_lost_where_all_is_shown_anew(app, monkeypatch):
    """A shot that is saved says that anything may be another: what was dragged is told first, then that."""
    session, owner, told = Session(), QObject(), []
    changed = paced(owner, session, lambda found: told.append(set(found)), elsewhere=lambda: True)
    session.begin("Drag")
    changed({"plates/a"})
    changed({"plates/b"})
    assert told == [], "it waits"
    changed(set())
    assert told == [{"plates/a", "plates/b"}, set()]
    changed({"plates/c"})
    changed({"shape"})
    assert told[2:] == [{"plates/c", "shape"}]
    session.commit()
    changed({"plates/d"})
    assert told[3:] == [{"plates/d"}], "nothing is dragged"


def test_a_picture_that_is_shown_is_not_converted_again(app):
    viewer = Viewer("Picture viewer", ViewState())
    picture = np.zeros((4, 6, 4), np.uint8)
    viewer.show_picture(picture)
    image = viewer.image
    viewer.show_picture(picture)
    assert viewer.image is image
    viewer.show_picture(picture, picture)
    assert viewer.image is not image
    assert viewer.second is not None
    viewer.show_picture(None)
    assert (viewer.image, viewer.second) == (None, None)
