"""Number fields and the coupling, used with mouse and keys."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QComboBox, QToolButton

from driving import LEFT, REACH, QTest, arrived, click, drag, focused, named, press, type_text, unfolded
from nimble_quake.desktop.theme.roles import colour
from nimble_quake.desktop.widgets.typed_entry import TypedEntry
from nimble_quake.motion.kinds import Keys
from nimble_quake.shot.edits.set_value import set_value

REACH_Y = "plates/title/effects/push/reach_y"
REST = "plates/title/effects/push/rest"


class TestNumbers:
    """Slide-fields."""

    def field(self, window, name="reach_y"):
        return window.coupling.settings.editors[name].field

    def test_drag_is_one_step(self, window):
        field, before = self.field(window), len(window.session.history.past)
        drag(field, QPoint(40, 10), QPoint(70, 10))
        assert window.session.shown("plates/title/effects/push/reach_y") == 18 + 30 * field.step_of(
            Qt.KeyboardModifier.NoModifier
        )
        assert len(window.session.history.past) == before + 1
        window.session.undo()
        assert field.number == 18

    def test_fine_and_coarse(self, window):
        field = self.field(window)
        plain, fine, coarse = (
            field.step_of(m)
            for m in (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.ControlModifier,
            )
        )
        assert fine < plain < coarse

    def test_typing_a_sum(self, window):
        field = named(window, "Down reach")
        for typed, value in (("1920/3", 640.0), ("-12.5", -12.5), ("+10", -2.5), ("*2", -5.0)):
            click(field)
            type_text(typed)
            press(Qt.Key.Key_Return)
            assert window.session.shown(REACH_Y) == value
            assert focused() is field

    def test_what_is_typed_hides_what_it_replaces(self, window):
        """An entry that lies in a spin box itself is drawn without a ground, over the number beneath it."""
        field = named(window, "Down reach")
        click(field)
        type_text("7")
        seen = field.grab().toImage()
        row = {seen.pixelColor(x, field.height() // 2).name() for x in range(4, field.width() - 24)}
        assert row == {colour("edited").name()}

    def test_a_double_click_chooses_the_whole_number(self, window):
        field = named(window, "Down reach")
        window.session.set(REACH_Y, 12.5)
        click(field)
        entry = focused()
        QTest.mouseDClick(entry, LEFT, pos=QPoint(entry.width() - 8, entry.height() // 2))
        type_text("0.8")
        press(Qt.Key.Key_Return)
        assert window.session.shown(REACH_Y) == 0.8

    def test_one_field_after_another(self, window):
        """Return ends typing and does nothing else: the next click and number are that field's alone."""
        click(named(window, "Reading the map"))
        for name, typed, path in (
            ("Down reach", "50", REACH_Y),
            ("Rest level", "0.4", REST),
            ("Down reach", "20", REACH_Y),
        ):
            click(named(window, name))
            type_text(typed)
            press(Qt.Key.Key_Return)
            assert window.session.shown(path) == float(typed)
        assert not any(entry.isVisible() for entry in window.findChildren(TypedEntry))

    def test_a_rest_level_that_is_typed_counts(self, window):
        click(named(window, "Reading the map"))
        click(named(window, "Rest level"))
        type_text("0.4")
        press(Qt.Key.Key_Tab)
        assert window.session.shown("plates/title/effects/push/rest_by") == "picked"
        assert window.session.shown(REST) == 0.4

    def test_escape_and_a_click_elsewhere_end_typing(self, window):
        field = named(window, "Down reach")
        click(field)
        type_text("99")
        press(Qt.Key.Key_Escape)
        assert window.session.shown(REACH_Y) == 18
        assert focused() is field
        click(field)
        type_text("77")
        click(window.picture_bay.viewer)
        assert window.session.shown(REACH_Y) == 77

    def test_what_is_no_number_stays_and_is_marked(self, window):
        click(named(window, "Down reach"))
        type_text("12 lanterns")
        press(Qt.Key.Key_Return)
        entry = focused()
        assert isinstance(entry, TypedEntry)
        assert entry.text() == "12 lanterns"
        assert entry.property("wrong")
        assert "no number" in entry.toolTip()
        assert window.session.shown(REACH_Y) == 18
        click(window.picture_bay.viewer)
        assert entry.isVisible()
        assert entry.text() == "12 lanterns"
        click(entry)
        press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        type_text("12")
        assert not entry.property("wrong")
        press(Qt.Key.Key_Return)
        assert window.session.shown(REACH_Y) == 12

    def test_beyond_the_usual_range_up_to_the_hard_limit(self, window):
        click(named(window, "Down reach"))
        type_text("99999999")
        press(Qt.Key.Key_Return)
        assert window.session.shown(REACH_Y) == 1_000_000

    def test_linked_takes_the_down_reach_along(self, window):
        window.session.set("plates/title/effects/push/linked", True)
        field = named(window, "Down reach")
        assert not field.isEnabled()
        assert field.number == window.session.shown(REACH)

    def test_keys_and_name(self, window):
        field = self.field(window)
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Up)
        assert field.number > 18
        label = window.coupling.settings.name_labels["reach_y"]
        QTest.mouseDClick(label, LEFT)
        assert window.session.raw("plates/title/effects/push/reach_y") is None
        assert field.number == 30

    def test_mark_sets_it_moving_only_when_asked(self, window):
        field = self.field(window)
        drag(field, QPoint(40, 10), QPoint(60, 10))
        assert not isinstance(window.session.raw("plates/title/effects/push/reach_y"), Keys)
        QTest.mouseClick(field, LEFT, pos=QPoint(8, 10))
        assert isinstance(window.session.raw("plates/title/effects/push/reach_y"), Keys)
        assert field.accessibleDescription().endswith("pinned")
        assert any(row.path.endswith("push/reach_y") for row in window.time.lanes.rows)

    def test_the_document_changes_the_field(self, window):
        window.session.edit("x", set_value(window.session.shot, "plates/title/effects/push/reach_y", 77.0))
        assert self.field(window).number == 77


