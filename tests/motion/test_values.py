"""Values over time: keys, rates, formulas, and the way gone at a speed."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from helpers import moment
from nimble_quake.errors import FormulaError, ShotError
from nimble_quake.motion.files import decoded_value
from nimble_quake.motion.formula import evaluate
from nimble_quake.motion.kinds import Formula, Key, Keys, Rate
from nimble_quake.motion.kinds.keys import keyed_value
from nimble_quake.motion.motion import integral, value_at, values_at
from nimble_quake.params.kinds import Number


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


@pytest.mark.parametrize(
    "text", ["5 + 2 * sin(t * 1.3)", "random(frame)", "wander(t, 3)", "frame % 7", "1 if t > 2 else 0", "sqrt(t), t"]
)
def test_a_formula_is_drawn_as_it_moves(text):
    """Many moments at once, between frames too, and before the first, where sqrt(t) begins with what it has at 0."""
    frames, size = np.linspace(-4.0, 95.0, 200), 2 if "," in text else 1
    apart = [value_at(Formula(text), moment(frame), size) for frame in frames.tolist()]
    assert (np.reshape(apart, (200, size)) == values_at(Formula(text), moment(0), frames, size).T).all()


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
            "9" * 400,
            "t is t",
            "t in (1, 2)",
            "floor(1e308) * floor(1e308)",
            "n" * 300,
            "max(t, key=abs)",
            "~1",
            "1 << 90000",
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


class TestSpeeds:
    """Integrals of speeds, against SciPy's quadrature of the same values."""

    WILD = Keys(
        (
            Key(frame=5.0, value=10.0, after="smooth"),
            Key(frame=30.0, value=-40.0, after="eased", ease=(0.3, 1.6, 0.7, -0.4)),
            Key(frame=70.0, value=90.0, after="hold"),
            Key(frame=90.5, value=0.0, after="straight"),
            Key(frame=400.0, value=7.0),
        )
    )

    @pytest.mark.parametrize("frame", [-7.0, 0.0, 3.0, 29.9, 70.0, 100.25, 399.0, 5000.0])
    def test_keys(self, frame):
        cuts = [key.frame for key in self.WILD.keys]
        pieces = sorted({0.0, frame, *(f for f in cuts if min(0, frame) < f < max(0, frame))})
        parts = [
            quad(lambda f: keyed_value(self.WILD, f), a, b, limit=200)[0]
            for a, b in zip(pieces, pieces[1:], strict=False)
        ]
        wanted = sum(parts) / 24 * (1 if frame >= 0 else -1)
        assert integral(self.WILD, moment(frame)) == pytest.approx(wanted, abs=2e-3)

    @pytest.mark.parametrize(
        "text", ["20*sin(t*9)", "random(floor(t*3))*40", "10 if t < 2 else -5", "wander(t)*30 + frame"]
    )
    def test_formulas_are_the_same_alone_and_in_sequence(self, text):
        """Every frame's step is the mean of the two values beside it: nothing jumps where a stretch ends."""
        at = [integral(Formula(text), moment(f)) for f in range(250, 265)]
        for frame, (a, b) in enumerate(zip(at, at[1:], strict=False), 250):
            ends = [evaluate(text, moment(f).names())[0] for f in (frame, frame + 1)]
            assert b - a == pytest.approx(sum(ends) / 2 / 24, abs=1e-6)

    def test_a_long_shot_costs_little(self):
        """A million frames of a formula were minutes and gigabytes."""
        far = integral(Formula("sin(t)*40 + random(frame)"), moment(1_000_000))
        assert far == integral(Formula("sin(t)*40 + random(frame)"), moment(1_000_000))
        assert far == pytest.approx(1_000_000 * 0.5 / 24, rel=0.01)  # the mean of random is a half

    @pytest.mark.parametrize(
        "value",
        [500.0, Rate(0.0, 100.0), Rate(300.0, -50.0), Formula("t*100"), keys((0, 0), (240, 1000), after="straight")],
    )
    def test_speeds_are_held_like_other_values(self, value):
        limited = Number(label="x", hard=(-100, 100))
        value = limited.clamp(value) if isinstance(value, float) else value
        steps = [integral(value, moment(f), 1, limited.clamp) for f in range(0, 241, 24)]
        for second, (a, b) in enumerate(zip(steps, steps[1:], strict=False)):
            wanted, _ = quad(lambda t: limited.clamp(value_at(value, moment(t * 24))), second, second + 1)
            assert b - a == pytest.approx(wanted, abs=1.0)
            assert abs(b - a) <= 100.01


@pytest.mark.parametrize("anchor", [[], {}, 3, None, "middle"])
def test_what_keys_cannot_be_kept_from_is_one_line(anchor):
    raw = {"keys": [{"frame": 0, "value": 1.0}], "anchor": anchor}
    with pytest.raises(ShotError, match="kept from"):
        decoded_value(Number(label="A"), raw)
    assert decoded_value(Number(label="A"), raw | {"anchor": "both"}).anchor == "both"
