"""A blur whose width differs from pixel to pixel, where most of it is not asked for."""

from __future__ import annotations

from types import SimpleNamespace

import numpy as np
import pytest

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
