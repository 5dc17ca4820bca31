"""The picture bay: viewers, handles, stack."""

from __future__ import annotations

from fractions import Fraction

import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QLabel

from driving import LEFT, QTest, arrived, drag
from helpers import coded, write_png
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula
from nimble_quake.samples import FOLDER
from nimble_quake.session.verbs import items
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate, Shot


class TestPicture:
    def test_probe_in_both_viewers(self, window, qtbot):
        window.session.set_frame(40)
        arrived(window, qtbot)
        viewer = window.picture_bay.viewer
        QTest.mouseMove(viewer, viewer.to_widget(900, 300).toPoint())
        QTest.qWait(20)
        window.probing.show(QPointF(900, 300))
        assert window.map_bay.viewer.probe == window.picture_bay.viewer.probe
        assert window.map_bay.viewer.tag.startswith("value 0.")
        assert "px" in viewer.tag
        x, y = window.probing.push()
        origin = window.picture_bay.origin
        assert (origin[1].x(), origin[1].y()) == pytest.approx((900 - x, 300 - y))

    def test_views(self, window, qtbot):
        for view in ("untouched", "split", "difference", "alpha", "result"):
            window.picture_bay.choose_view(view)
            arrived(window, qtbot)
            assert window.frames.last.error == ""
            assert (window.picture_bay.viewer.second is not None) is (view == "split")

    def test_zoom_and_pan_together(self, window):
        viewer = window.picture_bay.viewer
        place = viewer.to_shot(QPointF(100, 100))
        viewer.state.zoom_about(QPointF(100, 100), 2.0, viewer.box(), 1280, 720)
        after = viewer.to_shot(QPointF(100, 100))
        assert (after.x(), after.y()) == pytest.approx((place.x(), place.y()))
        assert window.map_bay.viewer.zoom() == viewer.zoom()
        viewer.state.pan(QPointF(-2000, 0), viewer.box(), 1280, 720)  # beyond the frame
        assert viewer.to_shot(QPointF(0, 0)).x() > 1280
        viewer.state.show_all()
        assert viewer.state.fit

    def test_handles_move_scale_and_turn(self, window):
        viewer = window.picture_bay.viewer
        window.session.set_frame(40)
        drag(viewer, viewer.to_widget(640, 300).toPoint(), viewer.to_widget(700, 340).toPoint())
        x, y = window.session.shown("plates/title/position")
        assert (x, y) == pytest.approx((700, 340), abs=3)
        grips = {grip.sort: grip for grip in window.picture_bay.handles.grips()}
        corner = viewer.to_widget(grips["scale"].at.x(), grips["scale"].at.y())
        middle = viewer.to_widget(x, y)
        drag(viewer, corner.toPoint(), (middle + (corner - middle) * 0.5).toPoint())
        assert window.session.shown("plates/title/scale_x") == pytest.approx(0.5, abs=0.05)
        turn = viewer.to_widget(
            *next((g.at.x(), g.at.y()) for g in window.picture_bay.handles.grips() if g.sort == "turn")
        )
        drag(viewer, turn.toPoint(), (middle + QPointF(60, 0)).toPoint())
        assert window.session.shown("plates/title/turn") == pytest.approx(90, abs=4)

    def test_gradient_ends_on_the_map(self, window):
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/fade")
        viewer = window.map_bay.viewer
        start = window.session.shown("maps/heat-columns/steps/fade/start")
        drag(viewer, viewer.to_widget(*start).toPoint(), viewer.to_widget(200, 500).toPoint())
        assert window.session.shown("maps/heat-columns/steps/fade/start") == pytest.approx((200, 500), abs=3)

    def test_dropped_files_become_plates(self, window, tmp_path):
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(write_png(tmp_path / "drop.png", coded(32, 16))))])
        event = QDropEvent(QPointF(700, 200), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
        window.dropEvent(event)
        assert window.session.shot.plates[0].kind == "still"

    @pytest.mark.parametrize(("keys", "starts"), [("NoModifier", [0, 120, 240]), ("ShiftModifier", [None, None, None])])
    def test_dropped_clips_lie_in_a_row_or_on_top(self, window, keys, starts):
        window.session.take(Shot(width=160, height=90, rate=Fraction(24), length=100))
        clips = [FOLDER / "media" / f"{name}.mp4" for name in ("stall", "crowd", "rain")]
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(clip)) for clip in clips])
        held = Qt.KeyboardModifier[keys]
        window.dropEvent(QDropEvent(QPointF(700, 200), Qt.DropAction.CopyAction, data, LEFT, held))
        plates = [next(p for p in window.session.shot.plates if p.name == clip.stem) for clip in clips]
        assert [plate.start for plate in plates] == starts

    def test_stack_selects_folds_and_switches(self, window):
        stack = window.picture_bay.stack
        QTest.mouseClick(stack, LEFT, pos=QPoint(120, 22 * 4 + 8))
        assert window.session.selection.quake == "plates/lanterns/effects/push"
        assert window.session.selection.map == "maps/slow-swell"
        QTest.mouseClick(stack, LEFT, pos=QPoint(8, 10))
        assert "plates/title/effects/push" not in [row.path for row in stack.rows]

    @pytest.mark.parametrize("motion", [Formula("1 / 0"), Driven(0.0, 9.0, drivers()["sound"]({"band": "gone"}))])
    def test_a_value_without_a_number_is_marked_and_all_else_goes_on(self, window, qtbot, motion):
        """A driver that names a band which is not there; while it plays, too, when the coupling looks at settings."""
        window.session.set_frame(40)
        window.session.select(plate="plates/title")
        for path in ("plates/title/turn", "plates/title/effects/push/reach_x"):
            window.session.edit("x", set_value(window.session.shot, path, motion))
        why = "divides by zero" if isinstance(motion, Formula) else "there is no band"
        qtbot.waitUntil(lambda: why in window.status.hint.text(), timeout=20_000)
        assert window.picture_bay.message == ""
        assert window.frames.last.picture is not None
        (label,) = [label for label in window.picture_bay.settings.findChildren(QLabel) if label.text() == "! Turn"]
        assert why in label.toolTip()
        push = window.session.operator_now("plates/title/effects/push")
        assert push.reach_x == type(push).declared["reach_x"].default, "graph and signs go on as well"
        window.frames.play()
        qtbot.waitUntil(lambda: window.frames.last is not None and not window.frames.last.request.probe, timeout=20_000)
        window.frames.stop()
        window.session.undo()
        window.session.undo()
        assert label.text() == "Turn"

    def test_a_missing_file_can_be_found(self, window, qtbot, tmp_path, monkeypatch):
        items.plate_from_file(window.session, str(tmp_path / "gone.png"))
        arrived(window, qtbot)
        editor = window.picture_bay.settings.editors["file"]
        assert editor.button.text().startswith("Find")
        found = write_png(tmp_path / "found.png", coded(32, 16))
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(found), ""))
        QTest.mouseClick(editor.button, LEFT)
        assert window.session.raw(f"{window.session.selection.plate}/file") == str(found)


