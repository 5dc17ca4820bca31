"""Motions and sounds of the open shot: gestures, baking, following, sounds, bands, beats; saved and opened again."""

from __future__ import annotations

import numpy as np
import pytest

from media.test_sound import write_wav
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.motion.motion import value_at
from nimble_quake.operators.base import Context
from nimble_quake.operators.hits import living_at
from nimble_quake.operators.registry import registry
from nimble_quake.render.services import frame_job
from nimble_quake.samples import draw_sound, sample_path
from nimble_quake.session.moving import gestures, motions
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects, grouping, items, sounds
from nimble_quake.session.work import Work
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.edits.settings import put_marker, set_shot
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import find, node_path

TURN = "plates/p/turn"
ANGLE = "maps/m/steps/n/turn"


@pytest.fixture
def session() -> Session:
    session = Session()
    noise = Node(id="n", kind="noise", values={"turn": 30.0})
    plates = (Plate(id="p", kind="text"), Plate(id="q", kind="text"), Plate(id="r", kind="text"))
    session.take(Shot(maps=(Map(id="m", name="M", recipe=(noise,)),), plates=plates, length=100))
    return session


def reopened(session: Session, tmp_path) -> Session:
    path = tmp_path / "kept.nquake"
    session.save(path)
    other = Session()
    other.open(path)
    assert other.shot == session.to_keep()
    return other


@pytest.mark.parametrize("kind", ["keys", "rate", "formula", *drivers()])
def test_every_motion_begins_is_one_step_and_is_kept(session, tmp_path, kind):
    motions.set_motion(session, ANGLE, kind)
    assert motions.kind_of_motion(session.raw(ANGLE)) == kind
    motions.lay_over(session, ANGLE, "jitter")
    assert isinstance(reopened(session, tmp_path).raw(ANGLE), Layered)
    motions.take_off(session, ANGLE, 0)
    assert not isinstance(session.raw(ANGLE), Layered)
    session.undo()
    session.undo()
    session.undo()
    assert session.raw(ANGLE) == 30.0


def test_following_itself_is_refused_and_said(session):
    motions.follow(session, TURN, ANGLE)
    assert session.shown(TURN) == 30
    said: list[str] = []
    session.message.connect(said.append)
    motions.follow(session, ANGLE, TURN)
    assert session.raw(ANGLE) == 30.0
    assert "follows itself" in said[-1]


def test_gestures_lie_over_the_loop_markers_a_span_or_the_shot(session):
    gesture = gestures.GESTURES["swell"]

    def frames() -> list[float]:
        return [
            key.frame for key in gestures.with_gesture(session, ANGLE, gesture).maps[0].recipe[0].values["turn"].keys
        ]

    assert frames() == [0, 50, 99]
    session.edit("m", put_marker(put_marker(session.shot, 10, "a"), 30, "b"))
    session.set_frame(15)
    assert frames() == [10, 20, 30]
    session.edit("l", set_shot(session.shot, loop=(40, 61)))
    assert frames() == [40, 50, 60]


def test_a_gesture_has_its_middle_on_a_chosen_marker(session):
    """A second before and after, or as much as there is of the shot."""
    session.edit("m", put_marker(put_marker(session.shot, 40, "Impact"), 10, ""))
    around = {over.words: over for over in gestures.ranges(session, ANGLE) if over.middle is not None}
    assert set(around) == {"a second about Impact", "a second about the marker at 10"}
    found = []
    for over in around.values():
        shot = gestures.with_gesture(session, ANGLE, gestures.GESTURES["swell"], over)
        keys = shot.maps[0].recipe[0].values["turn"].keys
        assert keys[1].value == max(key.value for key in keys)
        found.append([key.frame for key in keys])
    assert sorted(found) == [[0, 10, 40], [10, 40, 70]]


def test_hits_take_all_markers_or_those_that_are_named(session):
    session.edit("m", put_marker(put_marker(session.shot, 10, "Hit"), 30, "Rest"))
    session.edit("n", put_marker(session.shot, 50, "hit "))
    moment = session.moment
    assert moment.marker_frames() == (10, 30, 50)
    assert moment.marker_frames("HIT, nobody") == (10, 50)
    kind = registry().get("source", "rings")
    at = Context(session.moment_at(52), frame_job(session.engine, session.shot, 52))
    hits = {named: living_at(kind.with_defaults(when="markers", named=named), at, 9.0) for named in ("", "rest")}
    assert [len(found) for found in hits.values()] == [3, 1]


def test_a_gesture_at_every_beat(session):
    session.edit("b", set_shot(session.shot, beats=(10.0, 30.0)))
    shot = gestures.with_gesture(session, ANGLE, gestures.GESTURES["beats"])
    keys = shot.maps[0].recipe[0].values["turn"].keys
    assert [(key.frame, key.value) for key in keys] == [(10, 30), (20, 0), (30, 30), (65, 0)]


