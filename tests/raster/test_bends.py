"""Where bends look, against the same formulas written plainly in double precision."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy import ndimage
from skimage.morphology import dilation, disk, erosion
from skimage.transform import warp_polar

from nimble_quake.raster.blur.morphology import morphed
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.warps.operations import (
    AFFINE,
    BRICKS,
    FOLDS,
    PERSPECTIVE,
    SWIRL,
    TILE,
    Bend,
    bent,
    levels_of,
    placed,
    rolled,
    unrolled,
)
from nimble_quake.raster.warps.warped import sampled_through
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Shot

SIZE = (320.0, 180.0)
RANDOM = np.random.Generator(np.random.PCG64(11))
XS, YS = (RANDOM.uniform(-0.5 * side, 1.5 * side, (60, 70)) for side in SIZE)


def look(*bends: Bend, xs: np.ndarray = XS, ys: np.ndarray = YS) -> tuple[np.ndarray, np.ndarray]:
    found = bent(np.stack([xs, ys]).astype(np.float32), bends).astype(np.float64)
    return found[0], found[1]


def near(got: tuple[np.ndarray, np.ndarray], x: np.ndarray, y: np.ndarray, within: float = 2e-3) -> bool:
    return bool(np.abs(got[0] - x).max() < within and np.abs(got[1] - y).max() < within)


def test_nothing_and_an_affine():
    assert near(look(), XS, YS, 1e-4)
    assert near(look((AFFINE, (1, 2, 3, 4, 5, 6))), XS + 2 * YS + 3, 4 * XS + 5 * YS + 6)


@pytest.mark.parametrize("degrees", [0.0, 37.0, -120.0])
@pytest.mark.parametrize(("across", "down"), [(1.0, 1.0), (2.0, 0.5), (-1.0, 1.0)])
def test_a_placed_picture_is_turned_scaled_and_moved(degrees, across, down):
    """The picture's own place goes through scale, turn and move; the bend is the way back."""
    about, move = (100.0, 60.0), (25.0, -40.0)
    u, v = (XS - about[0]) * across, (YS - about[1]) * down
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x, y = about[0] + move[0] + u * c - v * s, about[1] + move[1] + u * s + v * c
    assert near(look(placed(about, move, degrees, across, down), xs=x, ys=y), XS, YS, 5e-3)


def test_bends_follow_one_another():
    first, second = (AFFINE, (2.0, 0, 1, 0, 2.0, 1)), (AFFINE, (0, 1.0, 0, 1.0, 0, 0))
    assert near(look(first, second), 2 * YS + 1, 2 * XS + 1)
    assert near(look(second, first), 2 * YS + 1, 2 * XS + 1)
    assert not near(look(first, placed((0, 0), (10, 0), 0, 1, 1)), *look(placed((0, 0), (10, 0), 0, 1, 1), first))


@pytest.mark.parametrize("mirror", [0.0, 1.0])
def test_tiles(mirror):
    wide, high, dx, dy = 50.0, 30.0, 7.0, -4.0
    t, u = (XS - dx) / wide, (YS - dy) / high
    if mirror:
        x, y = 1 - np.abs(t % 2 - 1), 1 - np.abs(u % 2 - 1)
    else:
        x, y = t % 1, u % 1
    got = look((TILE, (*SIZE, wide, high, dx, dy, mirror)))
    off = np.maximum(np.abs(got[0] - x * SIZE[0]), np.abs(got[1] - y * SIZE[1]))
    assert (off < 0.02).mean() > 0.999, "but for what lies on a seam by rounding"


@pytest.mark.parametrize("rule", [0, 1, 2])
def test_perspective_and_what_lies_beyond(rule):
    m = np.array([[1.2, 0.1, -20], [0.05, 1.4, 10], [0.0004, 0.0021, 0.7]])
    x, y, w = np.einsum("ij,jhw->ihw", m, np.stack([XS, YS, np.ones_like(XS)]))
    ahead = w > 1e-3
    x, y = (np.where(ahead, n / np.where(ahead, w, 1), -1e6) for n in (x, y))
    if rule == 1:
        x, y = x % SIZE[0], y % SIZE[1]
    elif rule == 2:
        x, y = (side - np.abs(n % (2 * side) - side) for n, side in ((x, SIZE[0]), (y, SIZE[1])))
    got = look((PERSPECTIVE, (*m.ravel(), *SIZE, float(rule))))
    off = np.maximum(np.abs(got[0] - x), np.abs(got[1] - y))[ahead]
    assert (off < 0.05).mean() > 0.995
    if rule == 0:
        assert (got[0][~(w > 1e-9)] == -1e6).all(), "what is behind the eye lies nowhere"


def test_a_swirl_turns_its_middle_whole_and_its_rim_not_at_all():
    centre, radius, turn = (150.0, 80.0), 70.0, 1.3
    got = look((SWIRL, (*centre, radius, turn, 0.0)))
    dx, dy = XS - centre[0], YS - centre[1]
    away = np.hypot(dx, dy)
    share = np.clip(1 - away / radius, 0, 1)
    angle = -turn * share * share * (3 - 2 * share)
    c, s = np.cos(angle), np.sin(angle)
    assert near(got, centre[0] + dx * c - dy * s, centre[1] + dx * s + dy * c)
    assert np.abs(np.hypot(got[0] - centre[0], got[1] - centre[1]) - away).max() < 2e-3, "distances stay"


