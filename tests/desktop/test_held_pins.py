"""Marks of switches, choices and words: one click pins them, they get a row in the strip, a change is a pin."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QWidget

from driving import QTest, click, named, press
from nimble_quake.motion.kinds import Keys
from nimble_quake.shot.model import Map, Node, Plate, Shot

INVERT = "maps/m/steps/d/invert"


@pytest.fixture
def masked(window):
    """A drawn mask and a text, to be pinned."""
    step = Node(id="d", kind="drawn_mask")
    shot = Shot(width=320, height=180, length=60, maps=(Map(id="m", name="M", recipe=(step,)),))
    text = Plate(id="t", kind="text", values={"words": "TEA"})
    window.session.take(Shot(width=320, height=180, length=60, maps=shot.maps, plates=(text,)))
    window.session.select(step="maps/m/steps/d", plate="plates/t")
    window.refresh()
    return window


def test_a_switch_is_pinned_by_its_mark_and_changed_at_another_frame(masked):
    session = masked.session
    click(named(masked.map_bay, "Motion of Invert"))
    assert [key.value for key in session.raw(INVERT).keys] == [False]
    assert INVERT in [row.path for row in masked.time.lanes.rows]
    session.set_frame(30)
    box = masked.map_bay.settings.editors["invert"].box
    box.setFocus()
    click(box)
    assert [(key.frame, key.value) for key in session.raw(INVERT).keys] == [(0, False), (30, True)]
    session.set_frame(29)
    assert box.isChecked() is False, "it holds"
    session.set_frame(30)
    assert box.isChecked() is True


def test_the_mark_says_how_it_moves_and_is_reached_by_keys(masked):
    mark = named(masked.map_bay, "Motion of Invert")
    assert mark.accessibleDescription() == "still"
    mark.setFocus()
    press(Qt.Key.Key_Return)
    assert mark.accessibleDescription() == "pinned"
    masked.session.set_frame(5)
    assert mark.accessibleDescription() == "moving"


def test_words_are_pinned_and_typed_elsewhere(masked):
    session = masked.session
    click(named(masked.picture_bay, "Motion of Words"))
    session.set_frame(20)
    edit = masked.picture_bay.settings.editors["words"].edit
    edit.setFocus()
    edit.selectAll()
    QTest.keyClicks(edit, "SOUP")
    session.commit()
    raw = session.raw("plates/t/words")
    assert isinstance(raw, Keys)
    assert [(key.frame, key.value) for key in raw.keys] == [(0, "TEA"), (20, "SOUP")]


def test_a_short_choice_shows_its_mark_once_it_moves(masked):
    session = masked.session
    marks = [w for w in masked.map_bay.settings.findChildren(QWidget) if w.accessibleName() == "Motion of Combine"]
    assert marks
    session.start_moving("maps/m/steps/d/combine")
    assert marks[0].isVisibleTo(masked.map_bay.settings) or not masked.map_bay.settings.editors["combine"].isVisible()


def test_all_that_is_pinned_is_drawn_in_the_strip(masked):
    """Rows low and tall, of what is made of no numbers: nothing is raised while they are painted."""
    session, lanes = masked.session, masked.time.lanes
    paths = ("maps/m/steps/d/form", INVERT, "plates/t/words", "plates/t/colour")
    for path in paths:
        session.start_moving(path)
        lanes.toggle_tall(path)
    masked.rows.setSizes([300, 470])
    QTest.qWait(20)
    assert not lanes.grab().isNull()
    assert set(paths) <= {row.path for row in lanes.rows}
