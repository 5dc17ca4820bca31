"""Number fields and the coupling, used with mouse and keys."""

from __future__ import annotations

from driving import LEFT, REACH, arrived, drag
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from nimble_quake.motion.kinds import Keys
from nimble_quake.shot.edits.set_value import set_value


class TestNumbers:
    """Slide-fields."""

    def field(self, window, name="reach_y"):
        return window.coupling.settings.editors[name].field

    def test_drag_is_one_step(self, window):
        field, before = self.field(window), len(window.session.history.past)
        drag(field, QPoint(40, 10), QPoint(70, 10))
        assert window.session.shown("plates/title/quakes/push/reach_y") == 18 + 30 * field._step(
            Qt.KeyboardModifier.NoModifier
        )
        assert len(window.session.history.past) == before + 1
        window.session.undo()
        assert field.value == 18

    def test_fine_and_coarse(self, window):
        field = self.field(window)
        plain, fine, coarse = (
            field._step(m)
            for m in (
                Qt.KeyboardModifier.NoModifier,
                Qt.KeyboardModifier.ShiftModifier,
                Qt.KeyboardModifier.ControlModifier,
            )
        )
        assert fine < plain < coarse

    def test_typing_a_sum(self, window):
        field = self.field(window)
        field.setFocus()
        for typed, value in (("1920/3", 640.0), ("-12.5", -12.5), ("+10", -2.5), ("*2", -5.0), ("nonsense", -5.0)):
            field.edit_text()
            field._editor.setText(typed)
            QTest.keyClick(field._editor, Qt.Key.Key_Return)
            assert window.session.shown("plates/title/quakes/push/reach_y") == value

    def test_beyond_the_usual_range_up_to_the_hard_limit(self, window):
        field = self.field(window)
        field.edit_text()
        field._editor.setText("99999999")
        QTest.keyClick(field._editor, Qt.Key.Key_Return)
        assert window.session.shown("plates/title/quakes/push/reach_y") == 20000

    def test_keys_and_name(self, window):
        field = self.field(window)
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Up)
        assert field.value > 18
        label = window.coupling.settings._labels["reach_y"]
        QTest.mouseDClick(label, LEFT)
        assert window.session.raw("plates/title/quakes/push/reach_y") is None
        assert field.value == 30

    def test_mark_sets_it_moving_only_when_asked(self, window):
        field = self.field(window)
        drag(field, QPoint(40, 10), QPoint(60, 10))
        assert not isinstance(window.session.raw("plates/title/quakes/push/reach_y"), Keys)
        QTest.mouseClick(field, LEFT, pos=QPoint(8, 10))
        assert isinstance(window.session.raw("plates/title/quakes/push/reach_y"), Keys)
        assert field._motion == "pinned"
        assert any(row.path.endswith("push/reach_y") for row in window.time.lanes.rows)

    def test_the_document_changes_the_field(self, window):
        window.session.edit("x", set_value(window.session.shot, "plates/title/quakes/push/reach_y", 77.0))
        assert self.field(window).value == 77


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
        end = graph._end(50.0, 1.0).toPoint()
        drag(graph, end, end + QPoint(20, 0))
        assert window.session.shown(REACH) < 50
        rest = QPoint(int(graph._plot().left() - 15), int(graph._y(0.5)))
        drag(graph, rest, rest + QPoint(0, -20))
        assert window.session.shown("plates/title/quakes/push/rest_by") == "picked"
        assert window.session.shown("plates/title/quakes/push/rest") > 0.55

    def test_sign_and_its_cure(self, window, qtbot):
        window.session.set("maps/heat-columns/steps/noise/brightness", 0.2)
        arrived(window, qtbot)
        pill = window.map_bay.pill
        assert pill.isVisible()
        assert "slides" in pill.words.text()
        QTest.mouseClick(pill.button, LEFT)
        assert window.session.shown("plates/title/quakes/push/rest_by") == "picked"
        arrived(window, qtbot)
        assert "slides" not in pill.words.text() or not pill.isVisible()

    def test_why_nothing_moves(self, window, qtbot):
        window.session.set_frame(40)
        window.session.set("plates/title/quakes/push/strength", 0.0)
        arrived(window, qtbot)
        assert window.coupling.why.isVisible()
        assert "strength is 0" in window.coupling.why.text()
