"""Sampling: filters and edges against SciPy and OpenCV, identity to the bit."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.sampling.edges import EDGES
from nimble_quake.raster.sampling.sample import FILTERS, fetch
from nimble_quake.raster.sampling.shrunk import BLOCK

CHANCE = np.random.Generator(np.random.PCG64(1))
PICTURE = CHANCE.random((40, 60, 4)).astype(np.float32)
GRID = frame_grid(60, 40)
WARP = (CHANCE.random((2, 40, 60)) * 30 - 15).astype(np.float32)
SCIPY: dict[str, Any] = {"empty": "constant", "hold": "nearest", "wrap": "grid-wrap", "mirror": "reflect"}


@pytest.mark.parametrize("edge", EDGES)
def test_linear_against_scipy(edge):
    """scipy.ndimage.map_coordinates, order 1, with the mode of the same meaning."""
    ys, xs = np.mgrid[0:40, 0:60].astype(np.float64)
    places = [ys + WARP[1], xs + WARP[0]]
    if edge == "empty":  # SciPy's constant mode has a hard border; a ring of nothing makes it soft, as W3C's is
        padded = np.pad(PICTURE, ((1, 1), (1, 1), (0, 0)))
        wanted = [
            ndimage.map_coordinates(padded[..., k], [p + 1 for p in places], order=1, mode="constant") for k in range(4)
        ]
    else:
        wanted = [ndimage.map_coordinates(PICTURE[..., k], places, order=1, mode=SCIPY[edge]) for k in range(4)]
    got = fetch(PICTURE, GRID, affine.IDENTITY, WARP, edge=edge)
    assert np.abs(got - np.stack(wanted, axis=-1)).max() < 1e-4


@pytest.mark.parametrize("filter", FILTERS)
@pytest.mark.parametrize("edge", EDGES)
def test_no_push_is_the_same_to_the_bit(filter, edge):
    """A warp of exact zeros, and no warp, leave every bit as it is."""
    still = np.zeros_like(WARP)
    assert np.array_equal(fetch(PICTURE, GRID, affine.IDENTITY, None, edge=edge, filter=filter), PICTURE)
    assert np.array_equal(fetch(PICTURE, GRID, affine.IDENTITY, still, edge=edge, filter=filter), PICTURE)


@pytest.mark.parametrize("filter", FILTERS)
@pytest.mark.parametrize("edge", EDGES)
@given(st.integers(-130, 130), st.integers(-130, 130), st.sampled_from([1.0, 0.5]))
def test_whole_shifts_are_the_same_to_the_bit_as_a_still_warp(filter, edge, right, down, scale):
    """Where every pixel is one of the source's it is copied: the same bits, far past the border too."""
    grid = frame_grid(70, 50, scale)
    shift = (scale, 0.0, right, 0.0, scale, down)
    still = np.zeros((2, *grid.shape), np.float32)
    copied = fetch(PICTURE, grid, shift, None, edge=edge, filter=filter)
    assert np.array_equal(copied, fetch(PICTURE, grid, shift, still, edge=edge, filter=filter))


def test_nearest_rounds_half_up():
    """W3C Filter Effects 1 leaves the filter open; nearest here rounds half up, as renderers that use it do."""
    moved = fetch(PICTURE, GRID, affine.IDENTITY, np.full_like(WARP, 0.5), edge="wrap", filter="nearest")
    assert np.array_equal(moved, np.roll(PICTURE, (-1, -1), (0, 1)))


def test_cubic_is_catmull_rom():
    """Keys 1981, a = -1/2: half-way weights -1/16, 9/16, 9/16, -1/16."""
    moved = fetch(
        PICTURE,
        GRID,
        affine.IDENTITY,
        np.stack([np.full((40, 60), 0.5), np.zeros((40, 60))]).astype(np.float32),
        filter="cubic",
        edge="hold",
    )
    row = PICTURE[7, :, 1].astype(np.float64)
    wanted = (-row[9] + 9 * row[10] + 9 * row[11] - row[12]) / 16
    assert moved[7, 10, 1] == pytest.approx(wanted, abs=1e-6)


@given(st.integers(-80, 80), st.integers(-80, 80))
def test_wrapped_whole_shift_is_a_roll(dx, dy):
    shift = np.empty_like(WARP)
    shift[0], shift[1] = dx, dy
    got = fetch(PICTURE, GRID, affine.IDENTITY, shift, edge="wrap")
    assert np.allclose(got, np.roll(PICTURE, (-dy, -dx), (0, 1)), atol=1e-5)


