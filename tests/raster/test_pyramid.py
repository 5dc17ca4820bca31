"""Looking a field up between its smaller copies."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import ndimage

from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.sampling.pyramid import EDGE, LEAST, pyramid, runs_of
from nimble_quake.raster.warps.operations import AFFINE, Bend, levels_of, rolled
from nimble_quake.raster.warps.warped import at_index, plainly, sampled_through

RANDOM = np.random.Generator(np.random.PCG64(5))
PLANE = RANDOM.random((90, 161)).astype(np.float32)


def places(count: tuple[int, int], size: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
    us = RANDOM.uniform(-3, size[1] + 2, count).astype(np.float32)
    return us, RANDOM.uniform(-3, size[0] + 2, count).astype(np.float32)


def by_scipy(plane: np.ndarray, us: np.ndarray, vs: np.ndarray, level: int) -> np.ndarray:
    """scipy.ndimage.map_coordinates on a copy made smaller by averaging squares, the border held."""
    for _ in range(level):
        plane = np.pad(plane, ((0, plane.shape[0] % 2), (0, plane.shape[1] % 2)), "edge")
        plane = (plane[::2, ::2] + plane[1::2, ::2] + plane[::2, 1::2] + plane[1::2, 1::2]) / 4
    x, y = ((n.astype(np.float64) + 0.5) / 2**level - 0.5 for n in (us, vs))
    return ndimage.map_coordinates(plane.astype(np.float64), [y, x], order=1, mode="nearest")


def test_copies_average_squares():
    copies = pyramid(PLANE, 2.0)
    assert list(zip(copies.heights, copies.widths, strict=True)) == [(90, 161), (45, 81), (23, 41)]
    half = copies.smaller[: 45 * 81].reshape(45, 81)
    assert half[10, 20] == pytest.approx(PLANE[20:22, 40:42].mean(), abs=1e-6)
    assert half[10, 80] == pytest.approx(PLANE[20:22, 160].mean(), abs=1e-6), "an odd border is held"
    assert len(pyramid(PLANE, 0.1).heights) == 1, "nothing to make smaller"


@pytest.mark.parametrize("level", [1, 2])
def test_a_whole_level_is_one_copy(level):
    us, vs = places((60, 100), PLANE.shape)
    got = at_index(PLANE[..., None], us, vs, np.full((15, 25), level, np.float32))[..., 0]
    assert np.abs(got - by_scipy(PLANE, us, vs, level)).max() < 2e-3  # the last column is left a thousandth early


def test_between_levels_two_copies_are_mixed_and_blocks_differ():
    us, vs = places((60, 100), PLANE.shape)
    levels = RANDOM.choice(np.array([0, 0.5, 1, 1.5], np.float32), (15, 25))
    got = at_index(PLANE[..., None], us, vs, levels)[..., 0]
    each = [by_scipy(PLANE, us, vs, n) for n in range(3)]
    spread = np.kron(levels, np.ones((4, 4)))
    low = np.floor(spread).astype(int)
    lower, upper = np.choose(low, each), np.choose(low + np.ceil(spread - low).astype(int), each)
    share = np.where(low == 0, (spread - LEAST) / (1 - EDGE - LEAST), (spread - low - EDGE) / (1 - 2 * EDGE))
    assert np.abs(got - (lower + (upper - lower) * np.clip(share, 0, 1))).max() < 2e-3


def test_colours_are_looked_up_as_their_channels_are():
    us, vs = places((60, 100), PLANE.shape)
    levels = np.full((15, 25), 1.3, np.float32)
    colour = np.ascontiguousarray(np.stack([PLANE, 1 - PLANE, PLANE**2], axis=2))
    got = at_index(colour, us, vs, levels)
    for k in range(3):
        alone = at_index(np.ascontiguousarray(colour[..., k : k + 1]), us, vs, levels)[..., 0]
        assert np.array_equal(got[..., k], alone)


@pytest.mark.parametrize("shape", [(1, 1), (1, 9), (9, 1), (2, 2)])
def test_the_smallest_fields(shape):
    plane = RANDOM.random(shape).astype(np.float32)
    us, vs = places((8, 8), shape)
    us[0, 0], vs[0, 1] = np.nan, np.inf
    got = plainly(plane[..., None], us, vs)[..., 0]
    assert np.isfinite(got).all()
    inside = np.isfinite(us) & np.isfinite(vs)
    assert np.abs(got - by_scipy(plane, np.nan_to_num(us), np.nan_to_num(vs, posinf=99), 0))[inside].max() < 2e-3


def test_runs_cover_a_row_once_and_mixing_has_no_step():
    line = RANDOM.uniform(0, 4, 50).astype(np.float32)
    line[7] = np.nan
    ends, kinds, mixes = np.zeros(50, np.int32), np.zeros(50, np.int32), np.zeros(50, np.float32)
    shares = np.full(198, -1, np.float32)
    count = runs_of(line, 3, 198, ends, kinds, mixes, shares)
    assert ends[count - 1] == 198
    assert (np.diff(ends[:count]) > 0).all()
    assert (np.diff(kinds[:count]) != 0).all()
    depth = []
    for level in np.linspace(0, 3, 3001, dtype=np.float32):
        runs_of(np.array([level], np.float32), 3, 4, ends, kinds, mixes, shares)
        depth.append((kinds[0] >> 1) + (shares[0] if kinds[0] & 1 else 0.0))
    assert np.abs(np.diff(depth)).max() < 0.002
    assert np.abs(np.array(depth) - np.linspace(0, 3, 3001)).max() <= LEAST + 1e-6


def test_levels_tell_how_much_smaller_a_picture_becomes():
    """A map drawn at a quarter of its size is made smaller by two powers of two; one round a centre, most there."""
    grid = frame_grid(320, 180)
    quarter: Bend = (AFFINE, (4.0, 0.0, 0.0, 0.0, 4.0, 0.0))
    assert levels_of(grid, (quarter,)) == pytest.approx(np.full((45, 80), 2.0), abs=1e-3)
    rings = levels_of(grid, (rolled((160, 90), 180, 0.0, (320, 180)),))
    assert rings[22, 40] > 3
    assert rings[2, 2] == 0


def test_what_is_made_smaller_turns_grey_not_wild():
    """One pixel stripes laid round a centre lie far closer than pixels there: their mean is seen, no sample pattern."""
    stripes = np.tile(np.array([0, 1], np.float32), (180, 160))[..., None]
    bend = rolled((160, 90), 180, 0.0, (320, 180))
    got = sampled_through(lambda on: stripes, frame_grid(320, 180), (bend,), (320.0, 180.0), 0.0)[82:98, 152:168, 0]
    ys, xs = np.mgrid[82:98, 152:168] + 0.5
    angle = np.arctan2(ys - 90, xs - 160)
    raw = plainly(stripes, (angle * 320 / (2 * np.pi) + 160).astype(np.float32), (0 * angle + 5).astype(np.float32))
    assert np.abs(got - 0.5).max() < 0.1
    assert raw.std() > 0.2, "without averaging it would be"