def test_folds_are_mirrored_sectors():
    """All looked-at angles lie in one sector; places mirrored at a sector's edge look at the same place."""
    sectors, centre = 6, (160.0, 90.0)
    each = math.pi / sectors
    bend: Bend = (FOLDS, (*centre, each, 0.0, 0.0))
    got = look(bend)
    angle = np.arctan2(got[1] - centre[1], got[0] - centre[0])
    assert angle.min() > -1e-3
    assert angle.max() < each + 1e-3
    assert near(look(bend, ys=2 * centre[1] - YS), *got, 0.02)
    radius, turn = np.hypot(XS - centre[0], YS - centre[1]), np.arctan2(YS - centre[1], XS - centre[0]) + 2 * each
    turned = look(bend, xs=centre[0] + radius * np.cos(turn), ys=centre[1] + radius * np.sin(turn))
    assert near(turned, *got, 0.02)


@pytest.mark.parametrize("stagger", [0.0, 1.0])
def test_bricks_leave_their_middles_and_show_more_at_their_sides(stagger):
    wide, high, power = 40.0, 30.0, 0.5
    rows = np.arange(6)[:, None] + np.zeros((6, 8))
    shift = np.where(rows % 2 == 1, 0.5 * wide * stagger, 0)
    x, y = (np.arange(8)[None] + 0.5) * wide + shift, (rows + 0.5) * high
    bend: Bend = (BRICKS, (wide, high, power, 0.3, stagger))
    assert near(look(bend, xs=x, ys=y), x, y)
    right = look(bend, xs=x + 0.49 * wide, ys=y)
    assert (right[0] - x > 0.49 * wide + 5).all()


@pytest.mark.parametrize("mirror", [False, True])
def test_ring_pictures_there_and_back(mirror):
    """Out of rings and into them again is the same place; mirrored, both halves meet at the seam."""
    there, back = unrolled((160, 90), 150, 0.1, SIZE), rolled((160, 90), 150, 0.1, SIZE, mirror=mirror)
    inner_x, inner_y = RANDOM.uniform(5, 315, (40, 40)), RANDOM.uniform(5, 175, (40, 40))
    got = look(there, back, xs=inner_x, ys=inner_y)
    if mirror:
        assert near(got, SIZE[0] - np.abs(2 * inner_x - SIZE[0]), inner_y, 0.02)
    else:
        assert near(got, inner_x, inner_y, 0.02)


def test_composed_bends_are_sampled_once():
    """A turn and the turn back leave a sharp picture as it is; sampled twice it would be soft."""
    grid, picture = frame_grid(320, 180), RANDOM.random((180, 320, 1)).astype(np.float32)
    turn, back = placed((160, 90), (0, 0), 30, 1, 1), placed((160, 90), (0, 0), -30, 1, 1)
    once = sampled_through(lambda on: picture, grid, (turn, back), SIZE, 0.0)
    assert np.abs(once - picture)[4:-4, 4:-4].max() < 0.01
    half = sampled_through(lambda on: picture, grid, (turn,), SIZE, 0.0)
    twice = sampled_through(lambda on: half, grid, (back,), SIZE, 0.0)
    assert np.abs(twice - picture)[70:110, 130:190].mean() > 0.05


def test_levels_are_looked_up_once_for_a_bend_that_stands_still():
    grid, bends = frame_grid(320, 180), (rolled((160, 90), 180, 0.0, SIZE),)
    assert levels_of(grid, bends) is levels_of(grid, bends)
    assert levels_of(grid.grown(8), bends).shape != levels_of(grid, bends).shape


class TestAgainstScikitImage:
    SOFT = ndimage.gaussian_filter(RANDOM.random((180, 320)), 4).astype(np.float32)

    def test_a_picture_rolled_out(self):
        """skimage.transform.warp_polar: rows are angles from the right, clockwise, columns distances."""
        wanted = warp_polar(self.SOFT, center=(90, 160), radius=80, output_shape=(320, 180), order=1, mode="edge").T
        bends = (unrolled((160.5, 90.5), 80, 0.25, SIZE),)  # about a sample, seam right
        got = sampled_through(lambda on: self.SOFT[..., None], frame_grid(320, 180), bends, SIZE, 0.0)[..., 0]
        assert np.abs(got - wanted)[8:-2].mean() < 0.004

    @pytest.mark.parametrize(("way", "theirs"), [("grow", dilation), ("shrink", erosion)])
    def test_growing_by_a_disc(self, way, theirs):
        """skimage.morphology by a disc; OpenCV's ellipse, ours, differs from it by single samples at its rim."""
        radius = 5
        got = morphed(self.SOFT[..., None], way, "round", radius)[10:-10, 10:-10, 0]
        wanted, less, more = (theirs(self.SOFT, disk(r))[10:-10, 10:-10] for r in (radius, radius - 1, radius + 1))
        assert np.abs(got - wanted).mean() < 0.25 * np.abs(more - less).mean()
        assert (got >= np.minimum(less, more) - 1e-6).all()
        assert (got <= np.maximum(less, more) + 1e-6).all()


@pytest.mark.parametrize("kind", ["noise", "pattern"])
def test_a_shrinking_bend_never_steps(kind):
    """Around every size at which a coarser copy could come in: a hair smaller is a hair different, not 2 levels."""
    values = {"size_x": 30.0, "size_y": 30.0, "octaves": 5} if kind == "noise" else {"form": "checker"}
    grid = frame_grid(240, 136)

    def shrunk(scale: float) -> np.ndarray:
        recipe = (Node(id="n", kind=kind, values=values), Node(id="t", kind="transform", values={"scale": scale}))
        map = Map(id="m", name="", recipe=recipe)
        return map_field(frame_job(Engine(), Shot(width=240, height=136, maps=(map,)), 0), map, grid)

    for quarter in range(1, 12):
        for share in (0.0, 0.02):
            scale = 2.0 ** (-(quarter - share) / 4)
            apart = 255 * np.abs(shrunk(scale * 0.99999) - shrunk(scale * 1.00001)).max()
            assert apart < 1.5, scale
