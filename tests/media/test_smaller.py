"""A frame with alpha is made smaller only where anything of it is: the same as all of it, averaged by OpenCV."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from nimble_quake.media.smaller import smaller_where_there
from nimble_quake.raster.colour.convert import premultiplied


@pytest.mark.parametrize("size", [(640, 360), (704, 396), (333, 199), (1, 1), (1280, 360)])
@pytest.mark.parametrize("box", [(200, 460, 300, 701), (0, 720, 0, 1280), (719, 720, 1279, 1280), (5, 5, 5, 5)])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_it_is_the_whole_made_smaller(size, box, dtype):
    top, low, left, right = box
    rgba = np.zeros((720, 1280, 4), dtype)
    noise = np.random.Generator(np.random.PCG64(4)).integers(1, np.iinfo(dtype).max, (low - top, right - left, 4))
    rgba[top:low, left:right] = noise
    rgba[:80, :90, :3] = 77  # colours where nothing is
    whole = cv2.resize(premultiplied(rgba), size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], 4)
    got = smaller_where_there(rgba, size)
    assert got.shape == whole.shape
    assert np.abs(got - whole).max() < 2e-6
