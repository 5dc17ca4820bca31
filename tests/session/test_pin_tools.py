"""Reshaping pins, spans of effects, and what of a seamless loop does not close."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.motion.kinds.keys import keyed_value
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path
from nimble_quake.session.moving import pin_tools, seamless
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot

TURN = "plates/p/turn"
PUSH = "plates/p/effects/e"
REACH = f"{PUSH}/reach_x"


def keys(*pairs: tuple[float, float], after: str = "straight") -> Keys:
    return Keys(tuple(Key(frame=frame, value=value, after=after) for frame, value in pairs))


@pytest.fixture
def session() -> Session:
    session = Session()
    push = Node(id="e", kind="push", values={"map": "m"})
    plate = Plate(id="p", kind="text", effects=(push,), values={"turn": keys((0, 0.0), (10, 5.0), (30, 1.0))})
    session.take(Shot(length=96, rate=Fraction(24), plates=(plate,), maps=(Map(id="m", name="M"),)))
    return session


def chosen(session: Session) -> set[tuple[str, float]]:
    return pin_tools.all_pins(session)


def test_reversed_pins_run_backwards_and_twice_is_once(session):
    before = session.raw(TURN)
    pin_tools.reverse(session, chosen(session))
    after = session.raw(TURN)
    for frame in range(31):
        assert keyed_value(after, frame) == pytest.approx(keyed_value(before, 30 - frame))
    pin_tools.reverse(session, chosen(session))
    assert [(k.frame, k.value) for k in session.raw(TURN).keys] == [(k.frame, k.value) for k in before.keys]


def test_eased_pins_reversed_keep_their_curve(session):
    eased = Keys((Key(frame=0, value=0.0, after="eased", ease=(0.9, 0.0, 1.0, 1.0)), Key(frame=20, value=8.0)))
    session.edit("k", set_value(session.shot, TURN, eased))
    pin_tools.reverse(session, chosen(session))
    for frame in range(21):
        assert keyed_value(session.raw(TURN), frame) == pytest.approx(keyed_value(eased, 20 - frame), abs=1e-6)


def test_repeated_pins_go_round_to_the_end(session):
    session.edit("k", set_value(session.shot, TURN, keys((0, 0.0), (10, 5.0), (20, 0.0))))
    pin_tools.repeat(session, chosen(session))
    found = session.raw(TURN)
    assert found.keys[-1].frame == 90
    assert [keyed_value(found, n) for n in (10, 30, 50, 70, 90)] == [5, 5, 5, 5, 5]


def test_pins_that_are_not_needed_go(session):
    many = keys(*((n, float(n if n < 40 else 80 - n)) for n in range(81)))
    session.edit("k", set_value(session.shot, TURN, many))
    pin_tools.simplify(session, chosen(session))
    assert [key.frame for key in session.raw(TURN).keys] == [0, 40, 80]


def test_stretched_smoothed_and_said(session):
    shot = pin_tools.stretched(session.shot, chosen(session), 0, 2)
    assert [key.frame for key in shot.plates[0].values["turn"].keys] == [0, 20, 60]
    pin_tools.smooth_all(session)
    assert {key.after for key in session.raw(TURN).keys} == {"smooth"}
    said: list[str] = []
    session.message.connect(said.append)
    pin_tools.reverse(session, set())
    pin_tools.repeat(session, set())
    assert len(said) == 2


def test_a_span_is_given_dragged_with_its_pins_and_taken_away(session, tmp_path):
    session.set_frame(12)
    pin_tools.give_span(session, PUSH)
    node = session.shot.plates[0].effects[0]
    assert node.span == (12, 36)
    assert node.fades == (4, 4)
    session.edit("k", set_value(session.shot, REACH, keys((12, 0.0), (24, 9.0), (36, 0.0))))
    longer = pin_tools.with_span(session.shot, PUSH, (12, 60), pins=True)
    assert [key.frame for key in longer.plates[0].effects[0].values["reach_x"].keys] == [12, 36, 60]
    alone = pin_tools.with_span(session.shot, PUSH, (12, 60), pins=False)
    assert [key.frame for key in alone.plates[0].effects[0].values["reach_x"].keys] == [12, 24, 36]
    path = tmp_path / "kept.nquake"
    session.save(path)
    assert read_shot(path).plates[0].effects[0].span == (12, 36)
    pin_tools.give_span(session, PUSH)
    assert session.shot.plates[0].effects[0].span is None


class TestSeamless:
    def test_the_sample_closes_to_the_bit_and_others_do_not(self):
        path = sample_path("endless-loop")
        assert path is not None
        shot, engine = read_shot(path), Engine()
        first, last = (frame_picture(frame_job(engine, shot, n), 0.25) for n in (0, shot.length))
        assert np.array_equal(first, last)
        assert seamless.leaks(engine, shot) == []

    @pytest.mark.parametrize(
        ("value", "word"),
        [
            (Rate(0.0, 10.0), "rate"),
            (Formula("t * 3"), "swing"),
            (keys((0, 0.0), (50, 9.0)), "last pin"),
            (Driven(0.0, 1.0, drivers()["beat"]({"of": "tempo", "tempo": 7.0})), "beat"),
        ],
    )
    def test_what_does_not_close_is_named_with_a_cure(self, session, value, word):
        session.edit("v", set_value(session.shot, REACH, value))
        session.edit("t", set_value(session.shot, TURN, None))
        found = seamless.leaks(session.engine, session.shot)
        assert [leak.path for leak in found] == [REACH]
        assert word in found[0].cure

    def test_what_closes_is_not_named(self, session):
        seamless.toggle(session)
        wave, jitter = (Driven(0.0, 5.0, drivers()[kind]({})) for kind in ("wave", "jitter"))
        for value in (wave, jitter, Layered(2.0, (wave, jitter)), keys((0, 3.0), (50, 9.0), (96, 3.0))):
            session.edit("v", set_value(session.shot, REACH, value))
            session.edit("t", set_value(session.shot, TURN, Rate(0.0, 91.0)))
            assert seamless.leaks(session.engine, session.shot) == [], value

    def test_noise_closes_by_the_switch_and_other_maps_are_named(self, session):
        noise = Map(id="m", name="M", recipe=(Node(id="n", kind="noise", values={"churn": 0.7}),))
        particles = Map(id="q", name="Q", recipe=(Node(id="n", kind="static"),))
        shot = Shot(length=48, rate=Fraction(24), width=160, height=90, maps=(noise, particles))
        assert {leak.path.split("/")[1] for leak in seamless.leaks(Engine(), shot)} == {"m", "q"}
        closed = Shot(length=48, rate=Fraction(24), width=160, height=90, maps=(noise,), seamless=True)
        assert [leak for leak in seamless.leaks(Engine(), closed) if not leak.path.endswith("churn")] == []
