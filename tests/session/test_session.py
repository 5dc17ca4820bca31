"""The program without a window: editing values that move, selection, verbs, pins, preferences, recovery."""

from __future__ import annotations

import os

import pytest

from helpers import coded, write_png
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.samples import sample_path
from nimble_quake.session.actions import ACTIONS, MENUS
from nimble_quake.session.moving import pins
from nimble_quake.session.moving.motions import set_motion
from nimble_quake.session.selection import Selection
from nimble_quake.session.state import Session
from nimble_quake.session.storage import preferences, recovery
from nimble_quake.session.verbs import effects, items
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find

REACH = "plates/title/effects/push/reach_x"


@pytest.fixture
def session() -> Session:
    made = Session()
    path = sample_path()
    assert path is not None
    made.open(path)
    return made


def test_opening_selects_what_there_is(session):
    assert session.selection == Selection(
        plate="plates/title",
        quake="plates/title/effects/push",
        map="maps/heat-columns",
        step="maps/heat-columns/steps/noise",
        aimed="plates/title/effects/push",
    )
    assert not session.dirty


def test_touching_a_still_value_never_makes_a_key(session):
    session.set("plates/title/size", 200.0)
    assert session.raw("plates/title/size") == 200.0
    session.set_frame(30)
    session.set("plates/title/size", 210.0)
    assert session.raw("plates/title/size") == 210.0


def test_a_keyed_value_gets_a_key_here(session):
    session.set_frame(50)
    session.set(REACH, 5.0)
    raw = session.raw(REACH)
    assert isinstance(raw, Keys)
    assert [key.value for key in raw.keys if key.frame == 50] == [5.0]


def test_a_rate_is_shifted(session):
    session.edit("rate", set_value(session.shot, "plates/title/turn", Rate(0.0, 10.0)))
    session.set_frame(24)
    session.set("plates/title/turn", 50.0)
    assert session.raw("plates/title/turn") == Rate(40.0, 10.0)


def test_pins_come_and_go(session):
    session.set_frame(10)
    session.start_moving("plates/title/turn")
    assert session.raw("plates/title/turn") == Keys((Key(frame=10.0, value=0.0),))
    session.set_frame(20)
    session.start_moving("plates/title/turn")
    session.set_frame(10)
    session.start_moving("plates/title/turn")
    session.set_frame(20)
    session.start_moving("plates/title/turn")
    assert session.raw("plates/title/turn") == 0.0


def test_motions_begin_at_the_value_now(session):
    path = "plates/title/position"
    set_motion(session, path, "formula")
    assert session.raw(path) == Formula("640, 300")
    set_motion(session, path, "rate")
    assert session.raw(path) == Rate((640.0, 300.0), (0.0, 0.0))
    set_motion(session, path, "still")
    assert session.raw(path) == (640.0, 300.0)


def test_labels_are_names(session):
    session.set("plates/title/effects/push/reach_y", 4.0)
    session.undo()
    assert session.history.future[-1][0] == "Change Push, down reach"
    session.redo()
    assert session.shown("plates/title/effects/push/reach_y") == 4.0


def test_removing_what_is_selected(session):
    items.remove_item(session, "plates/title")
    assert session.selection.plate == "plates/emblem"
    assert session.selection.quake == ""
    items.remove_item(session, "maps/heat-columns")
    assert session.selection.map == "maps/slow-swell"
    session.undo()
    session.undo()
    assert find(session.shot, "plates/title") is not None


def test_an_effect_from_an_empty_shot():
    """Text, a quake on it: it moves at once; a step more; the spread of one map over two plates."""
    session = Session()
    session.take(Shot())
    plate = items.new_plate(session, "text")
    quake = effects.new_quake(session)
    assert session.raw(f"{quake}/map") == "noise"
    assert session.selection.plate == plate
    step = items.new_step(session, "blur")
    assert session.selection.step == step
    added = items.new_step(session, "gradient")
    assert session.raw(f"{added}/combine") == "add"
    items.swap_kind(session, added, "noise")
    assert session.operator(added).kind == "noise"  # type: ignore[union-attr]
    items.duplicate_item(session, plate)
    assert len(session.shot.users_of("noise")) == 2
    items.centre(session, plate, "x")
    items.lock(session, plate)
    items.switch(session, quake)
    items.rename(session, plate, "Big words")
    items.reset(session, quake)
    assert session.raw(f"{quake}/map") == "noise"
    count = len(session.history.past)
    for _ in range(count):
        session.undo()
    assert session.shot == Shot()


def test_files_become_plates(tmp_path):
    session = Session()
    told: list[str] = []
    session.message.connect(told.append)
    items.plate_from_file(session, str(write_png(tmp_path / "sign.png", coded(20, 10))))
    assert (session.shot.plates[0].kind, session.shot.plates[0].name) == ("still", "sign")
    items.plate_from_file(session, str(tmp_path / "notes.txt"))
    assert len(session.shot.plates) == 1
    assert "no kind of file" in told[0]


@pytest.mark.parametrize(
    ("values", "way"),
    [
        ({}, (-0.963, -0.270)),
        ({"y_from": "none"}, (-1, 0)),
        ({"mode": "bearing", "bearing": 90.0, "reach_x": 5.0}, (0, 1)),
    ],
)
def test_ways(session, values, way):
    shot = session.shot
    for name, value in {"reach_x": 64.0, **values}.items():
        shot = set_value(shot, f"plates/title/effects/push/{name}", value)
    session.edit("x", shot)
    assert session.operator_now("plates/title/effects/push").white_goes() == pytest.approx(way, abs=0.01)


