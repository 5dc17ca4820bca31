"""Soft slopes against SciPy's Gaussian and Sobel, and over their whole range."""

import numpy as np
import pytest
from scipy import ndimage

from nimble_quake.raster.warps.slopes import blur_before_slope, soft_slopes

MIDDLE = (slice(200, 330), slice(200, 420))


@pytest.fixture(scope="module")
def height():
    values = ndimage.gaussian_filter(np.random.default_rng(0).random((530, 620)), 1.5)
    values = (values - values.min()) / np.ptp(values)
    values[220:300, 260:360] = 1.0
    return values.astype(np.float32)


@pytest.mark.parametrize("sigma", [0.0, 0.5, 1.0, 2.99, 3.01, 5.9, 6.1, 11.9, 12.1, 24.0, 40.0])
def test_it_is_the_slope_of_the_softened_height(height, sigma):
    """Outside check: scipy.ndimage.gaussian_filter and sobel, within 0.2 % of the steepest."""
    soft = ndimage.gaussian_filter(height.astype(np.float64), sigma, truncate=6, mode="nearest") if sigma else height
    wanted = np.stack([ndimage.sobel(soft, axis, mode="nearest") / 8 for axis in (1, 0)], axis=-1)[MIDDLE]
    assert np.abs(soft_slopes(height, sigma, 1.0, MIDDLE) - wanted).max() < 0.002 * np.abs(wanted).max()


@pytest.mark.parametrize("about", [3.0, 6.0, 12.0, 24.0])
def test_no_step_where_the_way_it_is_made_changes(height, about):
    low, middle, high = (soft_slopes(height, about + d, 1.0, MIDDLE) for d in (-0.02, 0.0, 0.02))
    steepest = np.abs(middle).max()
    assert np.abs(high - middle).max() < 0.012 * steepest
    assert np.abs(middle - low).max() < 0.012 * steepest


def test_a_flat_height_has_no_slope_at_all():
    for sigma in (0.0, 4.0, 9.0, 30.0):
        assert not soft_slopes(np.full((300, 300), 0.3, np.float32), sigma, 5.0).any()


@pytest.mark.parametrize(("smooth", "within"), [(1.5, 0.15), (4.0, 0.03), (12.0, 0.01), (25.0, 0.01)])
def test_a_preview_has_the_slopes_of_the_frame(height, smooth, within):
    full = soft_slopes(height, blur_before_slope(smooth, 1.0), 1.0)
    small = height.reshape(265, 2, 310, 2).mean(axis=(1, 3))
    half = soft_slopes(small, blur_before_slope(smooth, 0.5), 0.5)
    wanted = full.reshape(265, 2, 310, 2, 2).mean(axis=(1, 3))
    assert np.abs(half - wanted)[60:-60, 60:-60].max() < within * np.abs(wanted).max()