def test_live_picture_while_dragging(window, qtbot):
    """Dragging a number shows new frames before it is let go."""
    field = window.coupling.settings.editors["reach_y"].field
    before = window.frames.last
    QTest.mousePress(field, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(40, 10))
    QTest.mouseMove(field, QPoint(90, 10))
    qtbot.waitUntil(
        lambda: window.frames.last is not before and window.frames.last.request.shot is window.session.shot,
        timeout=20_000,
    )
    QTest.mouseRelease(field, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(90, 10))


class TestCoupling:
    def test_graph_drags(self, window):
        window.session.set(REACH, 50.0)
        window.session.edit("still", set_value(window.session.shot, REACH, 50.0))
        graph = window.coupling.graph
        end = graph.place_of(graph.graph.curves[-1].points[0]).toPoint()
        drag(graph, end, end + QPoint(20, 0))
        assert window.session.shown(REACH) < 50
        rest = QPoint(int(graph.plot().left() - 15), int(graph.y_of(0.5)))
        drag(graph, rest, rest + QPoint(0, -20))
        assert window.session.shown("plates/title/effects/push/rest_by") == "picked"
        assert window.session.shown("plates/title/effects/push/rest") > 0.55

    def test_sign_and_its_cure(self, window, qtbot):
        window.session.set("maps/heat-columns/steps/noise/brightness", 0.2)
        arrived(window, qtbot)
        pill = window.map_bay.pill
        assert pill.isVisible()
        assert "slides" in pill.words.text()
        QTest.mouseClick(pill.button, LEFT)
        assert window.session.shown("plates/title/effects/push/rest_by") == "picked"
        arrived(window, qtbot)
        assert "slides" not in (pill.words.text() if pill.isVisible() else "")

    def test_why_nothing_moves(self, window, qtbot):
        window.session.set_frame(40)
        window.session.set("plates/title/effects/push/strength", 0.0)
        arrived(window, qtbot)
        assert window.coupling.why.isVisible()
        assert "strength is 0" in window.coupling.why.text()
        beneath = window.coupling.graph.plot().top()
        assert window.coupling.why.geometry().bottom() < beneath, "it lies over no line of the graph"


