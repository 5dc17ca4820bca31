"""Convolutions against SciPy's, whole and in part, for pictures and for maps."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import correlate1d

from nimble_quake.kernels import fitting
from nimble_quake.raster.blur.convolve import convolve, half_gaussian


def whole(half: np.ndarray) -> np.ndarray:
    return np.concatenate([half[:0:-1], [2 * half[0]], half[1:]])


@pytest.mark.parametrize("channels", [1, 2, 4])
@pytest.mark.parametrize(("across", "down"), [(0, 0), (1, 0), (0, 2), (3, 4), (7, 5), (13, 40)])
def test_against_scipy(channels, across, down):
    rng = np.random.Generator(np.random.PCG64(3))
    array = rng.random((31, 47, channels)).astype(np.float32)
    row, column = (half_gaussian(0.4 * max(reach, 1), reach) for reach in (across, down))
    expected = correlate1d(array.astype(np.float64), whole(column), axis=0, mode="nearest")
    expected = correlate1d(expected, whole(row), axis=1, mode="nearest")
    out = np.empty_like(array)
    convolve(array, row, column, out)
    assert np.allclose(out, expected, atol=1e-6)
    for top, left, height, width in ((0, 0, 5, 5), (9, 20, 22, 27), (30, 46, 1, 1), (-3, -6, 40, 60)):
        part = np.empty((height, width, channels), np.float32)
        convolve(array, row, column, part, top, left, alone=True)
        rows, columns = np.clip(np.arange(top, top + height), 0, 30), np.clip(np.arange(left, left + width), 0, 46)
        inside = (rows == np.arange(top, top + height))[:, None] & (columns == np.arange(left, left + width))
        same = np.allclose if fitting.plain() else np.array_equal  # numba's own code sums differently with its checks
        assert same(part[inside], out[rows][:, columns][inside])


@pytest.mark.parametrize(("top", "left"), [(0, -90), (0, 90), (-90, 0), (90, 0), (90, -90)])
def test_a_part_beyond_the_border_is_its_edge(top, left):
    """Nothing is read, or written, beside the array; `make bounds` looks."""
    array = np.full((31, 47, 2), 0.25, np.float32)
    for reach in (0, 3):
        half, part = half_gaussian(1.0, reach), np.full((7, 9, 2), np.nan, np.float32)
        convolve(array, half, half, part, top, left, alone=True)
        assert np.allclose(part, 0.25, atol=1e-6)


def test_a_half_kernel_sums_to_half():
    for sigma in (0.3, 1.0, 2.5, 9.0):
        half = half_gaussian(sigma, int(4 * sigma) + 1)
        assert half.sum() == pytest.approx(0.5, abs=1e-6)
        assert (np.diff(half[1:]) <= 0).all()
