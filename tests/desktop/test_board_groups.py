"""The groups of boards: in the order that operators declare, with no list of them anywhere."""

from __future__ import annotations

from itertools import groupby

import pytest
from PyQt6.QtCore import Qt

from driving import focused, press, type_text
from nimble_quake.desktop.boards.entries import effect_entries, kinds
from nimble_quake.operators.registry import registry
from nimble_quake.samples import sample_path
from nimble_quake.session.state import Session


@pytest.fixture
def session() -> Session:
    session = Session()
    session.open(sample_path())
    session.select(plate="plates/title")
    return session


@pytest.mark.parametrize("family", ["source", "shaper", "quake", "finish"])
def test_a_group_stands_where_its_first_operator_does(session, family):
    steps = family in ("source", "shaper")
    found = kinds(session, family) if steps else effect_entries(session, family)
    ranks = {op.kind: op.rank for op in registry().playing("step" if steps else "effect")}
    groups = [(group, [ranks[e.key.split(":")[0]] for e in each]) for group, each in groupby(found, lambda e: e.group)]
    names = [name for name, _ in groups]
    assert len(names) == len(set(names)), "a group stands together"
    firsts = [min(own) for _, own in groups]
    assert firsts == sorted(firsts)
    assert all(own == sorted(own) for _, own in groups)


def test_an_operator_of_another_package_brings_its_group_along(session, monkeypatch):
    """A new group needs no edit: it stands by its operator's rank, between those of ours."""
    kind = registry().get("effect", "push")
    monkeypatch.setattr(kind, "group", "Night market")
    monkeypatch.setattr(kind, "rank", 2015)
    names = [group for group, _ in groupby(effect_entries(session, "quake"), lambda e: e.group)]
    assert names.index("Glass") < names.index("Night market") < names.index("Lens")


def seen_whole(window) -> bool:
    """Whether the current choice lies wholly within what is scrolled to."""
    board = window.board
    box, area = board.cells.current_box(), board.area
    top = board.cells.mapTo(area.viewport(), box.topLeft().toPoint()).y()
    return top >= 0 and top + box.height() <= area.viewport().height()


class TestKeys:
    def test_the_current_choice_is_scrolled_to(self, window, qtbot):
        window.resize(1280, 800)
        window.show_board("quake")
        window.board.cells.setFocus()
        keys = [entry.key for entry in window.board.cells.entries]
        seen = []
        for _ in range(len(keys)):
            seen.append(window.board.cells.current.key)
            assert seen_whole(window), window.board.cells.current.title
            press(Qt.Key.Key_Right)
        assert seen == keys
        for _ in range(3):
            press(Qt.Key.Key_Up)
            assert seen_whole(window)

    def test_it_is_seen_when_the_board_opens_again(self, window, qtbot):
        window.resize(1280, 800)
        window.show_board("quake")
        window.board.cells.setFocus()
        press(Qt.Key.Key_Left)
        last = window.board.cells.current.key
        press(Qt.Key.Key_Escape)
        window.show_board("quake")
        assert window.board.cells.current.key == last
        qtbot.waitUntil(lambda: seen_whole(window), timeout=2000)

    def test_up_and_down_go_to_the_row_above_and_below(self, window):
        window.show_board("quake")
        cells = window.board.cells
        cells.setFocus()
        press(Qt.Key.Key_Right)
        boxes = {entry.key: box for entry, box, _ in cells.boxes()}
        start = boxes[cells.current.key]
        press(Qt.Key.Key_Down)
        below = boxes[cells.current.key]
        assert below.top() > start.top()
        assert not any(start.top() < box.top() < below.top() for box in boxes.values())
        assert abs(below.left() - start.left()) == min(
            abs(box.left() - start.left()) for box in boxes.values() if box.top() == below.top()
        )
        press(Qt.Key.Key_Up)
        press(Qt.Key.Key_Up)
        assert boxes[cells.current.key].top() == max(box.top() for box in boxes.values()), "round at the end"

    def test_down_goes_from_what_is_typed_to_what_was_found(self, window):
        window.show_board("quake")
        assert focused() is window.board.search
        type_text("wave")
        found = window.board.cells.current.key
        press(Qt.Key.Key_Down)
        assert focused() == window.board.cells
        assert window.board.cells.current.key == found