def test_small_sign_change_is_nearly_the_inverse():
    """A smooth push and its negative: back to second order."""
    ys, xs = np.mgrid[0:40, 0:60].astype(np.float32)
    smooth = np.stack([np.sin(ys / 9), np.cos(xs / 11)]).astype(np.float32)
    source = np.repeat(np.sin(xs / 8 + ys / 13)[..., None], 4, axis=2).astype(np.float32)
    there = fetch(source, GRID, affine.IDENTITY, smooth, edge="hold")
    back = fetch(there, GRID, affine.IDENTITY, -smooth, edge="hold")
    assert np.abs(back - source)[5:-5, 5:-5].max() < 0.05


@pytest.mark.parametrize("edge", EDGES)
@pytest.mark.parametrize("filter", FILTERS)
def test_absurd_places_give_finite_pictures(edge, filter):
    """NaN, infinity and places light years away never reach the picture."""
    wild = WARP.copy()
    wild[0, 0, 0], wild[1, 0, 1], wild[0, 0, 2] = np.nan, np.inf, 3e30
    with np.errstate(all="ignore"):
        assert np.isfinite(fetch(PICTURE, GRID, affine.IDENTITY, wild, edge=edge, filter=filter)).all()


def test_grid_scale_and_origin():
    """A half-size grid samples at the middle of each 2 x 2 block."""
    ramp = np.repeat(np.arange(60, dtype=np.float32)[None, :, None], 40, axis=0).repeat(4, axis=2).copy()
    half = fetch(ramp, Grid(0, 0, 30, 20, 0.5), affine.IDENTITY, None, edge="hold")
    assert np.allclose(half[5, :, 0], np.arange(30) * 2 + 0.5)


def test_affine_algebra():
    m = affine.compose(affine.compose(affine.stretch(2, 3), affine.turn(30)), affine.shift(5, -7))
    back = affine.inverse(m)
    assert back is not None
    assert np.allclose(affine.apply(back, *affine.apply(m, 11.0, 13.0)), (11, 13))
    assert affine.apply(affine.turn(90), 1.0, 0.0) == (0.0, 1.0)  # clockwise on screen: right turns down (SVG, CSS)
    assert affine.inverse(affine.stretch(0, 1)) is None
    assert affine.scales(affine.stretch(2, 3)) == (2.0, 3.0)
    assert affine.bounds(affine.turn(90), 0, 0, 4, 2) == (-2.0, 0.0, 0.0, 4.0)


@pytest.mark.parametrize("at", range(1, 9))
def test_what_is_made_smaller_is_averaged_alike_in_any_part(at):
    """Hard stripes, more and more of them to a pixel: what a block decides hangs on the shot, not on what is asked."""
    stripes = np.zeros((64, 96, 4), np.float32)
    stripes[:, ::3] = 1.0
    whole = frame_grid(96, 64)
    xs, ys = np.meshgrid(whole.xs(), whole.ys())
    warp = np.stack([0.02 * (xs - 48) ** 2 + 0.3 * ys, 0.01 * (ys - 32) ** 2]).astype(np.float32)
    rows, columns = slice(at, at + 48), slice(at, at + 80)
    made = fetch(stripes, whole, affine.IDENTITY, warp, edge="wrap", filter="good")[rows, columns]
    part = whole.part(at, at, 80, 48)
    own = fetch(
        stripes, part, affine.IDENTITY, np.ascontiguousarray(warp[:, rows, columns]), edge="wrap", filter="good"
    )
    inner = slice(BLOCK, -BLOCK)  # a block that is cut off looks at another place than its middle
    assert np.abs(made - own)[inner, inner].max() < 1e-5
    plain = fetch(
        stripes, part, affine.IDENTITY, np.ascontiguousarray(warp[:, rows, columns]), edge="wrap", filter="linear"
    )
    assert np.abs(own - plain)[inner, inner].max() > 0.2, "much of it is averaged"


@pytest.mark.parametrize("shape", [(1, 40), (40, 1), (1, 1)])
@pytest.mark.parametrize("edge", EDGES)
def test_a_line_of_pixels_made_smaller_is_averaged_too(shape, edge):
    """Of a source one pixel high nothing lies well inside: each place is looked up at the border."""
    source = np.full((*shape, 4), 0.5, np.float32)
    whole = frame_grid(32, 32)
    xs, ys = np.meshgrid(whole.xs(), whole.ys())
    warp = np.stack([3 * xs, 3 * ys]).astype(np.float32)
    made = fetch(source, whole, affine.IDENTITY, warp, edge=edge, filter="good")
    assert np.isfinite(made).all()
    assert made.max() <= 0.5 + 1e-6
    assert edge == "empty" or np.allclose(made, 0.5)
