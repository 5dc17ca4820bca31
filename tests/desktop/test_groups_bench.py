"""Groups and live copies in the window."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from driving import LEFT, QTest, arrived, press
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.session.verbs import grouping, items
from nimble_quake.shotfile.files import read_shot

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


def rows(window) -> list[tuple[str, int]]:
    return [(row.title, row.depth) for row in window.picture_bay.stack.rows]


def at_row(window, title: str, x: float) -> QPointF:
    """A place in a row of the stack."""
    index = [row.title for row in window.picture_bay.stack.rows].index(title)
    return QPointF(x, (index + 0.5) * 22)


class TestGroups:
    def test_two_plates_are_put_into_a_group_saved_and_folded(self, window, qtbot, tmp_path):
        stack = window.picture_bay.stack
        QTest.mouseClick(stack, LEFT, pos=at_row(window, "Title", 120).toPoint())
        QTest.mouseClick(stack, LEFT, CTRL, at_row(window, "Emblem", 120).toPoint())
        arrived(window, qtbot)
        before = window.frames.last.picture.copy()
        press(Qt.Key.Key_G, CTRL | ALT)
        assert rows(window)[:4] == [("Group", 0), ("Title", 1), ("Push", 2), ("Emblem", 1)]
        arrived(window, qtbot)
        assert (window.frames.last.picture == before).all()  # a group that only holds changes nothing
        window.session.save(tmp_path / "grouped.nquake")
        assert read_shot(tmp_path / "grouped.nquake") == window.session.to_keep()
        QTest.mouseClick(stack, LEFT, pos=at_row(window, "Group", 8).toPoint())
        assert [title for title, _ in rows(window)][:2] == ["Group", "Market street"]
        assert "Emblem" not in [row.label for row in window.time.lanes.rows]
        QTest.mouseClick(stack, LEFT, pos=at_row(window, "Group", 8).toPoint())
        window.session.undo()
        assert rows(window)[0] == ("Title", 0)

    def test_a_plate_is_dragged_into_a_group_and_out(self, window):
        stack, session = window.picture_bay.stack, window.session
        session.select(plate="plates/title")
        press(Qt.Key.Key_G, CTRL | ALT)
        stack.moved.emit("plates/emblem", 1)
        assert session.shot.plate("emblem").inside == "group"
        stack.setFocus()
        session.select(plate="plates/emblem")
        stack.current = "plates/emblem"
        press(Qt.Key.Key_Up, ALT)
        assert session.shot.plates[0].id == "emblem"
        assert session.shot.plate("emblem").inside == ""

    def test_a_live_copy_follows(self, window, qtbot):
        session = window.session
        session.select(plate="plates/title")
        press(Qt.Key.Key_D, CTRL | ALT)
        copy = session.selection.plate
        assert session.shown(f"{copy}/of") == "title"
        session.set(f"{copy}/position", (640.0, 600.0))
        arrived(window, qtbot)
        before = window.frames.last.picture.copy()
        session.set("plates/title/words", "STALL")
        arrived(window, qtbot)
        low = slice(before.shape[0] * 3 // 4, None)
        assert (window.frames.last.picture[low] != before[low]).any()

    def test_a_plate_is_split_by_its_mask_and_adds_up(self, window, qtbot):
        """Subject and rest, added, are the picture: to a rounding of 8 bit, mask edges included."""
        session = window.session
        session.select(plate="plates/lanterns")
        while session.shot.plate("lanterns").effects:
            items.remove_item(session, f"plates/lanterns/effects/{session.shot.plate('lanterns').effects[0].id}")
        before = frame_picture(frame_job(session.engine, session.shot, 40))
        grouping.split(session, "plates/lanterns")
        assert session.shown("plates/lanterns/mask")
        group = grouping.split(session, "plates/lanterns")
        assert rows(window)[-3:] == [("Market street", 0), ("Market street, subject", 1), ("Market street, rest", 1)]
        after = frame_picture(frame_job(session.engine, session.shot, 40))
        assert np.abs(before - after).max() < 1e-6
        session.set(f"{group}/opacity", 0.5)
        assert (frame_picture(frame_job(session.engine, session.shot, 40)) != after).any()

    def test_a_shape_fills_the_frame_in_one_action(self, window):
        session = window.session
        path = items.new_plate(session, "shape", turn=30.0, position=(10.0, 10.0))
        press(Qt.Key.Key_J, CTRL | Qt.KeyboardModifier.ShiftModifier)
        assert session.shown(f"{path}/width") == 1280
        assert session.shown(f"{path}/position") == (640, 360)
        assert session.shown(f"{path}/turn") == 0
        session.undo()
        assert session.shown(f"{path}/turn") == 30
