"""A picture over one colour, in one pass."""

import numpy as np
import pytest

from nimble_quake.raster.colour.blend import blend_onto, flat, over_flat


@pytest.mark.parametrize("opacity", [1.0, 0.37, 2.5])
@pytest.mark.parametrize("ground", [(0.0, 0.0, 0.0, 0.0), (0.2, 0.1, 0.3, 0.5), (1.0, 1.0, 1.0, 1.0)])
def test_the_same_bits_as_blending_onto_a_flat_picture(opacity, ground):
    rng = np.random.Generator(np.random.PCG64(5))
    alpha = rng.random((37, 150, 1)) * (rng.random((37, 150, 1)) > 0.5)
    top = (rng.random((37, 150, 4)) * alpha).astype(np.float32)
    top[..., 3:] = alpha
    top[5, :40, :3] = 0.3  # light without alpha
    for picture in (top, top[3:30, 11:140]):
        below = flat(picture.shape[:2], ground)
        blend_onto(below, picture, opacity=opacity)
        got, begun = over_flat(picture, ground, opacity)
        if begun is not None:
            begun.finish()
        assert np.array_equal(got, below)