class TestEmitterHandles:
    """What is dragged of a step's box is what counts: a line has no height, a point no size."""

    @pytest.fixture
    def path(self, window, qtbot) -> str:
        window.session.select(map="maps/heat-columns", step="maps/heat-columns/steps/blur")
        items.new_step(window.session, "particles")
        arrived(window, qtbot)
        return window.session.selection.step

    @pytest.mark.parametrize(("emitter", "boxes"), [("point", 0), ("line", 1), ("box", 1), ("map", 0)])
    def test_as_many_as_count(self, window, path, emitter, boxes):
        window.session.set(f"{path}/emitter", emitter)
        sorts = [grip.sort for grip in window.picture_bay.step_handles.grips()]
        assert sorts.count("box") == boxes
        assert sorts.count("place") == (0 if emitter == "map" else 1)

    def test_a_line_is_drawn_longer_and_keeps_its_hidden_height(self, window, path):
        window.session.set(f"{path}/emitter", "line")
        window.session.set(f"{path}/place", (500.0, 300.0))
        handles, viewer = window.picture_bay.step_handles, window.picture_bay.viewer
        height = window.session.shown(f"{path}/height")
        corner = next(grip.at for grip in handles.grips() if grip.sort == "box")
        assert corner.y() == 300
        start, end = (viewer.to_widget(x, y).toPoint() for x, y in ((corner.x(), corner.y()), (800, 360)))
        drag(viewer, start, end)
        assert window.session.shown(f"{path}/width") == pytest.approx(600, abs=6)
        assert window.session.shown(f"{path}/height") == height
        window.session.undo()
        assert window.session.shown(f"{path}/width") == 400


def test_a_lens_says_on_how_many_plates_it_acts_in_the_frame_that_is_shown(window, qtbot):
    """Those beneath it in its group that are on and there at that time; not by the settings alone."""

    def rest(id: str, **more) -> Plate:
        return Plate(id=id, kind="fill", **more)

    lens = Plate(id="glass", kind="lens")
    plates = (rest("top"), lens, rest("a"), rest("b", start=10), rest("c", on=False))
    window.session.take(Shot(width=320, height=180, length=20, plates=plates))
    window.session.select(plate="plates/glass")
    label = window.picture_bay.kind_label
    qtbot.waitUntil(lambda: label.text() == "lens plate, on 1 plate", timeout=20_000)
    window.session.set_frame(12)
    qtbot.waitUntil(lambda: label.text() == "lens plate, on 2 plates", timeout=20_000)
    window.session.select(plate="plates/a")
    qtbot.waitUntil(lambda: label.text() == "fill plate", timeout=20_000)
    window.session.take(Shot(width=320, height=180, length=20, plates=(rest("top"), lens)))
    window.session.select(plate="plates/glass")
    qtbot.waitUntil(lambda: label.text() == "lens plate, on nothing", timeout=20_000)


def test_what_is_said_of_a_plate_widens_no_column(window):
    """Long facts end in dots before the two sides; the list of plates keeps its eyes."""
    bay = window.picture_bay
    window.session.select(plate="plates/lanterns", quake="")
    bay.kind_label.setText("12800 x 7200 · 59.94 fps · 1234 s, many more words than there is room for")
    QApplication.processEvents()
    left = bay.settings.mapTo(bay, QPoint()).x()
    assert bay.stack.mapTo(bay, bay.stack.rect().topRight()).x() < left
    assert bay.kind_label.mapTo(bay, bay.kind_label.rect().topRight()).x() <= bay.sides.mapTo(bay, QPoint()).x()
    assert bay.kind_label.grab() is not None
    assert bay.kind_label.toolTip().startswith("12800")
