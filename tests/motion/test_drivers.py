"""Drivers: what moves a value by itself. Most checks walk all of them."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import moment
from nimble_quake.errors import MotionError
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.files import decoded_value, encoded_value
from nimble_quake.motion.kinds import Driven, Formula, Key, Keys, Layered, Rate
from nimble_quake.motion.motion import integral, value_at, values_at
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number


class ShotServices:
    """A shot with a value that goes 3 a frame, a band that swells, a point that runs, and beats each half second."""

    def __init__(self) -> None:
        self.sums: dict[object, object] = {}

    def other_value(self, path: str, moment: Moment) -> tuple[float, ...]:
        if path == "gone":
            raise MotionError("there is no value")
        return (float(moment.frame) * 3,)

    def beat_frames(self) -> tuple[float, ...]:
        return tuple(float(n) for n in range(6, 240, 12))

    def marker_frames(self, named: str = "") -> tuple[float, ...]:
        return (10.0, 50.0)

    def level(self, band: str, seconds: float, attack: float, release: float) -> float:
        return min(1.0, seconds / 4)

    def tracked_motion(self, plate, points, frame, since):
        gone = float(frame - since)
        return (gone, -gone, gone * 2, gone / 100)


def at(frame: float, *, loops: bool = False) -> Moment:
    return replace(moment(frame), services=ShotServices(), loops=loops)


def made(kind: str, base: object = 10.0, amount: object = 4.0, **settings: object) -> Driven:
    return Driven(base, amount, drivers()[kind](settings))


@pytest.mark.parametrize("kind", list(drivers()))
class TestEvery:
    def settings(self, kind: str) -> dict[str, object]:
        asked: dict[str, dict[str, object]] = {
            "follow": {"path": "a"},
            "track": {"plate": "p"},
            "sound": {"band": "low"},
        }
        return asked.get(kind, {})

    def test_any_frame_alone_equals_the_same_in_sequence(self, kind):
        motion = made(kind, **self.settings(kind))
        once = [value_at(motion, at(n)) for n in range(50)]
        assert once == [value_at(motion, at(n)) for n in reversed(range(50))][::-1]
        assert all(math.isfinite(n) for n in once)

    def test_no_amount_is_no_motion_and_twice_as_much_goes_twice_as_far(self, kind):
        settings = self.settings(kind)
        for frame in (0, 7, 31.5):
            assert value_at(made(kind, amount=0.0, **settings), at(frame)) == 10.0
            one, two = (value_at(made(kind, amount=a, **settings), at(frame)) - 10 for a in (1.0, 2.0))
            assert two == pytest.approx(2 * one)

    def test_pairs_and_colours_move_too(self, kind):
        for size in (2, 4):
            found = value_at(made(kind, (1.0,) * size, (2.0,) * size, **self.settings(kind)), at(9), size)
            assert len(found) == size

    def test_it_is_kept_in_a_file_as_it_is(self, kind):
        param = Number(label="X", default=0.0)
        motion = made(kind, **self.settings(kind))
        layered = Layered(Keys((Key(frame=0, value=1.0), Key(frame=9, value=2.0))), (Driven(0.0, 4.0, motion.driver),))
        for value in (motion, layered):
            assert decoded_value(param, encoded_value(param, value)) == value

    def test_laid_over_another_it_adds(self, kind):
        motion = made(kind, base=0.0, **self.settings(kind))
        keys = Keys((Key(frame=0, value=1.0, after="straight"), Key(frame=20, value=21.0)))
        for frame in (0, 5, 13):
            found = value_at(Layered(keys, (motion, motion)), at(frame))
            assert found == pytest.approx(1 + frame + 2 * value_at(motion, at(frame)))

    def test_as_a_speed_its_way_is_the_sum_of_its_course(self, kind):
        """The trapezium rule over whole frames, as the docstring of `integral` says."""
        motion = made(kind, **self.settings(kind))
        values = [value_at(motion, at(n)) for n in range(301)]
        way = (sum(values) - (values[0] + values[-1]) / 2) / 24
        assert integral(motion, at(300)) == pytest.approx(way)

    def test_settings_out_of_reason_are_said_in_one_line(self, kind):
        param = Number(label="X", default=0.0)
        for broken in ({"driver": kind, "amount": "far"}, {"driver": kind, "base": 1, "amount": 1, "settings": 3}):
            with pytest.raises(Exception, match="expected") as caught:
                decoded_value(param, broken)
            assert "\n" not in str(caught.value)


@pytest.mark.parametrize("loops", [False, True])
@pytest.mark.parametrize("kind", drivers())
def test_drawn_courses_are_the_courses(kind, loops):
    """What a trace is drawn from is what each frame gets, for every choice of every driver."""
    settings = TestEvery().settings(kind)
    choices = [(n, o) for n, p in drivers()[kind].declared.items() if isinstance(p, Choice) for o in p.options]
    frames = np.linspace(-7, 200, 60)
    for name, option in choices or [("", None)]:
        chosen = settings | ({name: option.value} if option else {})
        for size in (1, 3):
            base = 1.0 if size == 1 else (1.0, 2.0, 3.0)
            swung = made(kind, base, 2.0 if size == 1 else (2.0, 0.5, -1.0), **chosen)
            raw = Layered(swung, (made("jitter", 0.0, 1.0),) if size == 1 else ())
            found = values_at(raw, at(0, loops=loops), frames, size)
            for n, frame in enumerate(frames.tolist()):
                wanted = value_at(raw, at(frame, loops=loops), size)
                assert found[:, n] == pytest.approx(wanted if size > 1 else (wanted,), abs=1e-9)


def test_drawn_values_of_keys_rates_and_still_ones():
    keys = Keys((Key(frame=0, value=(1.0, 5.0)), Key(frame=20, value=(3.0, -2.0)), Key(frame=40, value=(0.0, 0.0))))
    frames = np.linspace(-5, 60, 31)
    for raw, size in (
        (keys, 2),
        (Rate(2.0, 3.0), 1),
        (Rate((1.0, 2.0), (0.5, -4.0)), 2),
        (7.5, 1),
        ((1.0, 2.0), 2),
        (Formula("t * 2, frame"), 2),
    ):
        found = values_at(raw, at(0), frames, size)
        assert found.shape == (size, 31)
        for n, frame in enumerate(frames.tolist()):
            wanted = value_at(raw, at(frame), size)
            assert found[:, n] == pytest.approx(wanted if size > 1 else (wanted,), abs=1e-9)


def test_waves_in_closed_form():
    sine = made("wave", 0.0, 5.0, period=2.0)
    for frame in (0, 3, 12, 24, 31):
        assert value_at(sine, at(frame)) == pytest.approx(5 * math.sin(math.tau * frame / 24 / 2))
    square = made("wave", 0.0, 1.0, shape="square", period=10.0, unit="frames")
    assert [value_at(square, at(n)) for n in (0, 4, 5, 9, 10)] == [1, 1, -1, -1, 1]
    triangle = made("wave", 0.0, 1.0, shape="triangle", period=8.0, unit="frames")
    assert [value_at(triangle, at(n)) for n in range(5)] == pytest.approx([0, 0.5, 1, 0.5, 0])
    saw = made("wave", 0.0, 1.0, shape="saw", period=4.0, unit="frames")
    assert [value_at(saw, at(n)) for n in range(5)] == [-1, -0.5, 0, 0.5, -1]
    beats = made("wave", 0.0, 1.0, shape="saw", period=1.0, unit="beats")
    assert value_at(beats, at(12)) == pytest.approx(0), "half a beat after the first"


def test_a_place_goes_in_circles():
    motion = made("wave", (0.0, 0.0), (5.0, 5.0), period=1.0)
    for frame in range(24):
        assert math.hypot(*value_at(motion, at(frame), 2)) == pytest.approx(5)


@given(st.integers(0, 999_999), st.sampled_from(["smooth", "rough", "stepped"]), st.floats(0, 5000))
def test_jitter_stays_within_its_amount(seed, sort, frame):
    assert abs(value_at(made("jitter", 0.0, 1.0, seed=seed, sort=sort), at(frame))) <= 1


def test_jitter_differs_by_seed_and_by_axis_and_flickers_as_often_as_asked():
    one, two = (made("jitter", 0.0, 1.0, seed=seed) for seed in (1, 2))
    assert [value_at(one, at(n)) for n in range(9)] != [value_at(two, at(n)) for n in range(9)]
    x, y = value_at(made("jitter", (0.0, 0.0), (1.0, 1.0)), at(7), 2)
    assert x != y
    flicker = made("jitter", 0.0, 1.0, sort="flicker", pace=24.0, share=0.3)
    there = [value_at(flicker, at(n)) for n in range(2000)]
    assert set(there) == {0.0, 1.0}
    assert sum(there) / 2000 == pytest.approx(0.3, abs=0.04)


def test_beats_kick_and_die_away():
    kick = made("beat", 2.0, 8.0, lasts=0.5, curve="fall")
    assert value_at(kick, at(5)) == 2, "nothing before the first beat"
    assert value_at(kick, at(6)) == 10
    assert value_at(kick, at(12)) == pytest.approx(6), "half way down after a quarter second"
    assert value_at(kick, at(18)) == 10, "and again"
    other = made("beat", 0.0, 1.0, alternate=True)
    assert (value_at(other, at(6)), value_at(other, at(18))) == (1, -1)
    third = made("beat", 0.0, 1.0, every=3, first=2, curve="fall", lasts=0.1)
    assert [n for n in range(120) if value_at(third, at(n)) == 1] == [18, 54, 90]
    tempo = made("beat", 0.0, 1.0, of="tempo", tempo=120.0, curve="fall", lasts=0.1)
    assert [n for n in range(40) if value_at(tempo, at(n)) == 1] == [0, 12, 24, 36]
    before = made("beat", 0.0, 1.0, curve="before", lasts=0.25)
    assert value_at(before, at(6)) == 1
    assert 0 < value_at(before, at(4)) < 1
    assert value_at(before, at(7)) == 0
    own = made("beat", 0.0, 1.0, curve="own", own="u * u", lasts=1.0)
    assert value_at(own, at(12)) == pytest.approx(0.0625)
    assert value_at(made("beat", 0.0, 1.0, of="markers", curve="fall", lasts=0.1), at(50)) == 1


def test_follow_in_closed_form():
    assert value_at(made("follow", 5.0, -0.5, path="a", delay=4.0), at(10)) == 5 - 0.5 * (10 - 4) * 3
    assert value_at(made("follow", 0.0, 1.0, path="a", clamped=True, low=3.0, high=12.0), at(10)) == 12
    with pytest.raises(MotionError, match="follows nothing"):
        value_at(made("follow"), at(0))


def test_sound_goes_by_its_range_and_gate():
    motion = made("sound", 0.0, 10.0, band="low", quiet=0.25, loud=0.75)
    assert [value_at(motion, at(n)) for n in (0, 24, 48, 72, 96)] == pytest.approx([0, 0, 5, 10, 10])
    gated = made("sound", 0.0, 10.0, band="low", gate=0.5)
    assert value_at(gated, at(47)) == 0
    assert value_at(gated, at(49)) > 5


def test_track_takes_what_it_is_told():
    assert value_at(made("track", 1.0, 1.0, takes="y", since=4), at(10)) == 1 - 6
    assert value_at(made("track", (0.0, 0.0), (1.0, 1.0)), at(3), 2) == (3, -3)
    assert value_at(made("track", 0.0, 1.0, takes="turn", point=1, second=2), at(3)) == 6


def test_formulas_read_the_rest_of_the_shot():
    assert value_at(Formula('value("a") + 1'), at(4)) == 13
    assert value_at(Formula('level("low") * 10'), at(48)) == 5
    assert value_at(Formula('track("p", 3, "y")'), at(5)) == -5
    assert value_at(Formula("beat() * 24"), at(8)) == pytest.approx(2)
    assert value_at(Formula("beats()"), at(12)) == 0.5
    for text in ('"a" + 1', 'sin("a")', 'value("gone")', 'track("p", 0, "z")'):
        with pytest.raises(MotionError):
            value_at(Formula(text), at(0))
    with pytest.raises(MotionError, match="no shot"):
        value_at(Formula('value("a")'), moment(0))


def test_in_a_seamless_shot_waves_and_jitter_close_over_its_length():
    """Frame n and frame n + length are the same, bit for bit, whatever period was asked for."""
    for kind, settings in (
        ("wave", {"period": 0.7}),
        ("jitter", {"pace": 5.3}),
        ("jitter", {"sort": "rough"}),
        ("jitter", {"sort": "stepped", "pace": 3.1}),
    ):
        motion = made(kind, **settings)
        for frame in (0, 5, 11):
            first, again = at(frame, loops=True), at(frame + 72, loops=True)
            first, again = replace(first, length=72), replace(again, length=72)
            assert value_at(motion, first) == pytest.approx(value_at(motion, again), abs=1e-9)