def test_staggered_pins_are_each_a_little_later(session):
    session.edit("k", set_value(session.shot, TURN, Keys((Key(frame=5, value=1.0), Key(frame=9, value=2.0)))))
    session.mark(frozenset({"plates/p", "plates/q", "plates/r"}))
    gestures.stagger(session, TURN, 4)
    starts = [session.raw(f"plates/{id}/turn").keys[0].frame for id in "pqr"]
    assert starts == [5, 9, 13]


def test_baked_pins_keep_to_the_course(session):
    wave = Driven(0.0, 50.0, drivers()["wave"]({"period": 1.5}))
    session.edit("w", set_value(session.shot, ANGLE, wave))
    before = [session.moment_at(n) for n in range(0, 100, 3)]
    values = [value_at(wave, moment) for moment in before]
    motions.bake(session, ANGLE)
    keys = session.raw(ANGLE)
    assert isinstance(keys, Keys)
    assert len(keys.keys) < 70
    found = [value_at(keys, moment) for moment in before]
    assert np.abs(np.subtract(values, found)).max() <= 1.01


def test_a_typed_value_is_what_is_seen_whatever_moves_it(session):
    wave = drivers()["wave"]({})
    keys = Keys((Key(frame=0, value=1.0), Key(frame=50, value=9.0)))
    over = (Driven(0.0, 3.0, wave),)
    for value in (Driven(5.0, 3.0, wave), Layered(2.0, over), Layered(keys, over), Rate(1.0, 2.0)):
        session.edit("v", set_value(session.shot, ANGLE, value))
        session.set_frame(7)
        session.set(ANGLE, 33.0)
        assert session.shown(ANGLE) == pytest.approx(33)


class TestSounds:
    def test_added_found_moved_and_kept(self, session, tmp_path):
        path = sounds.add_sound(session, str(draw_sound.FILE))
        assert session.selection.sound == path
        assert sounds.sounds_missing(session) == [str(draw_sound.FILE)]
        assert sounds.decode(session.engine.recordings, sounds.sounds_missing(session)) == []
        assert sounds.sounds_missing(session) == []
        session.edit("l", set_shot(session.shot, length=240))
        band = sounds.add_band(session)
        assert session.shown(f"{band}/of") == "market-drums"
        work = Work("x", 100)
        found = sounds.find_beats(session, session.shot, "", "", work)
        assert found is not None
        assert found.tempo == pytest.approx(120, rel=0.01)
        sounds.keep_beats(session, found, hits=False)
        beats = np.array(session.shot.beats)
        assert np.abs(beats / 15 - np.rint(beats / 15)).max() * 15 / 30 < 0.02, "every half second, within 20 ms"
        session.set(f"{path}/gain", -6.0)
        other = reopened(session, tmp_path)
        assert other.shown(f"{path}/gain") == -6
        assert other.shot.beats == session.shot.beats
        items.remove_item(session, path)
        assert session.shot.sounds == ()
        session.undo()
        assert len(session.shot.sounds) == 1

    def test_beats_by_hand(self, session):
        for frame in (10, 22, 35, 46):
            session.set_frame(frame)
            sounds.tap_beat(session)
        sounds.tap_beat(session)
        assert session.shot.beats == (10, 22, 35)
        session.undo()
        sounds.steady_beats(session)
        gaps = np.diff(session.shot.beats)
        assert gaps == pytest.approx([gaps[0]] * len(gaps), abs=0.01)
        assert gaps[0] == pytest.approx(12.1, abs=0.1)
        count = len(session.shot.beats)
        sounds.double_beats(session)
        assert len(session.shot.beats) == 2 * count - 1
        sounds.halve_beats(session)
        assert len(session.shot.beats) == count
        sounds.move_beats(session, 2)
        sounds.clear_beats(session)
        assert session.shot.beats == ()
        said: list[str] = []
        session.message.connect(said.append)
        sounds.steady_beats(session)
        assert "Tap two beats" in said[-1]

    def test_silence_has_no_beats_and_says_so(self, session, tmp_path):
        sounds.add_sound(session, str(write_wav(tmp_path / "none.wav", np.zeros((48_000, 2)))))
        found = sounds.find_beats(session, session.shot, "", "", Work("x", 100))
        assert found is not None
        said: list[str] = []
        session.message.connect(said.append)
        sounds.keep_beats(session, found, hits=True)
        assert "No beats" in said[-1]

    def test_a_lost_sound_is_said_and_nothing_else_suffers(self, session, tmp_path):
        sounds.add_sound(session, str(tmp_path / "gone.wav"))
        wrong = sounds.decode(session.engine.recordings, sounds.sounds_missing(session))
        assert "gone.wav" in wrong[0]
        assert sounds.sounds_missing(session) == []
        motions.set_motion(session, ANGLE, "sound")
        assert session.shown(ANGLE) is not None


