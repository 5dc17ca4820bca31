"""Values over time: keys, rates, formulas, and the way gone at a speed."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import moment
from nimble_quake.errors import FormulaError
from nimble_quake.motion.formula import evaluate
from nimble_quake.motion.keyed import keyed_value
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.motion.resolve import integral, value_at


def keys(*pairs: tuple[float, float], after: str = "smooth") -> Keys:
    return Keys(tuple(Key(frame=frame, value=value, after=after) for frame, value in pairs))


def test_three_seconds_at_24():
    """72 frames; the middle at 36 is 1 s 12 f (common practice, no source)."""
    motion = keys((0, 0.0), (72, 100.0), after="straight")
    assert value_at(motion, moment(36)) == 50.0
    assert moment(36).seconds == 1.5


def test_rate_of_200_degrees_a_second_is_a_full_turn_in_1_8_s():
    """Common practice, no source."""
    assert value_at(Rate(0.0, 200.0), moment(1.8 * 24)) == pytest.approx(360)


def test_exact_time_at_24000_1001():
    """ISO 14496-12 keeps rational time: frame 100 at 24000/1001 is 1001/240 s."""
    at = moment(100, rate=Fraction(24000, 1001))
    assert at.seconds == pytest.approx(1001 / 240, abs=1e-12)
    assert moment(48, rate=Fraction(24000, 1001)).seconds == pytest.approx(2.002, abs=1e-12)


def test_ways_to_go_on():
    held, straight, eased = (keys((0, 0.0), (10, 8.0), after=after) for after in ("hold", "straight", "eased"))
    assert keyed_value(held, 9.9) == 0.0
    assert keyed_value(straight, 2.5) == 2.0
    assert keyed_value(eased, 2.5) == pytest.approx(8 * 0.1291619, abs=1e-5)
    assert keyed_value(held, -5) == 0.0
    assert keyed_value(straight, 99) == 8.0


def test_places_and_words_move_too():
    place = Keys((Key(frame=0, value=(0.0, 10.0), after="straight"), Key(frame=10, value=(100.0, 20.0))))
    assert keyed_value(place, 5) == (50.0, 15.0)
    words = Keys((Key(frame=0, value="a"), Key(frame=10, value="b")))
    assert (keyed_value(words, 9), keyed_value(words, 10)) == ("a", "b")


@given(st.lists(st.tuples(st.integers(0, 200), st.floats(-1e3, 1e3)), min_size=1, max_size=8), st.floats(-10, 210))
def test_smooth_keys_never_overshoot(pairs, frame):
    """Fritsch and Carlson 1980: the interpolant stays between neighbouring keys."""
    by_frame = dict(pairs)
    motion = keys(*sorted(by_frame.items()))
    value = keyed_value(motion, frame)
    frames = sorted(by_frame)
    before = max((f for f in frames if f <= frame), default=frames[0])
    after = min((f for f in frames if f >= frame), default=frames[-1])
    low, high = sorted((by_frame[before], by_frame[after]))
    assert low - 1e-6 <= value <= high + 1e-6


def test_smooth_keys_have_no_corner():
    motion = keys((0, 0.0), (10, 5.0), (30, 40.0))
    left = keyed_value(motion, 10) - keyed_value(motion, 9.999)
    right = keyed_value(motion, 10.001) - keyed_value(motion, 10)
    assert left == pytest.approx(right, rel=1e-2)


class TestWayGone:
    """What a speed adds up to."""

    def test_still_and_rate_are_exact(self):
        assert integral(2.0, moment(48)) == 4.0
        assert integral(Rate(0.0, 2.0), moment(48)) == pytest.approx(4.0)
        assert integral((3.0, -1.0), moment(24), 2) == (3.0, -1.0)

    def test_keys_add_up(self):
        motion = keys((0, 0.0), (48, 10.0), after="straight")
        assert integral(motion, moment(48)) == pytest.approx(10.0, abs=1e-9)
        assert integral(motion, moment(24.5)) == pytest.approx((24.5 / 48) ** 2 * 10, abs=2e-3)

    def test_any_frame_alone(self):
        motion = Formula("sin(t * 3) * 5")
        alone = integral(motion, moment(100))
        assert [integral(motion, moment(f)) for f in range(0, 101, 20)][-1] == alone


class TestFormulas:
    """Read by a whitelisting evaluator."""

    def test_names_and_functions(self):
        names = moment(12).names()
        assert evaluate("t + frame", names) == (12.5,)
        assert evaluate("mix(1, 3, 0.5), clamp(9, 0, 1)", names, 2) == (2.0, 1.0)
        assert evaluate("smoothstep(0, 1, 0.5)", names) == (0.5,)

    def test_chance_depends_on_its_number_alone(self):
        first = evaluate("random(7)", {})[0]
        assert 0 <= first < 1
        assert evaluate("random(7)", {})[0] == first != evaluate("random(8)", {})[0]
        assert abs(evaluate("wander(1.999)", {})[0] - evaluate("wander(2.001)", {})[0]) < 0.05

    @pytest.mark.parametrize(
        "text",
        [
            "1 / 0",
            "log(-1)",
            "9 ** 9 ** 9 ** 9",
            "__import__('os')",
            "t.__class__",
            "(lambda: 1)()",
            "[x for x in 'ab']",
            "open('x')",
            "unknown",
            "1 +",
            "",
            "'words'",
            "sqrt(-1)",
            "exp(9999)",
            "t if",
            "1e999",
            "a" * 600,
            "(" * 90 + "1" + ")" * 90 + "+",
            "random()",
            "1 if t else open",
            "f'{t}'",
            "True",
            "x := 3",
            "t[0]",
        ],
    )
    def test_bad_formulas_are_one_clear_line(self, text):
        with pytest.raises(FormulaError) as wrong:
            evaluate(text, moment(0).names())
        assert "\n" not in wrong.value.line()
        assert wrong.value.line()

    def test_two_values_are_asked_for(self):
        with pytest.raises(FormulaError, match="1 values, 2"):
            evaluate("(3,)", {}, 2)
        assert evaluate("3", {}, 2) == (3.0, 3.0)
