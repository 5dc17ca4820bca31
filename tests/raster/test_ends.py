"""The least and the largest of many values, against NumPy's."""

import numpy as np
import pytest

from nimble_quake.raster.threads.extremes import ends_of, max_displacement


@pytest.mark.parametrize("type", [np.float32, np.int32, np.uint8])
@pytest.mark.parametrize("shape", [(1, 1), (1, 900), (700, 3), (640, 480)])
def test_against_numpy(type, shape):
    rng = np.random.Generator(np.random.PCG64(2))
    values = np.abs(rng.normal(0, 60, shape)).clip(0, 255).astype(type)
    arrays = [values, values[:, ::-1], np.repeat(values, 3, axis=1)[:, ::3]]
    for array in arrays if type is np.uint8 else [*arrays, -values]:
        assert ends_of(array) == (array.min(), array.max())


def test_the_longest_offset():
    warp = np.zeros((2, 90, 70), np.float32)
    assert max_displacement(warp) == 0
    warp[1, 89, 69], warp[0, 3, 4] = -7.5, 2
    assert max_displacement(warp) == 7.5
    assert max_displacement(warp[:, :80]) == 2
    assert max_displacement(np.zeros((2, 0, 0), np.float32)) == 0
