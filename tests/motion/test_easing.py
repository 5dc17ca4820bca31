"""Easing against CSS Easing Functions Level 1."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from nimble_quake.motion.easing import PRESETS, ease

TABLE = {
    (0.25, 0.1, 0.25, 1.0): (0.0947963, 0.4085106, 0.8024034, 0.9604590, 0.9943165),
    (0.42, 0.0, 1.0, 1.0): (0.0170266, 0.0934647, 0.3153568, 0.6218619, 0.8394278),
    (0.0, 0.0, 0.58, 1.0): (0.1605722, 0.3781381, 0.6846432, 0.9065353, 0.9829734),
    (0.42, 0.0, 0.58, 1.0): (0.0197225, 0.1291619, 0.5, 0.8708381, 0.9802775),
    (0.17, 0.67, 0.83, 0.67): (0.2490379, 0.4405742, 0.6275, 0.77035, 0.8758601),
}


@pytest.mark.parametrize("curve", TABLE)
def test_named_curves(curve):
    """CSS Easing 1: values at t = .1 .25 .5 .75 .9, computed with SciPy's root finder."""
    got = [ease(curve, t) for t in (0.1, 0.25, 0.5, 0.75, 0.9)]
    assert got == pytest.approx(TABLE[curve], abs=1e-6)


def test_presets_are_the_css_ones():
    assert PRESETS["ease-in"] == (0.42, 0, 1, 1)
    assert PRESETS["ease-out"] == (0, 0, 0.58, 1)
    assert PRESETS["ease-in-out"] == (0.42, 0, 0.58, 1)


unit = st.floats(0, 1)


@given(unit, st.floats(-1, 2), unit, st.floats(-1, 2), unit)
def test_any_curve_against_a_root_finder(x1, y1, x2, y2, t):
    """The cubic Bézier solved by scipy.optimize.brentq."""

    def at(p1: float, p2: float, s: float) -> float:
        return 3 * p1 * s * (1 - s) ** 2 + 3 * p2 * s * s * (1 - s) + s**3

    if t in (0.0, 1.0):
        assert ease((x1, y1, x2, y2), t) == t
        return
    s = brentq(lambda s: at(x1, x2, s) - t, 0, 1, xtol=1e-14)
    # Where time stands still on the curve, a tiny step of t is a large one of s.
    speed = abs(at(x1, x2, min(s + 1e-4, 1)) - at(x1, x2, max(s - 1e-4, 0))) / 2e-4
    if speed > 0.01:
        assert ease((x1, y1, x2, y2), t) == pytest.approx(at(y1, y2, s), abs=1e-4)


def test_overshoot_is_allowed():
    assert max(ease(PRESETS["overshoot"], t / 50) for t in range(51)) > 1.05
