"""Light on flanks: Lambert's cosine in the plane, its sharpness and fall-off; pictures stay premultiplied."""

from __future__ import annotations

import math

import numpy as np
import pytest

from nimble_quake.raster.finishes.flank_light import lit_flanks

INSIDE = (slice(1, 5), slice(2, 8))


def flank(towards: float, steep: float = 1.0) -> np.ndarray:
    """A plane whose height rises away from a bearing, so that it faces it; with a rim that is not looked at."""
    slope = np.full((6, 10, 2), np.nan, np.float32)
    slope[INSIDE] = (-steep * math.cos(math.radians(towards)), -steep * math.sin(math.radians(towards)))
    return slope


@pytest.mark.parametrize("bearing", [0.0, 37.0, -135.0])
@pytest.mark.parametrize("aside", [0.0, 30.0, 60.0, 120.0, 180.0])
def test_light_is_the_cosine(bearing, aside):
    """A flank of 45 degrees gains the cosine of how far aside it faces, times the brightness; behind it loses that."""
    grey = np.full((4, 6, 1), 0.5, np.float32)
    got = lit_flanks(grey, flank(bearing + aside), INSIDE, bearing, 1.0, 0.0, 0.25, picture=False)
    assert np.abs(got - (0.5 + 0.25 * math.cos(math.radians(aside)))).max() < 1e-6


def test_sharp_light_and_its_rim():
    grey = np.full((4, 6, 1), 0.5, np.float32)
    sharp = lit_flanks(grey, flank(60.0), INSIDE, 0.0, 3.0, 0.0, 1.0, picture=False)
    assert np.abs(sharp - (0.5 + 0.5**3)).max() < 1e-6
    rim = lit_flanks(grey, flank(60.0), INSIDE, 0.0, 1.0, 2.0, 1.0, picture=False)
    assert np.abs(rim - (0.5 + 0.5 * 0.5**2)).max() < 1e-5
    flat = lit_flanks(grey, flank(60.0, 0.0), INSIDE, 0.0, 0.0, 2.0, 1.0, picture=False)
    assert np.array_equal(flat, grey)


def test_pictures_stay_premultiplied():
    """Light goes no farther than the alpha, and no lower than nothing; clear pixels stay clear, alpha stays."""
    picture = np.random.Generator(np.random.PCG64(4)).random((4, 6, 4)).astype(np.float32)
    picture[..., :3] *= picture[..., 3:]
    picture[0] = 0
    for bright in (-5.0, 0.3, 5.0):
        got = lit_flanks(picture, flank(20.0), INSIDE, 0.0, 1.0, 0.0, bright, picture=True)
        assert np.array_equal(got[..., 3], picture[..., 3])
        assert (got[..., :3] <= picture[..., 3:]).all()
        assert (got >= 0).all()
        assert not got[0].any()
