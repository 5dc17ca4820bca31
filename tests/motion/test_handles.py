"""Bézier handles of keys."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.motion import handles
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.motion.kinds.keys import keyed_value

HILL = tuple(Key(frame=f, value=v, after="smooth") for f, v in ((0.0, 0.0), (10.0, 40.0), (30.0, 90.0), (40.0, 10.0)))
FRAMES = np.linspace(0, 40, 161)


def course(keys) -> np.ndarray:
    return np.array([keyed_value(Keys(tuple(keys)), float(frame)) for frame in FRAMES])


@pytest.mark.parametrize("n", range(3))
def test_a_smooth_segment_is_the_bezier_curve_said_to_be_the_same(n):
    """A cubic Hermite curve is a Bézier curve with handles of a third of the slopes (Farin, Curves and Surfaces for
    CAGD, 5th ed., 4.6: from memory)."""
    curve = handles.bezier_of(HILL, n)
    eased = [msgspec.structs.replace(k, after="eased", ease=curve) if at == n else k for at, k in enumerate(HILL)]
    assert np.allclose(course(eased), course(HILL), atol=1e-6)


def test_no_handles_where_there_is_no_curve():
    straight = [msgspec.structs.replace(key, after="straight") for key in HILL]
    assert handles.bezier_of(straight, 0) is None
    assert handles.bezier_of(HILL, 3) is None
    assert handles.weight_of(HILL, 0, "in") is None
    assert handles.with_handle(straight, 0, "out", 0.5, 0.5) == tuple(straight)


def test_a_smooth_pin_is_joined_and_stays_so_when_one_handle_is_moved():
    assert handles.is_joined(HILL, 1)
    moved = handles.with_handle(HILL, 1, "out", 0.5, 0.9, joined=True)
    assert handles.is_joined(moved, 1)
    assert handles.out_slope(moved, 1) == pytest.approx(0.9 * 50 / (0.5 * 20), rel=1e-3)
    parted = handles.with_handle(HILL, 1, "out", 0.5, 0.9)
    assert not handles.is_joined(parted, 1)
    assert handles.is_joined(handles.joined(parted, 1), 1)


def test_moving_the_handle_before_a_pin_turns_the_one_after_it():
    moved = handles.with_handle(HILL, 0, "in", 0.6, 0.7, joined=True)
    assert handles.in_slope(moved, 1) == pytest.approx(0.3 * 40 / (0.4 * 10), rel=1e-3)
    assert handles.is_joined(moved, 1)


@given(st.floats(0.05, 1.0), st.sampled_from(("out", "in")))
def test_a_weight_keeps_the_slope(weight, end):
    moved = handles.with_weight(HILL, 1, end, weight)
    assert handles.weight_of(moved, 1, end) == pytest.approx(weight, abs=1e-4)
    slope = handles.out_slope if end == "out" else handles.in_slope
    assert slope(moved, 1) == pytest.approx(slope(HILL, 1), rel=1e-2)


def test_level_handles_let_the_value_rest():
    flat = handles.levelled(HILL, 1)
    assert handles.in_slope(flat, 1) == handles.out_slope(flat, 1) == 0
    near = [keyed_value(Keys(flat), frame) for frame in (9.9, 10.0, 10.1)]
    assert np.ptp(near) < 0.05


@given(st.lists(st.floats(-1e6, 1e6), min_size=2, max_size=5), st.floats(-2, 3), st.floats(-1e9, 1e9), st.booleans())
def test_any_handle_leaves_keys_that_can_be_read(values, x, y, joined):
    keys = tuple(Key(frame=float(n), value=v) for n, v in enumerate(values))
    for end in ("out", "in"):
        found = handles.with_handle(keys, 0, end, x, y, joined=joined)
        assert all(0 <= key.ease[0] <= 1 and 0 <= key.ease[2] <= 1 for key in found)
        assert np.isfinite([keyed_value(Keys(found), at) for at in np.linspace(0, len(keys) - 1, 20)]).all()
