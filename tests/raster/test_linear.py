"""Pictures looked up between their pixels, against OpenCV's remap; crops against the whole."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.sampling.linear import can_look_up
from nimble_quake.raster.sampling.sample import fetch

EDGES = {
    "empty": cv2.BORDER_CONSTANT,
    "hold": cv2.BORDER_REPLICATE,
    "wrap": cv2.BORDER_WRAP,
    "mirror": cv2.BORDER_REFLECT,
}


def picture(height: int, width: int) -> np.ndarray:
    return np.random.Generator(np.random.PCG64(7)).random((height, width, 4)).astype(np.float32)


def warp(height: int, width: int, far: float) -> np.ndarray:
    return np.random.Generator(np.random.PCG64(8)).normal(0, far, (2, height, width)).astype(np.float32)


@pytest.mark.parametrize("edge", EDGES)
@pytest.mark.parametrize(("height", "width", "far"), [(40, 75, 3), (9, 130, 60), (64, 64, 0.4), (2, 200, 5)])
def test_the_bits_of_opencv(edge, height, width, far):
    source, moves = picture(height, width), warp(height, width, far)
    ys, xs = np.mgrid[:height, :width].astype(np.float64)
    us, vs = ((at + move).astype(np.float32) for at, move in ((xs, moves[0]), (ys, moves[1])))
    expected = cv2.remap(source, us, vs, cv2.INTER_LINEAR, borderMode=EDGES[edge])
    got = fetch(source, Grid(0.0, 0.0, width, height, 1.0), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0), moves, edge=edge)
    assert can_look_up(source, got)
    assert np.abs(got - expected).max() <= 1.2e-7
    inside = (us >= 0) & (vs >= 0) & (us < width - 1) & (vs < height - 1)
    assert np.array_equal(got[inside], expected[inside])


@pytest.mark.parametrize("edge", EDGES)
def test_a_part_is_the_whole_cut_out(edge):
    source, moves = picture(50, 90), warp(50, 90, 4)
    whole = fetch(source, Grid(0.0, 0.0, 90, 50, 1.0), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0), moves, edge=edge)
    part = fetch(source, Grid(13.0, 7.0, 41, 30, 1.0), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0), moves[:, 7:37, 13:54], edge=edge)
    assert np.array_equal(part, whole[7:37, 13:54])


@pytest.mark.parametrize("edge", EDGES)
def test_a_map_is_looked_up_as_the_channels_of_a_picture_are(edge):
    source, moves = picture(30, 44), warp(30, 44, 6)
    grid, same = Grid(0.0, 0.0, 44, 30, 1.0), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
    whole = fetch(source, grid, same, moves, edge=edge)
    for k in range(4):
        one = np.ascontiguousarray(source[..., k : k + 1])
        got = fetch(one, grid, same, moves, edge=edge)
        assert can_look_up(one, got)
        assert np.array_equal(got[..., 0], whole[..., k])


def test_what_it_cannot_handle_is_looked_up_all_the_same():
    source, moves = picture(30, 44), warp(30, 44, 2)
    grid, same = Grid(0.0, 0.0, 44, 30, 1.0), (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)
    whole = fetch(source, grid, same, moves, edge="mirror")
    for cut in (source[..., :3], source[..., :1], np.pad(source, ((0, 0), (0, 3), (0, 0)))[:, :-3]):
        got = fetch(cut, grid, same, moves, edge="mirror")
        assert not can_look_up(cut, got)
        assert np.allclose(got, whole[..., : cut.shape[2]], atol=2e-7)
    line = fetch(source[:1], grid, same, moves, edge="hold")
    assert np.isfinite(line).all()