class TestPins:
    def test_move_copy_paste_shape(self, session):
        chosen = {(REACH, 36.0), (REACH, 60.0)}
        session.edit("move", pins.moved(session.shot, chosen, 2, REACH, 10.0, session.param(REACH)))
        raw = session.raw(REACH)
        assert [(key.frame, key.value) for key in raw.keys][1:3] == [(38.0, 74.0), (62.0, 58.0)]
        held = pins.copied(session, {(REACH, 38.0), (REACH, 62.0)})
        session.set_frame(100)
        assert pins.paste(session, held) == {(REACH, 100.0), (REACH, 124.0)}
        other = "plates/emblem/turn"
        pins.paste(session, held, other)
        assert isinstance(session.raw(other), Keys)
        pins.shape_pins(session, {(REACH, 100.0)}, "hold")
        assert next(key.after for key in session.raw(REACH).keys if key.frame == 100) == "hold"
        pins.remove_pins(session, {(REACH, key.frame) for key in session.raw(REACH).keys})
        assert not isinstance(session.raw(REACH), Keys)

    def test_frames(self, session):
        assert pins.pin_frames(session)[0] == 12.0
        assert 144.0 in pins.snap_frames(session)
        assert pins.has_pin(session, REACH, 36.0)
        assert not pins.has_pin(session, "plates/gone/size", 36.0)


def test_preferences(tmp_path):
    found = preferences.load()
    found.theme = "light"
    for n in range(20):
        found.remember(tmp_path / f"{n}.nquake")
    preferences.save(found)
    assert preferences.load() == found
    assert len(found.recent) == 12
    (preferences.folder("config") / "preferences.json").write_text('{"theme": 5, "recent": ["a"], "x": 1}')
    assert preferences.load().theme == "dark"
    (preferences.folder("config") / "preferences.json").write_text("{")
    assert preferences.load() == preferences.Preferences()


def test_recovery(tmp_path):
    mine, crashed = recovery.Autosave(), recovery.Autosave()
    mine.write(Shot(name="mine"), None)
    assert recovery.lost_shots() == []  # this program still runs
    path = tmp_path / os.fsdecode(b"caf\xe9.nquake")  # a name that is no UTF-8
    crashed.write(Shot(name="lost"), path)
    assert recovery.lost_shots() == []
    crashed.abandon()
    (preferences.folder("state") / "unsaved-99999998.json").write_text("{")
    (found,) = recovery.lost_shots()
    assert (found.shot.name, found.path) == ("lost", path)
    (again,) = recovery.lost_shots()  # looking at it takes nothing away
    again.throw_away()
    assert recovery.lost_shots() == []
    mine.close()
    assert list(preferences.folder("state").glob("unsaved-*")) == [
        preferences.folder("state") / "unsaved-99999998.json"
    ]


@pytest.mark.parametrize(
    "text",
    [
        '{"window":[5]}',
        '{"window":["a",1]}',
        '{"recent":[1,null]}',
        '{"splitters":{"bays":"x"}}',
        '{"cache_mb":-1}',
        '{"autosave_seconds":0}',
        '{"preview":"huge"}',
        "[" * 5000,
        "\xff\xfe",
        '{"theme":true}',
    ],
)
def test_damaged_preferences_are_at_their_default(text):
    preferences.folder("config").mkdir(parents=True)
    (preferences.folder("config") / "preferences.json").write_text(text, encoding="latin-1")
    assert preferences.load() == preferences.Preferences()


def test_a_recent_shot_whose_name_is_no_text(tmp_path):
    found = preferences.load()
    found.remember(tmp_path / os.fsdecode(b"\xff.nquake"))
    preferences.save(found)
    assert preferences.load() == found


def test_actions_are_unique_and_in_menus():
    assert len({action.id for action in ACTIONS}) == len(ACTIONS)
    shortcuts = [action.shortcut for action in ACTIONS if action.shortcut]
    assert len(set(shortcuts)) == len(shortcuts)
    assert {action.menu for action in ACTIONS} == set(MENUS)


def test_bars_of_what_is_too_large_to_be_drawn_are_said_not_raised():
    session = Session()
    told: list[str] = []
    session.message.connect(told.append)
    session.take(Shot(plates=(Plate(id="t", kind="text", values={"words": "LANTERN " * 40, "size": 2000.0}),)))
    items.crop_bars(session, "plates/t")
    assert "pixels" in told[-1]


@pytest.mark.parametrize("over", [False, True])
def test_a_value_whose_driver_has_no_number_is_set_all_the_same(over):
    """A follower of a band that is not there: its base takes the number, and the driver stays."""
    session = Session()
    heard = Driven(0.0, 1.0, drivers()["sound"]({"band": "gone"}))
    session.take(
        Shot(plates=(Plate(id="p", kind="fill", values={"opacity": Layered(0.5, (heard,)) if over else heard}),))
    )
    session.set("plates/p/opacity", 0.25)
    found = session.raw("plates/p/opacity")
    assert (found.first if over else found.base) == 0.25
    assert found.drivers() == (heard.driver,)


def test_a_new_fill_is_seen():
    session = Session()
    items.new_plate(session, "fill")
    assert render_frame(Engine(), session.shot, 0, 0.1)[..., :3].max() > 0.3
