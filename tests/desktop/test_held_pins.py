"""Marks of switches, choices and words: one click pins them, they get a row in the strip, a change is a pin."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QWidget

from driving import LEFT, QTest, arrived, click, named, press
from helpers import rendered
from nimble_quake.desktop.time.paint import value_words
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.session.verbs import items
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.fragment import Landing, fragment_of, laid
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, shot_bytes, write_shot

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


class TestReferences:
    """A map or plate that is referred to is pinned as anything else: another one from a frame on."""

    def test_another_map_from_a_frame_on(self, window, qtbot):
        session = window.session
        black, white = (
            Map(id=name, name=name, recipe=(Node(id="f", kind="flat", values={"at_rest": False, "value": level}),))
            for name, level in (("black", 0.0), ("white", 1.0))
        )
        push = Node(id="q", kind="push", values={"map": "black", "reach_x": 30.0, "reach_y": 0.0, "rest_by": "two"})
        spot = {"width": 20.0, "height": 20.0, "position": (160.0, 90.0)}
        plate = Plate(id="p", kind="shape", values=spot, effects=(push,))
        session.take(Shot(width=320, height=180, length=60, maps=(black, white), plates=(plate,)))
        session.select(quake="plates/p/effects/q", plate="plates/p")
        window.refresh()
        path = "plates/p/effects/q/map"
        session.start_moving(path)
        session.set_frame(30)
        session.set(path, "white")
        assert [(key.frame, key.value) for key in session.raw(path).keys] == [(0, "black"), (30, "white")]

        def middle(frame: int) -> float:
            alpha = rendered(session.shot, frame)[..., 0]
            return float(np.nonzero(alpha > 0.5)[1].mean()) + 0.5

        assert middle(29) == pytest.approx(190, abs=1)
        assert middle(30) == pytest.approx(130, abs=1)
        arrived(window, qtbot)
        for map_id in ("black", "white"):
            assert [effect.id for _, effect in session.shot.users_of(map_id)] == ["q"]
        assert path in [row.path for row in window.time.lanes.rows]

    def test_both_maps_come_along_with_the_quake_and_keep_to_it(self, window):
        """Copied into another shot where their names are taken: its pins name the copies."""
        session = window.session
        keys = Keys((Key(frame=0.0, value="a", after="hold"), Key(frame=9.0, value="b", after="hold")))
        maps = tuple(Map(id=name, name=name, recipe=(Node(id="f", kind="noise"),)) for name in "ab")
        plate = Plate(id="p", kind="fill", effects=(Node(id="q", kind="push", values={"map": keys}),))
        shot = Shot(width=320, height=180, length=60, maps=maps, plates=(plate,))
        kinds = session.engine.operators.get
        fragment = fragment_of(shot, ["plates/p"], kinds)
        assert {map.id for map in fragment.shot.maps} == {"a", "b"}
        other = msgspec.structs.replace(shot, maps=(*maps, Map(id="c", name="c")))
        laid_on, _ = laid(other, fragment, Landing(links=False), kinds)
        named = [key.value for key in laid_on.plates[0].effects[0].values["map"].keys]
        assert len(set(named)) == 2
        assert not set(named) & {"a", "b", "c"}
        assert all(laid_on.map(id) is not None for id in named)

    def test_saved_and_opened_again(self, tmp_path):
        keys = Keys((Key(frame=0.0, value="a", after="hold"), Key(frame=9.0, value="", after="hold")))
        plate = Plate(id="p", kind="fill", values={"mask": keys, "acts": Keys((Key(frame=0.0, value=False),))})
        shot = Shot(maps=(Map(id="a", name="a"),), plates=(plate,))
        write_shot(shot, tmp_path / "s.nquake")
        assert read_shot(tmp_path / "s.nquake").plates == shot.plates

    @pytest.mark.parametrize("name", ["before", "after"])
    def test_what_the_bars_are_laid_out_by_stays_still(self, name, tmp_path):
        keys = Keys((Key(frame=0.0, value="a", after="hold"),))
        plate = Plate(id="p", kind="crossing", values={name: keys})
        (tmp_path / "s.nquake").write_bytes(shot_bytes(Shot(plates=(plate,)), None))
        with pytest.raises(NimbleQuakeError, match="cannot move"):
            read_shot(tmp_path / "s.nquake")


class TestSwitchedByPins:
    """Plates, effects and steps are switched over time: the eye in their row, Alt and a click, or its menu."""

    @pytest.fixture
    def lit(self, window):
        step = Node(id="s", kind="flat", values={"at_rest": False, "value": 1.0})
        push = Node(id="q", kind="push", values={"map": "m", "reach_x": 30.0, "reach_y": 0.0, "rest_by": "two"})
        spot = {"width": 20.0, "height": 20.0, "position": (160.0, 90.0)}
        plate = Plate(id="p", kind="shape", values=spot, effects=(push,))
        maps = (Map(id="m", name="M", recipe=(step,)),)
        window.session.take(Shot(width=320, height=180, length=60, maps=maps, plates=(plate,)))
        window.session.select(quake="plates/p/effects/q", plate="plates/p", step="maps/m/steps/s")
        window.refresh()
        return window

    def seen(self, session, frame: int) -> str:
        """What is seen: nothing, the spot in its place, or pushed to the left."""
        columns = np.nonzero(rendered(session.shot, frame)[..., 0].max(axis=0) > 0.5)[0]
        return "" if not len(columns) else {160: "still", 130: "pushed"}.get(round(columns.mean() + 0.5), "?")

    @pytest.mark.parametrize(
        ("path", "off"), [("plates/p", ""), ("plates/p/effects/q", "still"), ("maps/m/steps/s", "still")]
    )
    def test_off_from_here_and_on_again(self, lit, path, off):
        session = lit.session
        for frame in (20, 40):
            session.set_frame(frame)
            items.switch_here(session, path)
        assert [(key.frame, key.value) for key in session.raw(f"{path}/acts").keys] == [
            (0, True),
            (20, False),
            (40, True),
        ]
        assert [self.seen(session, frame) for frame in (0, 19, 20, 39, 40)] == ["pushed", "pushed", off, off, "pushed"]
        assert f"{path}/acts" in [row.path for row in lit.time.lanes.rows]
        items.switch(session, path)
        assert self.seen(session, 0) == off, "the eye switches it for the whole shot"

    def test_one_that_shares_its_values_is_switched_with_the_original(self, lit):
        """The pins stand where the values are; both rows say what is so."""
        session = lit.session
        shared = Node(id="q2", kind="push", shared="plates/p/effects/q")
        other = msgspec.structs.replace(session.shot.plates[0], id="o", effects=(shared,))
        session.take(msgspec.structs.replace(session.shot, plates=(*session.shot.plates, other)))
        lit.refresh()
        session.set_frame(20)
        items.switch_here(session, "plates/o/effects/q2")
        assert [key.value for key in session.raw("plates/p/effects/q/acts").keys] == [True, False]
        rows = {row.path: row for row in lit.picture_bay.stack.rows}
        assert [(rows[path].on, rows[path].pinned) for path in ("plates/p/effects/q", "plates/o/effects/q2")] == [
            (False, True)
        ] * 2
        assert self.seen(session, 20) == "still"

    def test_all_that_is_selected_with_it_in_one_step(self, lit):
        session = lit.session
        session.set_frame(20)
        session.mark(frozenset({"plates/p", "plates/p/effects/q"}))
        items.switch_here(session, "plates/p")
        assert not items.acts_now(session, "plates/p")
        assert not items.acts_now(session, "plates/p/effects/q")
        session.undo()
        assert items.acts_now(session, "plates/p")
        assert items.acts_now(session, "plates/p/effects/q")

    def test_by_alt_and_a_click_on_the_eye(self, lit, qtbot):
        session, stack = lit.session, lit.picture_bay.stack
        session.set_frame(30)
        row = next(n for n, row in enumerate(stack.rows) if row.path == "plates/p")
        eye = QPoint(stack.width() - 10, int(22 * (row + 0.5)))
        QTest.mouseClick(stack, LEFT, Qt.KeyboardModifier.AltModifier, eye)
        assert [key.value for key in session.raw("plates/p/acts").keys] == [True, False]
        assert (stack.rows[row].on, stack.rows[row].pinned) == (False, True)
        session.set_frame(10)
        qtbot.waitUntil(lambda: stack.rows[row].on)

    def test_a_matte_goes_on_although_a_pin_switches_it_off(self, lit):
        """As with the eye: what is cut by it does not appear whole."""
        session = lit.session
        off = Keys((Key(frame=0.0, value=False, after="hold"),))
        disc = Plate(id="d", kind="shape", values={"width": 8.0, "height": 8.0, "acts": off})
        cut = msgspec.structs.replace(session.shot.plates[0], effects=(), values={"width": 60.0, "matte": "d"})
        session.take(msgspec.structs.replace(session.shot, plates=(cut, disc)))
        columns = np.nonzero(rendered(session.shot, 5)[..., 0].max(axis=0) > 0.5)[0]
        assert 6 <= len(columns) <= 10

    def test_why_nothing_moves_says_so(self, lit, qtbot):
        session = lit.session
        session.set_frame(20)
        items.switch_here(session, "plates/p/effects/q")
        arrived(lit, qtbot)
        assert lit.frames.last.why == "It is switched off here, by a pin"


def test_pins_that_cannot_be_joined_say_so_beside_the_value(masked):
    """Three and four points: the first ones stay until the second pin, and a mark says why, there only."""
    session, path = masked.session, "maps/m/steps/d/outline"
    session.set("maps/m/steps/d/form", "polygon")
    three = ((0.1, 0.1), (0.4, 0.1), (0.2, 0.4))
    keys = (Key(frame=10.0, value=three), Key(frame=20.0, value=(*three, (0.0, 0.3))), Key(frame=30.0, value=three))
    session.set(path, Keys(keys))
    masked.refresh()
    for frame, told in ((5, ""), (15, "frame 10 and 20 have 3 and 4 points"), (25, "20 and 30 have 4 and 3"), (35, "")):
        session.set_frame(frame)
        assert told in session.fault(path)
        assert bool(session.fault(path)) == bool(told)
        assert masked.map_bay.settings.name_labels["outline"].text().startswith("!") == bool(told)
    held = Keys((msgspec.structs.replace(keys[0], after="hold"), keys[1]))
    session.edit("Hold", set_value(session.shot, path, held))
    session.set_frame(15)
    assert session.fault(path) == "", "it holds as it was asked to"


@pytest.mark.parametrize(
    ("name", "first", "later", "words"),
    [
        ("acts", True, False, ("on", "off")),
        ("blend", "normal", "screen", ("normal", "screen")),
        ("mask", "m", "", ("M", "none")),
        ("words", "TEA\nAND", "SOUP", ("TEA", "SOUP")),
    ],
)
def test_the_head_of_a_row_says_what_it_is_now(masked, name, first, later, words):
    session, path = masked.session, f"plates/t/{name}"
    session.edit("Set", set_value(session.shot, path, first))
    session.start_moving(path)
    session.set_frame(20)
    session.set(path, later)
    for frame, word in ((0, words[0]), (20, words[1])):
        session.set_frame(frame)
        assert value_words(session, session.param(path), session.shown(path)) == word