def test_a_plate_is_not_offered_to_itself(window):
    """What reads another plate, its matte or what it rides on, lists the others: itself would be a circle."""
    window.session.select(plate="plates/title")
    window.focus_value("plates/title/matte")
    box = named(window, "Matte", QComboBox)
    offered = {box.itemData(row) for row in range(box.count())}
    assert offered == {"", *(plate.id for plate in window.session.shot.plates)} - {"title"}


class TestLinked:
    """Scale along both axes: one is scaled as the other is, while they are linked."""

    X, Y = "plates/title/scale_x", "plates/title/scale_y"

    @pytest.fixture
    def panel(self, window):
        window.session.select(plate="plates/title", quake="")
        window.session.set(self.X, 1.0)
        window.session.set(self.Y, 1.0)
        unfolded(window.picture_bay.settings, "text")
        window.refresh()
        return window.picture_bay.settings

    def typed(self, panel, name: str, text: str) -> None:
        panel.editors[name].setFocus()
        type_text(text)
        press(Qt.Key.Key_Return)

    def test_one_number_is_both_in_one_step(self, window, panel):
        steps = len(window.session.history.past)
        self.typed(panel, "scale_x", "50")
        assert (window.session.shown(self.X), window.session.shown(self.Y)) == (0.5, 0.5)
        assert len(window.session.history.past) == steps + 1
        self.typed(panel, "scale_y", "80")
        assert (window.session.shown(self.X), window.session.shown(self.Y)) == (0.8, 0.8)

    def test_a_link_that_is_taken_off_stays_off_and_one_that_is_set_keeps_the_ratio(self, window, panel):
        link = named(panel, "Linked")
        click(link)
        self.typed(panel, "scale_x", "50")
        assert (window.session.shown(self.X), window.session.shown(self.Y)) == (0.5, 1.0)
        click(link)
        self.typed(panel, "scale_y", "40")
        assert (window.session.shown(self.X), window.session.shown(self.Y)) == (pytest.approx(0.2), 0.4)

    def test_different_numbers_are_not_linked_by_themselves_nor_is_one_that_moves(self, window, panel):
        window.session.set(self.Y, 0.7)
        self.typed(panel, "scale_x", "50")
        assert window.session.shown(self.Y) == 0.7
        window.session.set(self.Y, 0.5)
        window.session.start_moving(self.Y)
        self.typed(panel, "scale_x", "90")
        assert window.session.shown(self.Y) == 0.5


class TestLinkedSizes:
    """Two sizes that stand side by side are linked between them, in two columns and in one."""

    def test_a_click_links_them_and_a_typed_one_takes_the_other_along(self, window, qtbot):
        session, panel = window.session, window.map_bay.settings
        session.set("maps/heat-columns/steps/noise/size_x", 200.0)
        session.set("maps/heat-columns/steps/noise/size_y", 100.0)
        window.refresh()
        link = next(b for b in panel.findChildren(QToolButton) if b.accessibleName() == "Linked" and b.isVisible())
        first, second = (panel.editors[name] for name in ("size_x", "size_y"))
        assert first.mapTo(panel, first.rect().topRight()).x() <= link.mapTo(panel, link.rect().topLeft()).x()
        assert link.mapTo(panel, link.rect().topRight()).x() <= panel.name_labels["size_y"].mapTo(panel, QPoint()).x()
        click(link)
        assert link.isChecked()
        first.setFocus()
        type_text("300")
        press(Qt.Key.Key_Return)
        assert session.shown("maps/heat-columns/steps/noise/size_x") == 300
        assert session.shown("maps/heat-columns/steps/noise/size_y") == pytest.approx(150)
        session.undo()
        assert session.shown("maps/heat-columns/steps/noise/size_y") == 100, "one step"
        click(link)
        second.setFocus()
        type_text("80")
        press(Qt.Key.Key_Return)
        assert session.shown("maps/heat-columns/steps/noise/size_x") == 200
