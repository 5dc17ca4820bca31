"""Widgets by themselves, with mouse and keys: what they say while they are dragged, and when it ends."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QWidget

from driving import LEFT, QTest, drag
from nimble_quake.desktop.settings.outline_editor import OutlinePad
from nimble_quake.desktop.widgets.drift_pad import DriftPad, bearing_word
from nimble_quake.desktop.widgets.levels_bar import LevelsBar
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.desktop.widgets.stop_bar import StopBar
from nimble_quake.params.kinds import Stop, Stops, Velocity

NONE = Qt.KeyboardModifier.NoModifier
BLACK, WHITE = (0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0)


def heard(widget: Any) -> tuple[list[Any], list[str]]:
    """What a widget says: the values it changes to, and the order of its signals."""
    values: list[Any] = []
    order: list[str] = []
    widget.began.connect(lambda: order.append("began"))
    widget.changing.connect(lambda *value: (values.append(value[0] if len(value) == 1 else value), order.append("on")))
    widget.ended.connect(lambda: order.append("ended"))
    return values, order


def one_change(order: list[str]) -> bool:
    """Whether signals make one undoable change: begun once, ended once, values between."""
    return order[0] == "began" and order[-1] == "ended" and order.count("began") == order.count("ended") == 1


@pytest.fixture
def shown(app, qtbot):
    """Returns a function that shows a widget at a width and keeps it alive."""

    def show(widget: QWidget, width: int = 220) -> QWidget:
        qtbot.addWidget(widget)
        widget.resize(width, max(44, widget.sizeHint().height()))
        widget.show()
        return widget

    return show


class TestStops:
    @pytest.fixture
    def bar(self, shown) -> StopBar:
        bar = shown(StopBar(Stops(label="Stops"), "brass"), 214)
        bar.show_value((Stop(0.0, BLACK), Stop(1.0, WHITE)))
        return bar

    def at(self, bar: StopBar, share: float, y: int = 36) -> QPoint:
        return QPoint(round(bar.x_of(share)), y)

    def test_a_click_adds_a_stop_of_the_colour_that_was_there(self, bar):
        values, order = heard(bar)
        QTest.mouseClick(bar, LEFT, NONE, self.at(bar, 0.25))
        added = values[-1][1]
        assert added.at == pytest.approx(0.25, abs=0.01)
        assert added.colour[:3] == pytest.approx((0.25,) * 3, abs=0.02)
        assert one_change(order)

    def test_a_stop_is_dragged_past_another_and_stays_held(self, bar):
        bar.show_value((Stop(0.0, BLACK), Stop(0.4, (1.0, 0.0, 0.0, 1.0)), Stop(0.6, WHITE)))
        values, order = heard(bar)
        drag(bar, self.at(bar, 0.4), self.at(bar, 0.8))
        assert [stop.at for stop in values[-1]] == pytest.approx([0, 0.6, 0.8], abs=0.01)
        assert values[-1][2].colour == (1.0, 0.0, 0.0, 1.0)
        assert bar.current == 2
        assert one_change(order)

    def test_the_midpoint_moves_between_its_stops(self, bar):
        values, _ = heard(bar)
        drag(bar, self.at(bar, 0.5, 6), self.at(bar, 0.8, 6))
        assert values[-1][0].mid == pytest.approx(0.8, abs=0.01)
        drag(bar, self.at(bar, 0.8, 6), self.at(bar, 1.5, 6))
        assert values[-1][0].mid == 0.98, "it never reaches the next stop"

    @staticmethod
    def answer(rgba) -> None:
        """Choose a colour in the dialog that is about to open; None tries one and leaves."""

        def choose() -> None:
            dialog: Any = QApplication.activeModalWidget()
            dialog.changed.emit(rgba or (1.0, 0.0, 0.0, 1.0))
            dialog.accept() if rgba else dialog.reject()

        QTimer.singleShot(0, choose)

    def test_keys_nudge_remove_and_colour(self, bar):
        bar.show_value((Stop(0.0, BLACK), Stop(0.5, WHITE), Stop(1.0, BLACK)))
        bar.current = 1
        values, _ = heard(bar)
        QTest.keyClick(bar, Qt.Key.Key_Right)
        assert values[-1][1].at == pytest.approx(0.51)
        self.answer((0.0, 0.5, 1.0, 0.5))
        QTest.keyClick(bar, Qt.Key.Key_Return)
        assert values[-1][1].colour == pytest.approx((0, 0.5, 1, 0.5), abs=0.01)
        QTest.keyClick(bar, Qt.Key.Key_Delete)
        QTest.keyClick(bar, Qt.Key.Key_Delete)
        QTest.keyClick(bar, Qt.Key.Key_Delete)
        assert len(bar.stops) == 1, "the last one stays"

    def test_spread_evenly_and_a_double_click_colours(self, bar):
        bar.show_value((Stop(0.0, BLACK, 0.2), Stop(0.1, WHITE), Stop(0.2, BLACK)))
        values, _ = heard(bar)
        bar.spread_evenly()
        assert [(stop.at, stop.mid) for stop in values[-1]] == [(0.0, 0.5), (0.5, 0.5), (1.0, 0.5)]
        self.answer(None)
        QTest.mouseDClick(bar, LEFT, NONE, self.at(bar, 0.5))
        assert values[-1][1].colour == WHITE, "a dialog that was left changes nothing"


class TestOutline:
    def pad(self, shown, curve: bool, points) -> OutlinePad:
        pad = shown(OutlinePad("brass", curve=curve, least=2 if curve else 3))
        pad.show_points(points)
        return pad

    def test_a_point_of_a_curve_stays_between_its_neighbours(self, shown):
        pad = self.pad(shown, True, ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)))
        values, order = heard(pad)
        drag(pad, pad.place_of((0.5, 0.5)).toPoint(), pad.place_of((1.4, 0.2)).toPoint())
        assert values[-1][1] == pytest.approx((0.995, 0.2), abs=0.02)
        assert one_change(order)
        for _ in range(5):
            QTest.keyClick(pad, Qt.Key.Key_Right)
        assert pad.points[1][0] <= 0.995
        for _ in range(30):
            QTest.keyClick(pad, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
        assert pad.points[1][1] == 0.0

    def test_keys_go_from_point_to_point(self, shown):
        pad = self.pad(shown, True, ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)))
        values, _ = heard(pad)
        for _ in range(2):
            QTest.keyClick(pad, Qt.Key.Key_BracketRight)
        QTest.keyClick(pad, Qt.Key.Key_Up)
        assert values[-1][1] == pytest.approx((0.5, 0.51))
        QTest.keyClick(pad, Qt.Key.Key_Delete)
        QTest.keyClick(pad, Qt.Key.Key_Delete)
        assert len(pad.points) == 2, "a curve keeps two"

    @pytest.mark.parametrize("smooth", [True, False])
    def test_its_line_is_smooth_or_straight_as_its_shape_is(self, shown, smooth):
        """Between two corners of a square a smooth line swings out, a straight one does not."""
        pad = self.pad(shown, False, ())
        pad.show_points(((-0.4, -0.4), (0.4, -0.4), (0.4, 0.4), (-0.4, 0.4)), smooth=smooth)
        seen, line = pad.grab().toImage(), pad.place_of((0.0, -0.4)).toPoint()
        of_line = seen.pixelColor(line) != seen.pixelColor(pad.place_of((0.0, 0.0)).toPoint())
        assert of_line is not smooth

    @pytest.mark.parametrize("closed", [True, False])
    @pytest.mark.parametrize("smooth", [True, False])
    def test_its_line_is_open_where_its_shape_is(self, shown, smooth, closed):
        """Along the way from the last point back to the first there is a line only where the shape is closed."""
        pad = self.pad(shown, False, ())
        pad.show_points(((-0.4, -0.4), (0.4, -0.4), (0.0, 0.4)), smooth=smooth, closed=closed)
        seen, ground = pad.grab().toImage(), pad.place_of((0.0, -0.1)).toPoint()
        back = [pad.place_of((-0.4 + 0.4 * t, -0.4 + 0.8 * t)).toPoint() for t in np.linspace(0.2, 0.8, 25)]
        near = [seen.pixelColor(at.x() + dx, at.y()) for at in back for dx in range(-14, 8)]
        assert any(found != seen.pixelColor(ground) for found in near) is closed

    def test_a_new_point_of_an_open_line_goes_on_at_the_end_it_is_near(self, shown):
        pad = self.pad(shown, False, ())
        line = ((-0.2, 0.0), (0.0, -0.3), (0.2, 0.0))
        for at, place in (((-0.4, 0.1), 0), ((0.4, 0.1), 3), ((0.12, -0.2), 2), ((-0.05, -0.1), 1)):
            pad.show_points(line, closed=False)
            values, _ = heard(pad)
            QTest.mouseClick(pad, LEFT, NONE, pad.place_of(at).toPoint())
            assert values[-1][place] == pytest.approx(at, abs=0.02)

    def test_a_new_point_of_a_shape_goes_into_the_edge_it_is_near(self, shown):
        square = ((-0.4, -0.4), (0.4, -0.4), (0.4, 0.4), (-0.4, 0.4))
        pad = self.pad(shown, False, square)
        values, _ = heard(pad)
        QTest.mouseClick(pad, LEFT, NONE, pad.place_of((0.45, 0.05)).toPoint())
        assert values[-1][2] == pytest.approx((0.45, 0.05), abs=0.02)
        QTest.mouseDClick(pad, LEFT, NONE, pad.place_of(values[-1][2]).toPoint())
        assert pad.points == square
        QTest.mouseClick(pad, LEFT, NONE, pad.place_of(square[0]).toPoint())
        for _ in range(30):
            QTest.keyClick(pad, Qt.Key.Key_Left)
        assert pad.points[0][0] == -0.5


class TestDrift:
    @pytest.fixture
    def pad(self, shown) -> DriftPad:
        return shown(DriftPad(Velocity(label="Drift", usual=400.0), "brass"), 64)

    def test_the_border_is_the_usual_fastest_and_half_way_a_quarter(self, pad):
        values, order = heard(pad)
        QTest.mouseClick(pad, LEFT, NONE, QPoint(62, 32))
        assert values[-1] == pytest.approx((400, 0), abs=30)
        assert one_change(order)
        QTest.mouseClick(pad, LEFT, NONE, QPoint(32, 32 + 16))
        assert values[-1] == pytest.approx((0, 100), abs=25)

    def test_shift_keeps_to_eight_ways(self, pad):
        values, _ = heard(pad)
        QTest.mousePress(pad, LEFT, Qt.KeyboardModifier.ShiftModifier, QPoint(54, 50))
        x, y = values[-1]
        assert math.degrees(math.atan2(y, x)) % 45 == pytest.approx(0, abs=0.2)
        QTest.mouseRelease(pad, LEFT, NONE, QPoint(54, 50))

    def test_keys_double_click_and_words(self, pad):
        pad.show_value((40.0, 0.0), "still")
        values, _ = heard(pad)
        QTest.keyClick(pad, Qt.Key.Key_Up)
        assert values[-1] == (40, -5)
        QTest.mouseDClick(pad, LEFT, NONE, QPoint(40, 40))
        assert (0.0, 0.0) in values
        assert pad.accessibleDescription() == "40 px/s right"
        assert [bearing_word(0, -9), bearing_word(-3, 3)] == ["up", "left down"]

    def test_the_corner_is_the_mark(self, pad, qtbot):
        values, _ = heard(pad)
        with qtbot.waitSignal(pad.mark_clicked):
            QTest.mouseClick(pad, LEFT, NONE, QPoint(8, 8))
        assert not values


class TestLevels:
    def test_each_grip_says_its_name_and_place(self, shown):
        bar = shown(LevelsBar("brass"), 212)
        bar.show_histogram([0.1, 0.5, 1.0, 0.3], rest=0.5, mean=0.55, clipped=0.01)
        bar.show_levels(0.2, 0.5, 0.8)
        values, order = heard(bar)
        for start, end, name, value in ((0.2, 0.1, "black", 0.1), (0.5, 0.65, "middle", 0.75), (0.8, 1.0, "white", 1)):
            drag(bar, QPoint(round(bar.x_of(start)), 40), QPoint(round(bar.x_of(end)), 40))
            assert values[-1][0] == name
            assert values[-1][1] == pytest.approx(value, abs=0.02)
        assert order.count("began") == order.count("ended") == 3

    def test_a_click_beside_the_grips_does_nothing(self, shown):
        bar = shown(LevelsBar("brass"), 212)
        bar.show_levels(0.0, 0.5, 1.0)
        values, order = heard(bar)
        drag(bar, QPoint(round(bar.x_of(0.25)), 20), QPoint(round(bar.x_of(0.4)), 20))
        assert values == order == []


class TestSegments:
    @pytest.fixture
    def row(self, shown) -> Segments:
        return shown(Segments([("a", "One"), ("b", "Two"), ("c", "Three")], "brass", "Count"))

    def test_click_and_keys(self, row):
        found: list[str] = []
        row.chosen.connect(found.append)
        QTest.mouseClick(row, LEFT, NONE, QPoint(row.width() - 8, 8))
        QTest.keyClick(row, Qt.Key.Key_Left)
        QTest.keyClick(row, Qt.Key.Key_Left)
        QTest.keyClick(row, Qt.Key.Key_Left)
        assert found == ["c", "b", "a", "c"], "past the first comes the last"
        assert row.accessibleDescription() == "Three"

    def test_showing_is_not_choosing_and_choosing_again_says_nothing(self, row):
        found: list[str] = []
        row.chosen.connect(found.append)
        row.show_value("b")
        QTest.mouseClick(row, LEFT, NONE, QPoint(round(np.cumsum(row.widths())[0]) + 6, 8))
        assert found == []

    def test_the_segments_fill_the_row_and_the_chosen_one_is_filled(self, row):
        assert sum(row.widths()) == pytest.approx(row.width())
        row.show_value("a")
        image = row.grab().toImage()
        left, right = (image.pixelColor(QPointF(x, 4).toPoint()) for x in (6, row.width() - 8))
        assert left.lightness() > right.lightness() + 40
