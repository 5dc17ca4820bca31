"""A blur whose width differs from pixel to pixel, where most of it is not asked for."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest
from scipy import ndimage

from nimble_quake.raster.blur import variable as variable_blur
from nimble_quake.raster.blur.variable import TILE, softened


@pytest.mark.parametrize("widest", [0.06, 0.9, 1.0, 1.3, 2.0, 9.0, 40.0])
def test_what_nobody_asked_for_is_never_looked_at(widest, monkeypatch: pytest.MonkeyPatch):
    """Tiles that are not blurred hold what was in memory: here, no numbers at all."""
    rng = np.random.Generator(np.random.PCG64(4))
    picture = rng.random((3 * TILE + 20, 4 * TILE + 9, 4)).astype(np.float32)
    widths = np.zeros(picture.shape[:2], np.float32)
    widths[TILE + 10 : TILE + 40, 2 * TILE - 5 : 2 * TILE + 30] = np.linspace(0, widest, 35, dtype=np.float32)
    plain = softened(picture, widths, 0, 0)

    def dirty(shape: tuple[int, ...], dtype: type) -> np.ndarray:
        return np.full(shape, np.nan if np.issubdtype(dtype, np.floating) else 0, dtype)

    monkeypatch.setattr(variable_blur, "np", SimpleNamespace(**{**vars(np), "empty": dirty}))
    got = softened(picture, widths, 0, 0)
    assert np.isfinite(got).all()
    assert np.array_equal(got, plain)
    assert np.array_equal(got[widths == 0], picture[widths == 0])


@pytest.mark.parametrize("sigma", [0.1, 0.3, 0.5, 0.6, 0.8, 1.2, 1.7, 2.4, 3.3, 5.0, 7.0, 9.0, 14.0, 20.0])
def test_a_width_that_is_the_same_everywhere_is_a_gaussian(sigma):
    """Outside check: scipy.ndimage.gaussian_filter, on a box and soft texture."""
    picture = np.random.default_rng(3).random((260, 320, 4)).astype(np.float32)
    picture[90:170, 110:210] = 1.0
    picture = ndimage.gaussian_filter(picture, (1, 1, 0))
    got = softened(picture, np.full((160, 220), sigma, np.float32), 50, 50)
    wanted = ndimage.gaussian_filter(picture.astype(np.float64), (sigma, sigma, 0), truncate=5, mode="nearest")
    apart = 255 * np.abs(got - wanted[50:210, 50:270])
    assert apart.max() < 1
    assert apart.mean() < 0.2


def test_a_growing_width_has_no_step():
    picture = ndimage.gaussian_filter(np.random.default_rng(4).random((120, 140, 4)), (1, 1, 0)).astype(np.float32)
    before = None
    for sigma in np.linspace(0.06, 6, 120):
        got = softened(picture, np.full((60, 80), sigma, np.float32), 30, 30)
        assert before is None or 255 * np.abs(got - before).max() < 4
        before = got
