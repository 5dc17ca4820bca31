"""Blocks in depth: their projection against OpenCV, hiding, and what is drawn of them."""

from __future__ import annotations

from typing import TypeAlias

import cv2
import numpy as np
import pytest

from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.shapes.blocks3d import SIGNS, camera, faces_of, painted, projected


@pytest.mark.parametrize("angles", [(0, 0, 0), (38, -18, 0), (60, 25, 10), (-30, 70, 200)])
def test_points_are_seen_where_opencv_sees_them(angles):
    """cv2.projectPoints, the camera `depth` before the plane with that focal length; its z points the other way."""
    points = np.random.default_rng(1).uniform(-300, 300, (40, 3))
    depth, view = 1400.0, camera(*angles)
    own = projected(points @ view.T, depth)
    flip = np.diag([1.0, 1.0, -1.0])
    lens = np.array([[depth, 0, 0], [0, depth, 0], [0, 0, 1]])
    turned = flip @ view @ points.T
    theirs, _ = cv2.projectPoints(turned.T, np.zeros(3), np.array([0, 0, depth]), lens, None)
    assert np.abs(own - theirs[:, 0]).max() < 1e-6


Block: TypeAlias = tuple[np.ndarray, np.ndarray, np.ndarray]


def block(middle: tuple[float, float, float], half: float, turns: tuple[float, float] = (0.0, 0.0)) -> Block:
    return np.array([middle]), np.full((1, 3), half), np.array([turns])


def drawn(*blocks: Block, greys: tuple[float, ...], view=(0.0, 0.0, 0.0), scale: float = 1.0) -> np.ndarray:
    middles, halves, turns = (np.concatenate([b[n] for b in blocks]) for n in range(3))
    quads, shades = faces_of(middles, halves, turns, np.array(greys), camera(*view), 1000.0, 0.0)
    grid = Grid(0, 0, int(200 * scale), int(160 * scale), scale)
    return painted(quads, shades, grid, (100, 80), 0.0)[..., 0]


def test_a_block_seen_from_the_front_is_its_front_face():
    found = drawn(block((0, 0, 0), 30), greys=(0.5,))
    side = 60 * 1000 / (1000 - 30)
    assert found.sum() / 0.5 == pytest.approx(side * side, rel=0.01)
    assert found[80, 100] == 0.5
    assert found[10, 10] == 0


def test_nearer_blocks_hide_farther_ones_whatever_their_order():
    near, far = block((5, 0, 100), 30), block((0, 0, -100), 60)
    a = drawn(near, far, greys=(0.9, 0.3))
    b = drawn(far, near, greys=(0.3, 0.9))
    assert np.allclose(a, b)
    assert a[80, 105] == pytest.approx(0.9)


def test_half_size_is_the_whole_made_smaller():
    blocks = [block((x, y, z), 18, (20, 30)) for x, y, z in ((-40, -20, 0), (30, 10, 60), (0, 40, -80))]
    whole = drawn(*blocks, greys=(0.4, 0.7, 0.9), view=(30, 20, 5))
    half = drawn(*blocks, greys=(0.4, 0.7, 0.9), view=(30, 20, 5), scale=0.5)
    smaller = whole.reshape(80, 2, 100, 2).mean(axis=(1, 3))
    assert np.abs(smaller - half).mean() < 0.01


def test_blocks_behind_the_eye_and_wild_numbers_draw_nothing_wild():
    for middle in ((0, 0, 1e9), (1e12, 0, 0), (0, 0, 999), (np.inf, 0, 0)):
        with np.errstate(all="ignore"):
            found = drawn(block(middle, 30), greys=(0.5,))
        assert np.isfinite(found).all()


def test_the_corners_are_those_of_a_cube():
    assert len({tuple(corner) for corner in SIGNS.tolist()}) == 8