def test_formulas_that_read_themselves_are_said(session):
    session.edit("f", set_value(session.shot, ANGLE, Formula(f'value("{ANGLE}")')))
    with pytest.raises(Exception, match="follows itself"):
        value_at(session.raw(ANGLE), session.moment)


OPACITY, SCALE, REACH = "plates/title/opacity", "plates/title/scale_x", "plates/title/effects/push/reach_x"


@pytest.mark.parametrize(
    ("path", "name", "wanted"),
    [
        (OPACITY, "leave", [1, 0]),
        (OPACITY, "arrive", [0, 1]),
        (OPACITY, "swell", [0, 1, 0]),
        (SCALE, "leave", [1, 1.5]),
        (SCALE, "swell", [1, 1.5, 1]),
        (SCALE, "sway", [0.5, 1, 1.5]),
        (REACH, "swell", [0, 60, 0]),
        (REACH, "arrive", [60, 0]),
    ],
)
def test_a_gesture_knows_what_changes_nothing(path, name, wanted):
    """100 % for a scale, 0 for a reach; what can be not there at all comes and goes."""
    session = Session()
    session.open(sample_path())
    session.edit("still", set_value(set_value(set_value(session.shot, OPACITY, None), SCALE, None), REACH, 60.0))
    shot = gestures.with_gesture(session, path, gestures.GESTURES[name])
    node = find(shot, node_path(path))
    assert [key.value for key in node.values[path.rsplit("/", 1)[1]].keys] == pytest.approx(wanted)


def test_a_gesture_keeps_its_time_from_the_end_it_lies_at(session):
    """What arrives takes as long in a longer shot; between markers it is stretched with them."""
    length = session.shot.length
    for name, anchor in (("arrive", "start"), ("leave", "end"), ("dwell", "both"), ("swell", "")):
        shot = gestures.with_gesture(session, ANGLE, gestures.GESTURES[name], gestures.Over("", 0, length - 1))
        assert shot.maps[0].recipe[0].values["turn"].anchor == anchor
    shot = gestures.with_gesture(session, ANGLE, gestures.GESTURES["dwell"], gestures.Over("", 10, 20))
    assert shot.maps[0].recipe[0].values["turn"].anchor == ""


def test_an_anchor_is_chosen_saved_and_stays_while_pins_change(session, tmp_path):
    session.edit("pins", set_value(session.shot, ANGLE, Keys((Key(frame=0.0, value=1.0), Key(frame=9.0, value=2.0)))))
    motions.keep_from(session, ANGLE, "end")
    session.set(ANGLE, 7.0)
    session.set_frame(4)
    session.start_moving(ANGLE)
    assert session.raw(ANGLE).anchor == "end"
    assert len(session.raw(ANGLE).keys) == 3
    reopened(session, tmp_path)
    session.undo()
    session.undo()
    session.undo()
    assert session.raw(ANGLE).anchor == ""


def test_a_gesture_from_the_playhead_on(session):
    session.set_frame(20)
    rate = float(session.shot.rate)
    over = gestures.ranges(session, ANGLE)
    assert [each.words for each in over[1:]] == ["0.5 s from here", "1 s from here", "2 s from here"]
    keys = gestures.with_gesture(session, ANGLE, gestures.GESTURES["swell"], over[2]).maps[0].recipe[0].values["turn"]
    assert [key.frame for key in keys.keys] == [20, 20 + round(rate / 2), 20 + rate]


def test_a_mask_is_of_what_was_clicked():
    session = Session()
    session.open(sample_path())
    session.select(plate="plates/title")
    assert session.selection.quake, "its quake is shown beside it"
    effects.draw_mask(session)
    assert session.raw("plates/title/mask")
    session.undo()
    session.select(effect="plates/title/effects/push")
    effects.draw_mask(session)
    assert session.raw("plates/title/effects/push/mask")
    assert not session.raw("plates/title/mask")


def test_a_plate_with_a_quake_is_split_by_its_own_mask():
    session = Session()
    session.open(sample_path())
    session.select(effect="plates/title/effects/push")
    grouping.split(session, "plates/title")
    assert session.raw("plates/title/mask"), "a mask is drawn of the plate first"
    assert grouping.split(session, "plates/title")
    assert [plate.name for plate in session.shot.plates[:3]] == ["Title", "Title, subject", "Title, rest"]
