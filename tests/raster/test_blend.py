"""Blend modes against W3C Compositing and Blending Level 1."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nimble_quake.operators.plate_kind import BLENDS
from nimble_quake.raster.colour.blend import MODES, blend_onto, flat

BELOW, ABOVE = (0.6, 0.5, 0.3), (0.8, 0.35, 0.55)
WORKED = {
    "normal": (0.8, 0.35, 0.55),
    "multiply": (0.48, 0.175, 0.165),
    "screen": (0.92, 0.675, 0.685),
    "overlay": (0.84, 0.35, 0.33),
    "darken": (0.6, 0.35, 0.3),
    "lighten": (0.8, 0.5, 0.55),
    "color-dodge": (1.0, 0.769231, 0.666667),
    "color-burn": (0.5, 0.0, 0.0),
    "hard-light": (0.84, 0.35, 0.37),
    "soft-light": (0.704758, 0.425, 0.324772),
    "difference": (0.2, 0.15, 0.25),
    "exclusion": (0.44, 0.5, 0.52),
    "hue": (0.703333, 0.403333, 0.536667),
    "saturation": (0.646, 0.496, 0.196),
    "color": (0.801, 0.351, 0.551),
    "luminosity": (0.599, 0.499, 0.299),
    "plus-lighter": (1.0, 0.85, 0.85),
}


def blended(below, above, mode, opacity=1.0):
    """Blend two straight colours (r, g, b, a); returns straight."""
    pictures = [flat((1, 1), (*(c * rgba[3] for c in rgba[:3]), rgba[3])) for rgba in (below, above)]
    blend_onto(pictures[0], pictures[1], mode=mode, opacity=opacity)
    r, g, b, a = (float(v) for v in pictures[0][0, 0])
    return (r / a, g / a, b / a, a) if a else (0.0, 0.0, 0.0, 0.0)


@pytest.mark.parametrize("mode", MODES)
def test_worked_values(mode):
    """W3C Compositing 1, sections 5 and 10; values computed from its formulas with NumPy."""
    assert blended((*BELOW, 1), (*ABOVE, 1), mode)[:3] == pytest.approx(WORKED[mode], abs=2e-6)


def test_soft_light_with_alpha():
    """The general formula with both alphas: as .5, ab .8."""
    got = blended((*BELOW, 0.8), (*ABOVE, 0.5), "soft-light")
    assert got == pytest.approx((0.668781, 0.45, 0.338788, 0.9), abs=2e-6)


def test_check_values_of_the_trade():
    """Soft light with half grey changes nothing; screen is 1 - (1-a)(1-b); add clips (common practice, no source)."""
    assert blended((*BELOW, 1), (0.5, 0.5, 0.5, 1), "soft-light")[:3] == pytest.approx(BELOW, abs=1e-6)
    assert blended((0.4,) * 3 + (1,), (0.3,) * 3 + (1,), "screen")[0] == pytest.approx(1 - 0.6 * 0.7, abs=1e-6)
    assert blended((0.7,) * 3 + (1,), (0.6,) * 3 + (1,), "plus-lighter")[0] == 1.0


unit = st.floats(0, 1, width=32)
colour = st.tuples(unit, unit, unit, unit)


@given(colour, colour, st.sampled_from(MODES))
def test_laws_over_all_modes(below, above, mode):
    """Alpha never depends on the mode (but for add); all is finite; opacity 0 changes nothing."""
    below = (*below[:3], max(below[3], 0.01))
    got = blended(below, above, mode)
    assert np.isfinite(got).all()
    if mode != "plus-lighter":
        assert got[3] == pytest.approx(above[3] + below[3] * (1 - above[3]), abs=1e-5)
    assert blended(below, above, mode, opacity=0.0) == pytest.approx(below, abs=1e-5)


def test_identities():
    white, black = (1.0, 1.0, 1.0, 1.0), (0.0, 0.0, 0.0, 1.0)
    assert blended((*BELOW, 1), white, "multiply")[:3] == pytest.approx(BELOW, abs=1e-6)
    assert blended((*BELOW, 1), black, "screen")[:3] == pytest.approx(BELOW, abs=1e-6)
    assert blended((*BELOW, 1), (*BELOW, 1), "difference")[:3] == pytest.approx((0, 0, 0), abs=1e-6)
    assert blended((*BELOW, 1), (*ABOVE, 1), "normal") == pytest.approx((*ABOVE, 1), abs=1e-6)


def test_matte_and_its_inverse_add_up():
    """A luminance matte and its inverse over one picture add up to the picture (common practice, no source)."""
    one, other = flat((1, 1), (0, 0, 0, 0)), flat((1, 1), (0, 0, 0, 0))
    source = flat((1, 1), (*BELOW, 1))
    blend_onto(one, source, opacity=0.3)
    blend_onto(other, source, opacity=0.7)
    assert np.allclose(one + other, source, atol=1e-6)


def test_the_settings_offer_every_mode():
    assert {option.value for option in BLENDS} == set(MODES)


def test_placed_part_leaves_the_rest():
    below, part = flat((6, 6), (0, 0, 0, 0)), flat((2, 3), (1, 1, 1, 1))
    blend_onto(below, part, left=1, up=2)
    assert below[..., 3].sum() == 6
    assert below[2:4, 1:4, 3].all()


@pytest.mark.parametrize("mode", ["normal", "screen", "overlay", "hue"])
@pytest.mark.parametrize(("left", "up"), [(-3, -2), (6, 5), (-20, 0), (0, 40), (-1, 7), (3, -4)])
def test_what_lies_outside_is_left_out(mode, left, up):
    """As if the picture below were larger, and then cut: nothing beside it in memory is written to."""
    rng = np.random.Generator(np.random.PCG64(3))
    below, top = (np.ascontiguousarray(rng.random((size, size, 4)), np.float32) for size in (10, 8))
    large = np.zeros((100, 100, 4), np.float32)
    large[45:55, 45:55] = below
    blend_onto(large, top, mode=mode, opacity=0.7, left=45 + left, up=45 + up)
    room = np.full((30, 10, 4), 9.0, np.float32)  # rows before and after it in memory
    room[10:20] = below
    blend_onto(room[10:20], top, mode=mode, opacity=0.7, left=left, up=up)
    np.testing.assert_array_equal(room[10:20], large[45:55, 45:55])
    assert (room[:10] == 9).all()
    assert (room[20:] == 9).all()
