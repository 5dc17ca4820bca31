"""Work in bands of rows gives what it gives at once."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.raster.blur.filters import cell_means, filled_cells
from nimble_quake.raster.colour.channels import as_channels, luminance
from nimble_quake.raster.threads.rows import in_bands

RNG = np.random.default_rng(4)


@pytest.mark.parametrize("shape", [(1, 3, 4), (7, 5, 4), (257, 640, 4), (720, 1280, 4), (2000, 30, 1)])
def test_bands_are_the_whole_bit_by_bit(shape):
    field, share = RNG.random(shape).astype(np.float32), RNG.random(shape[:2]).astype(np.float32)

    def make(rows: np.ndarray, shares: np.ndarray) -> np.ndarray:
        return np.sqrt(rows) * shares[..., None] + luminance(np.repeat(rows[..., :1], 3, axis=2))[..., None]

    assert np.array_equal(in_bands(make, field, share), make(field, share))


def test_what_goes_wrong_in_a_band_is_raised():
    def make(rows: np.ndarray) -> np.ndarray:
        if rows[0, 0, 0] > 600:
            raise ValueError("too many")
        return rows

    field = np.repeat(np.arange(720, dtype=np.float32)[:, None, None], 1280, axis=1)
    with pytest.raises(ValueError, match="too many"):
        in_bands(make, field)


def test_means_of_cells_against_numpys_sums():
    """NumPy, add.reduceat in float64."""
    field = RNG.random((371, 613, 4)).astype(np.float32)
    across, down = np.array([0, 7, 40, 41, 300, 613]), np.array([0, 1, 90, 200, 371])
    sums = np.add.reduceat(np.add.reduceat(field, down[:-1], axis=0, dtype=np.float64), across[:-1], axis=1)
    wanted = (sums / np.outer(np.diff(down), np.diff(across))[..., None]).astype(np.float32)
    found = cell_means(field, across, down)
    assert np.abs(found - wanted).max() < 1e-6
    rows, columns = np.sort(RNG.integers(0, 4, 371)), np.sort(RNG.integers(0, 5, 613))
    assert np.array_equal(filled_cells(found, rows, columns), found[rows][:, columns])


def test_brightness_against_the_weights_of_bt_709():
    """ITU-R BT.709-6, 3.2: 0.2126 R + 0.7152 G + 0.0722 B."""
    field = RNG.random((90, 70, 4)).astype(np.float32)
    for part in (field, field[::2, ::3], field[..., :3]):
        assert np.abs(luminance(part) - part[..., :3] @ np.array((0.2126, 0.7152, 0.0722))).max() < 1e-6


def test_a_value_map_as_colours_is_grey_and_solid():
    field = RNG.random((90, 70, 1)).astype(np.float32)
    found = as_channels(field, 4)
    assert np.array_equal(found[..., :3], np.repeat(field, 3, axis=2))
    assert (found[..., 3] == 1).all()
