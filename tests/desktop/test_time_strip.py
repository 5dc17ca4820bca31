"""The time strip: playhead, pins, bars, playing."""

from __future__ import annotations

import time

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QPushButton

from driving import LEFT, REACH, QTest, click, drag, named, press, type_text
from nimble_quake.desktop.motions.menu import motion_menu
from nimble_quake.desktop.time import view as time_view
from nimble_quake.desktop.time.paint import HEAD
from nimble_quake.motion import handles
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Rate, is_moving
from nimble_quake.shot.edits.keys import with_keys
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Shot


class TestTime:
    def lane(self, window, path=REACH):
        lanes = window.time.lanes
        return next((row, top) for row, top in lanes.tops() if row.path == path)

    def test_ruler_moves_the_playhead(self, window):
        lanes = window.time.lanes
        QTest.mouseClick(lanes, LEFT, pos=QPoint(int(lanes.x_of(75)), 8))
        assert abs(window.session.frame - 75) <= 1
        drag(lanes, QPoint(int(lanes.x_of(20)), 8), QPoint(int(lanes.x_of(60)), 8), Qt.KeyboardModifier.ShiftModifier)
        loop = window.session.shot.loop
        assert loop is not None
        assert abs(loop[0] - 20) <= 1
        assert abs(loop[1] - 60) <= 1

    def test_pins_drag_in_time_and_value(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        QTest.qWait(10)
        row, top = self.lane(window)
        lanes.snap = False
        key = window.session.raw(REACH).keys[2]
        at = QPoint(int(lanes.x_of(key.frame)), int(lanes.pin_y(key, row, top)))
        drag(lanes, at, at + QPoint(int(lanes.zoom * 5), -30))
        moved = window.session.raw(REACH).keys[2]
        assert moved.frame == pytest.approx(65, abs=1)
        assert moved.value > key.value + 5
        window.session.undo()
        assert window.session.raw(REACH).keys[2] == key

    def test_box_copy_paste_shape_delete(self, window):
        lanes = window.time.lanes
        _row, top = self.lane(window)
        drag(lanes, QPoint(int(lanes.x_of(30)), int(top + 2)), QPoint(int(lanes.x_of(70)), int(top + 22)))
        assert {frame for _, frame in lanes.chosen} == {36.0, 60.0}
        window.time.copy()
        window.session.set_frame(128)
        window.time.paste()
        assert any(key.frame == 128 for key in window.session.raw(REACH).keys)
        window.time.shape("hold", None)
        assert [key.after for key in window.session.raw(REACH).keys if key.frame == 128] == ["hold"]
        lanes.setFocus()
        QTest.keyClick(lanes, Qt.Key.Key_Delete)
        assert not any(key.frame == 128 for key in window.session.raw(REACH).keys)

    def test_ctrl_stretches_the_chosen_pins(self, window):
        """The dragged end goes, the other stays, those between keep their shares; a click with Ctrl takes one out."""
        lanes, control = window.time.lanes, Qt.KeyboardModifier.ControlModifier
        lanes.snap = False
        row, top = self.lane(window)
        keys = window.session.raw(REACH).keys
        frames = [key.frame for key in keys]
        lanes.chosen = {(REACH, frame) for frame in frames[1:4]}
        first, middle, last = frames[1:4]
        at = QPoint(int(lanes.x_of(last)), int(lanes.pin_y(keys[3], row, top)))
        drag(lanes, at, QPoint(int(lanes.x_of(last + 12)), at.y()), control)
        got = [key.frame for key in window.session.raw(REACH).keys]
        stretch = (got[3] - first) / (last - first)
        assert got[3] == pytest.approx(last + 12, abs=1)
        assert got[:2] == frames[:2]
        assert got[2] == round(first + (middle - first) * stretch)
        assert lanes.chosen == {(REACH, frame) for frame in got[1:4]}
        window.session.undo()
        assert window.session.raw(REACH).keys == keys
        lanes.chosen = {(REACH, frame) for frame in frames[1:4]}
        drag(lanes, at, QPoint(int(lanes.x_of(first - 60)), at.y()), control)
        squeezed = [key.frame for key in window.session.raw(REACH).keys]
        assert squeezed == sorted(squeezed), "pins never swap places"
        window.session.undo()
        lanes.chosen = {(REACH, frame) for frame in frames[1:4]}
        QTest.mouseClick(lanes, LEFT, control, at)
        assert lanes.chosen == {(REACH, first), (REACH, middle)}
        assert window.session.raw(REACH).keys == keys

    def test_ctrl_and_alt_stretch_the_chosen_pins_in_value(self, window):
        """The far end stays, those between keep their shares; frames do not change; one step of undo."""
        lanes, both = window.time.lanes, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        QTest.qWait(10)
        row, top = self.lane(window)
        before = window.session.raw(REACH).keys
        chosen = before[1:4]
        lanes.chosen = {(REACH, key.frame) for key in chosen}
        high, low = max(chosen, key=lambda k: k.value), min(chosen, key=lambda k: k.value)
        at = QPoint(int(lanes.x_of(high.frame)), int(lanes.pin_y(high, row, top)))
        drag(lanes, at, at + QPoint(0, 25), both)
        got = {key.frame: key.value for key in window.session.raw(REACH).keys}
        assert got[low.frame] == low.value
        assert low.value < got[high.frame] < high.value
        times = (got[high.frame] - low.value) / (high.value - low.value)
        for key in chosen:
            assert got[key.frame] == pytest.approx(low.value + (key.value - low.value) * times, abs=1e-3)
        assert {f: v for f, v in got.items() if f not in {k.frame for k in chosen}} == {
            key.frame: key.value for key in before if key not in chosen
        }
        window.session.undo()
        assert window.session.raw(REACH).keys == before

    def test_every_curve_is_drawn_however_slow_the_drawing(self, window, qtbot, monkeypatch: pytest.MonkeyPatch):
        """At least one a turn, so that the strip comes to rest."""
        lanes = window.time.lanes
        monkeypatch.setattr(time_view, "BUDGET", 0.0)
        lanes._traces.clear()
        lanes.update()
        wanted = {row.path for row, _ in lanes.seen_rows() if not row.bar and not row.sort}
        assert len(wanted) >= 3
        qtbot.waitUntil(lambda: wanted <= set(lanes._traces) and not lanes._late.isActive(), timeout=5_000)

    @pytest.mark.parametrize("motion", [Rate(0.0, 5.0), Formula("3 * t"), Driven(0.0, 4.0, drivers()["wave"]({}))])
    def test_a_row_without_pins_opens_too(self, window, motion):
        """Its curve is shown tall; there are no pins, so there are no fields of one."""
        path, lanes = "plates/emblem/turn", window.time.lanes
        window.session.edit("Move", set_value(window.session.shot, path, motion))
        window.rows.setSizes([430, 340])
        QTest.qWait(10)
        _row, top = self.lane(window, path)
        QTest.mouseClick(lanes, LEFT, pos=QPoint(HEAD - 12, int(top + 10)))
        assert self.lane(window, path)[0].tall
        assert not lanes.pin_panel.isVisible()

    def test_bars_slide_and_trim(self, window):
        lanes = window.time.lanes
        lanes.snap = False
        _row, top = self.lane(window, "plates/title")
        y = int(top + 11)
        drag(lanes, QPoint(int(lanes.x_of(60)), y), QPoint(int(lanes.x_of(70)), y))
        plate = window.session.shot.plate("title")
        assert plate.start == pytest.approx(22, abs=1)
        drag(lanes, QPoint(int(lanes.x_of(plate.start)) + 2, y), QPoint(int(lanes.x_of(plate.start + 8)) + 2, y))
        assert window.session.shot.plate("title").start == pytest.approx(plate.start + 8, abs=1)

    def test_curve_handles(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        QTest.qWait(10)
        row, top = self.lane(window)
        (grip, at, _), *_ = lanes.handles(row, top)
        drag(lanes, at.toPoint(), at.toPoint() + QPoint(25, 0))
        assert window.session.raw(REACH).keys[0].ease[0] > 0.3
        assert grip == ("out", 0)

    def test_a_handle_takes_the_other_one_along_and_alt_parts_them(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        window.session.edit(
            "smooth",
            with_keys(
                window.session.shot,
                REACH,
                [msgspec.structs.replace(key, after="smooth") for key in window.session.raw(REACH).keys],
            ),
        )
        QTest.qWait(10)
        assert handles.is_joined(window.session.raw(REACH).keys, 1)
        for parts, modifiers in ((False, Qt.KeyboardModifier.NoModifier), (True, Qt.KeyboardModifier.AltModifier)):
            row, top = self.lane(window)
            at = next(place for grip, place, _ in lanes.handles(row, top) if grip == ("out", 1))
            drag(lanes, at.toPoint(), at.toPoint() + QPoint(6, -25), modifiers)
            keys = window.session.raw(REACH).keys
            assert keys[1].after == "eased"
            assert handles.is_joined(keys, 1) != parts

    def test_weights_are_typed_and_handles_levelled(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        window.session.set_frame(36)
        QTest.qWait(10)
        click(named(window, "Out"))
        type_text("80")
        press(Qt.Key.Key_Return)
        keys = window.session.raw(REACH).keys
        assert handles.weight_of(keys, 1, "out") == pytest.approx(0.8)
        click(next(b for b in window.findChildren(QPushButton) if b.isVisible() and b.text() == "Level"))
        keys = window.session.raw(REACH).keys
        assert handles.out_slope(keys, 1) == 0
        assert handles.weight_of(keys, 1, "out") == pytest.approx(0.8)

    def test_the_ease_box(self, window):
        """Chosen pins get what is drawn, typed, or moved by the arrow keys; each is one step of undo."""
        lanes = window.time.lanes
        before = window.session.raw(REACH).keys
        lanes.chosen = {(REACH, before[0].frame), (REACH, before[1].frame)}
        click(named(window, "Draw the ease by hand, or type it"))
        box = QApplication.activePopupWidget()
        plot = named(box, "Ease curve")
        drag(plot, plot.handle(0).toPoint(), plot.at(0.8, -0.3).toPoint())
        keys = window.session.raw(REACH).keys
        assert [key.ease for key in keys[:2]] == [keys[0].ease] * 2
        assert keys[0].ease[:2] == pytest.approx((0.8, -0.3), abs=0.02)
        assert keys[2:] == before[2:]
        press(Qt.Key.Key_Space)
        press(Qt.Key.Key_Right)
        assert window.session.raw(REACH).keys[0].ease[2] == pytest.approx(keys[0].ease[2] + 0.01)
        click(named(box, "End, value"))
        type_text("1.25")
        press(Qt.Key.Key_Return)
        assert window.session.raw(REACH).keys[1].ease[3] == 1.25
        press(Qt.Key.Key_Escape)
        assert QApplication.activePopupWidget() is None
        for _ in range(3):
            window.session.undo()
        assert window.session.raw(REACH).keys == before

    def test_pin_fields(self, window):
        lanes = window.time.lanes
        window.rows.setSizes([430, 340])
        lanes.toggle_tall(REACH)
        window.session.set_frame(61)
        panel = lanes.pin_panel
        assert panel.isVisible()
        assert panel.title.text() == "Pin 3 of 5"
        panel.after.activated.emit(panel.after.findData("hold"))
        assert window.session.raw(REACH).keys[2].after == "hold"
        panel.frame.setFocus()
        type_text("66")
        press(Qt.Key.Key_Return)
        assert window.session.raw(REACH).keys[2].frame == 66

    def test_transport_and_markers(self, window):
        QTest.keyClick(window, Qt.Key.Key_End)
        assert window.session.frame == 143
        QTest.keyClick(window, Qt.Key.Key_Home)
        window.time.to_pin(1)
        assert window.session.frame == 12
        before = window.session.shot.markers
        press(Qt.Key.Key_M)
        assert window.session.shot.markers == before, "a marker that is there keeps its name"
        window.session.set_frame(13)
        press(Qt.Key.Key_M)
        assert {(m.frame, m.name) for m in window.session.shot.markers} - {(m.frame, m.name) for m in before} == {
            (13, "mark 5")
        }

    def test_playing_in_a_loop_at_true_time(self, window, qtbot):
        window.frames.preview = "third"
        window.session.edit(
            "loop", Shot(**{f: getattr(window.session.shot, f) for f in Shot.__struct_fields__} | {"loop": (30, 42)})
        )
        window.session.set_frame(30)
        seen: list[int] = []
        window.frames.arrived.connect(lambda response: seen.append(response.request.frame))
        began = time.monotonic()
        QTest.keyClick(window, Qt.Key.Key_Space)
        assert window.frames.playing
        qtbot.waitUntil(lambda: len(seen) > 30, timeout=20_000)
        assert set(seen) <= set(range(30, 42))
        assert time.monotonic() - began > 0.5  # 24 a second, not as fast as it can
        QTest.keyClick(window, Qt.Key.Key_Space)
        assert not window.frames.playing


class TestTheHighlightedRow:
    def test_it_is_what_is_selected_and_delete_acts_on_it(self, window):
        lanes = window.time.lanes
        window.session.select(plate="plates/emblem")
        assert lanes.selected_row == "plates/emblem"
        window.session.select(plate="plates/title")
        assert lanes.selected_row == "plates/title"
        lanes.setFocus()
        press(Qt.Key.Key_Down)
        moving = lanes.selected_row
        assert moving.startswith("plates/title/")
        before = len(window.session.shot.plates)
        press(Qt.Key.Key_Delete)
        assert not is_moving(window.session.raw(moving)), "a value's row: it stands still"
        assert len(window.session.shot.plates) == before
        window.session.undo()
        window.session.select(plate="plates/emblem")
        press(Qt.Key.Key_Delete)
        assert window.session.shot.plate("emblem") is None

    def test_a_pin_of_points_is_drawn(self, window, qtbot):
        """Lists of points, of any number, have their pins in the middle of the row."""
        few, none = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0)), ()
        step = Node(
            id="m", kind="drawn_mask", values={"outline": Keys((Key(frame=0.0, value=few), Key(frame=9.0, value=none)))}
        )
        shot = window.session.shot
        window.session.take(
            msgspec.structs.replace(shot, maps=(*shot.maps, Map(id="mask", name="Mask", recipe=(step,))))
        )
        lanes = window.time.lanes
        row = next(row for row in lanes.rows if row.path == "maps/mask/steps/m/outline")
        assert {lanes.pin_y(Key(frame=0.0, value=value), row, 100.0) for value in (few, none)} == {100 + row.height / 2}
        lanes.grab()


class TestRangeOfChosenPins:
    """A gesture that was put down is made longer or shorter by the ends of its line, and seen meanwhile."""

    FOOT = 34
    """A y within the knobs, under the markers."""

    def put(self, window, qtbot) -> None:
        session = window.session
        session.set_frame(24)
        action = named_action(window, REACH, "1 s from here", "Nothing → much → nothing")
        action.hover()
        action.trigger()

    def frames(self, window) -> list[float]:
        return [key.frame for key in window.session.raw(REACH).keys]

    def test_its_end_is_dragged_and_the_middle_goes_along(self, window, qtbot):
        lanes = window.time.lanes
        self.put(window, qtbot)
        rate = round(window.session.shot.rate)
        assert self.frames(window) == [24, 24 + rate / 2, 24 + rate]
        assert {frame for _, frame in lanes.chosen} == set(self.frames(window))
        lanes.snap = False
        start, end = (QPoint(int(lanes.x_of(f)), self.FOOT) for f in (24 + rate, 24 + 2 * rate))
        seen = []
        window.session.changed.connect(lambda _: seen.append(self.frames(window)[-1]))
        drag(lanes, start, end)
        assert self.frames(window) == pytest.approx([24, 24 + rate, 24 + 2 * rate], abs=1)
        assert len(set(seen)) > 1, "the picture follows while it is dragged"
        window.session.undo()
        assert self.frames(window) == [24, 24 + rate / 2, 24 + rate]

    def test_its_beginning_is_dragged_and_escape_leaves_it(self, window, qtbot):
        lanes = window.time.lanes
        self.put(window, qtbot)
        before = self.frames(window)
        lanes.setFocus()
        QTest.mousePress(lanes, LEFT, pos=QPoint(int(lanes.x_of(24)), self.FOOT))
        QTest.mouseMove(lanes, QPoint(int(lanes.x_of(10)), self.FOOT))
        assert self.frames(window)[0] < 20
        assert self.frames(window)[-1] == before[-1]
        press(Qt.Key.Key_Escape)
        QTest.mouseRelease(lanes, LEFT, pos=QPoint(int(lanes.x_of(10)), self.FOOT))
        assert self.frames(window) == before

    def test_a_click_on_an_end_changes_nothing(self, window, qtbot):
        lanes = window.time.lanes
        self.put(window, qtbot)
        before, chosen = self.frames(window), set(lanes.chosen)
        click(lanes, QPoint(int(lanes.x_of(before[-1])), self.FOOT))
        assert (self.frames(window), lanes.chosen) == (before, chosen)


def named_action(window, path: str, over: str, title: str):
    """A gesture in the menu of a value."""
    menu = motion_menu(window.session, path, window)
    gestures = next(a.menu() for a in menu.actions() if a.text() == "Gesture")
    inner = next(a.menu() for a in gestures.actions() if a.text() == f"Over {over}")
    return next(a for a in inner.actions() if a.text() == title)
