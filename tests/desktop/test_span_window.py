"""Spans of effects, the seamless dialog, and the way time is shown, in the window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt

from driving import drag, press
from nimble_quake.desktop.dialogs.small import PreferencesDialog
from nimble_quake.desktop.time.paint import HEAD
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.session.actions import ACTIONS
from nimble_quake.session.moving import pin_tools
from nimble_quake.session.storage.preferences import Preferences
from nimble_quake.shot.edits.set_value import set_value

PUSH = "plates/title/effects/push"


@pytest.fixture
def bench(window):
    """The bench, its title's push acting from frame 24 to 48."""
    window.session.set_frame(24)
    window.session.select(effect=PUSH)
    next(action for action in ACTIONS if action.id == "span").run(window)
    window.time.lanes.snap = False
    return window


def span(window) -> tuple[int, int]:
    node = window.session.shot.plate("title").effects[0]
    assert node.span is not None
    return node.span


def row_y(window) -> int:
    lanes = window.time.lanes
    top = next(top for row, top in lanes.tops() if row.sort == "span")
    if top > lanes.height() - 30:
        lanes.scroll_to(lanes.scrolled + round(top) - 60)
        top = next(top for row, top in lanes.tops() if row.sort == "span")
    return round(top)


def test_a_span_is_slid_trimmed_and_faded_by_the_mouse(bench):
    lanes = bench.time.lanes
    assert span(bench) == (24, 48)
    y = row_y(bench) + 16
    middle = round(lanes.x_of(36))
    drag(lanes, QPoint(middle, y), QPoint(middle + round(6 * lanes.zoom), y))
    assert span(bench) == (30, 54)
    end = round(lanes.x_of(54))
    drag(lanes, QPoint(end, y), QPoint(end + round(10 * lanes.zoom), y))
    assert span(bench) == (30, 64)
    fades = bench.session.shot.plate("title").effects[0].fades
    corner = QPoint(round(lanes.x_of(30 + fades[0])), row_y(bench) + 4)
    drag(lanes, corner, corner + QPoint(round(5 * lanes.zoom), 0))
    assert bench.session.shot.plate("title").effects[0].fades[0] == fades[0] + 5
    for _ in range(3):
        bench.session.undo()
    assert span(bench) == (24, 48)


def test_with_ctrl_its_pins_are_stretched_along(bench):
    keys = Keys((Key(frame=24, value=0.0), Key(frame=36, value=50.0), Key(frame=48, value=0.0)))
    bench.session.edit("k", set_value(bench.session.shot, f"{PUSH}/reach_x", keys))
    lanes = bench.time.lanes
    y, end = row_y(bench) + 16, round(bench.time.lanes.x_of(48))
    drag(lanes, QPoint(end, y), QPoint(end + round(24 * lanes.zoom), y), Qt.KeyboardModifier.ControlModifier)
    assert span(bench) == (24, 72)
    assert [key.frame for key in bench.session.raw(f"{PUSH}/reach_x").keys] == [24, 48, 72]


def test_it_is_drawn_and_its_head_says_how_long_it_is(bench):
    assert bench.time.lanes.grab().toImage().width() > HEAD
    pin_tools.give_span(bench.session, PUSH)
    assert not any(row.sort == "span" for row in bench.time.lanes.rows)


def test_what_does_not_close_is_listed_and_gone_to(window, qtbot):
    dialog = window.dialogs.show_seamless(window.focus_value)
    qtbot.addWidget(dialog)
    qtbot.waitUntil(lambda: dialog.list.count() > 0, timeout=20_000)
    dialog.list.setCurrentRow(0)
    dialog.list.setFocus()
    press(Qt.Key.Key_Return)
    dialog.switch.click()
    assert window.session.shot.seamless
    dialog.reject()
    window.session.undo()


def test_time_is_shown_as_chosen(window):
    window.session.set_frame(40)
    assert window.time.clock.text() == "00:00:01:16"
    preferences = Preferences()
    dialog = PreferencesDialog(preferences)
    dialog.clock.setCurrentIndex(dialog.clock.findData("frames"))
    dialog.accept()
    assert preferences.clock == "frames"
    window.session.clock = "frames"
    window.session.changed.emit({"settings"})
    assert window.time.clock.text() == "40"


def test_the_end_is_compared_with_the_beginning_in_the_picture(window, qtbot):
    window.picture_bay.choose_view("loop")
    qtbot.waitUntil(lambda: window.frames.last.request.picture_view == "loop", timeout=20_000)
    assert window.frames.last.gain >= 1


def test_what_is_prepared_ahead_is_known_and_out_of_date_after_a_change(window, qtbot):
    window.frames.play()
    qtbot.waitUntil(lambda: sum(window.frames.prepared().values()) > 3, timeout=20_000)
    window.frames.stop()
    window.session.set("plates/title/opacity", 0.5)
    found = window.frames.prepared()
    assert found
    assert not any(found.values())
    qtbot.waitUntil(lambda: False in window.time.lanes.ready.values(), timeout=5_000)
    window.time.lanes.grab()
