"""Pictures on the part of a grid where anything of them is."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.raster.geometry.affine import IDENTITY
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch, around
from nimble_quake.render.chain.pictures import PlacedRaster
from nimble_quake.render.values.placement import Placement

GRID = Grid(-20.0, -10.0, 60, 40, 0.5)


def test_on_a_larger_grid_all_round_it_is_clear():
    own = GRID.part(7, 5, 11, 13)
    picture = np.random.default_rng(1).random((13, 11, 4), np.float32)
    found = Patch(picture, own).on(GRID)
    assert (found[5:18, 7:18] == picture).all()
    assert found.sum() == pytest.approx(picture.sum(), rel=1e-5)
    assert Patch(picture, own).on(own) is picture


def test_around_parts():
    parts = GRID.part(7, 5, 11, 13), GRID.part(30, 2, 3, 4)
    assert around(GRID, *parts) == GRID.part(7, 2, 26, 16)
    assert around(GRID, parts[0]) == parts[0]
    assert around(GRID) == GRID
    assert around(GRID, GRID.part(0, 0, 5, 40), GRID.part(50, 7, 10, 3)) is GRID


@pytest.mark.parametrize("shift", [(0, 0), (-13, -4), (3, 50), (-30, 2), (80, 0)])
def test_where_samples_fall_on_pixels_a_picture_covers_just_its_own(shift):
    """And it is shown there as it is: the same bits, none copied."""
    picture = np.random.default_rng(2).random((40, 50, 4), np.float32)
    grid = Grid(float(shift[0]), float(shift[1]), 64, 48)
    lies = Placement((50, 40), IDENTITY, IDENTITY)
    raster = PlacedRaster(picture, IDENTITY, "empty", lies, (), lambda seconds: raster)
    part = raster.covered(grid, 0.0)
    x, y = (np.arange(n) + at for n, at in ((64, shift[0]), (48, shift[1])))
    inside = ((x >= 0) & (x < 50)).sum(), ((y >= 0) & (y < 40)).sum()
    if not all(inside):
        assert part is None
        return
    assert part is not None
    assert (part.width, part.height) == inside
    assert np.shares_memory(raster.on(part), picture)
    whole = raster.on(grid)
    assert (Patch(raster.on(part), part).on(grid) == whole).all()
