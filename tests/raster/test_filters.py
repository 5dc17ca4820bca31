"""Blur and cells against SciPy; gradients against CSS; grids."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from scipy import ndimage
from skimage.morphology import disk

from nimble_quake.errors import LimitError
from nimble_quake.params.kinds import Stop
from nimble_quake.raster.blur.filters import cell_means, gaussian
from nimble_quake.raster.blur.morphology import morphed
from nimble_quake.raster.geometry.fitting import fitted
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.shapes.gradient import along, colour_at, stop_colours
from nimble_quake.raster.warps.trails import along_line

CHANCE = np.random.Generator(np.random.PCG64(5)).random((160, 200, 1)).astype(np.float32)
BLACK, WHITE = (0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0)


@pytest.mark.parametrize("sigma", [0.7, 2.0, 6.0, 11.0, 30.0])
def test_gaussian_against_scipy(sigma):
    """scipy.ndimage.gaussian_filter, truncated at 8 sigma; ours is cut at 4, and averages first where it is wide."""
    wanted = ndimage.gaussian_filter(CHANCE[..., 0].astype(np.float64), sigma, truncate=8, mode="nearest")
    assert np.abs(gaussian(CHANCE, sigma, sigma)[..., 0] - wanted).max() < (4e-4 if sigma <= 6 else 1 / 255)


@pytest.mark.parametrize("sigma", [16.0, 30.0, 60.0])
def test_wide_gaussian_by_way_of_a_smaller_copy(sigma):
    """Half a level away from the true one, inside the picture."""
    soft = ndimage.gaussian_filter(CHANCE[..., 0], 3).astype(np.float32)[..., None]
    wanted = ndimage.gaussian_filter(soft[..., 0].astype(np.float64), sigma, truncate=8, mode="nearest")
    got = gaussian(soft, sigma, sigma)[..., 0]
    assert np.abs(got - wanted).max() < 4 / 255


def test_flat_stays_flat():
    flat = np.full((50, 60, 4), 0.37, np.float32)
    for sigma in (1.0, 20.0, 80.0):
        assert np.allclose(gaussian(flat, sigma, sigma), 0.37, atol=1e-5)
        assert gaussian(flat, sigma, sigma).shape == flat.shape


def test_cell_means():
    means = cell_means(CHANCE, np.array([0, 50, 200]), np.array([0, 160]))
    assert means[0, 0, 0] == pytest.approx(CHANCE[:, :50].mean(), abs=1e-6)
    assert means.shape == (1, 2, 1)


def test_four_columns():
    """Stops white-black-white-black spread evenly lie at 0, 1/3, 2/3, 1 (common practice, no source)."""
    stops = tuple(Stop(n / 3, WHITE if n % 2 == 0 else BLACK) for n in range(4))
    got = stop_colours(stops, np.array([0, 1 / 3, 2 / 3, 1, 1 / 6]))[:, 0]
    assert got == pytest.approx([1, 0, 1, 0, 0.5], abs=1e-9)


@pytest.mark.parametrize("mid", [0.2, 0.5, 0.8])
def test_midpoint_holds_the_half_mix(mid):
    """CSS Images 4, colour hints: at the midpoint the mix is one half."""
    stops = (Stop(0.0, BLACK, mid), Stop(1.0, WHITE))
    assert stop_colours(stops, np.array([mid]))[0, 0] == pytest.approx(0.5)


def test_stops_mix_premultiplied():
    """CSS Color 4: clear red to opaque blue is blue all along."""
    stops = (Stop(0.0, (1.0, 0.0, 0.0, 0.0)), Stop(1.0, (0.0, 0.0, 1.0, 1.0)))
    assert stop_colours(stops, np.array([0.5]))[0].tolist() == pytest.approx([0, 0, 1, 0.5])


def test_table_equals_exact_colours():
    stops = (Stop(0.0, BLACK, 0.3), Stop(0.4, WHITE), Stop(1.0, (0.2, 0.4, 0.6, 0.5)))
    t = np.linspace(-0.2, 1.2, 999, dtype=np.float32)[None]
    assert np.abs(colour_at(stops, t) - stop_colours(stops, t.astype(np.float64))).max() < 1 / 255 / 4


def test_hard_stops_stay_hard():
    stops = (Stop(0.0, BLACK), Stop(0.5, BLACK), Stop(0.5, WHITE), Stop(1.0, WHITE))
    got = colour_at(stops, np.array([[0.4999, 0.5001]], np.float32))[0, :, 0]
    assert got.tolist() == [0.0, 1.0]


def test_places_along():
    """Linear: projection; radial: distance; conic: clockwise from the end's bearing (CSS Images 3 and 4)."""
    grid = frame_grid(100, 50)
    linear = along(grid, "linear", (0, 25), (100, 25))
    assert linear[10, 49] == pytest.approx(0.495, abs=1e-5)
    radial = along(grid, "radial", (50, 25), (50, 75))
    assert radial[25, 50] == pytest.approx(np.hypot(0.5, 0.5) / 50, abs=1e-5)
    conic = along(grid, "conic", (50.5, 25.5), (90, 25.5))
    assert conic[40, 50] == pytest.approx(0.25, abs=1e-3)  # below the centre: a quarter turn clockwise
    assert along(grid, "linear", (3, 3), (3, 3)).tolist() == np.ones((50, 100)).tolist()


def test_grid_growth_and_limits():
    grid = frame_grid(100, 50, 0.5)
    assert (grid.width, grid.height) == (50, 25)
    outer = grid.grown(4)
    rows, columns = grid.inside(outer)
    assert (rows.start, columns.start) == (4, 4)
    assert outer.xs()[4:-4] == pytest.approx(grid.xs())
    assert Grid(0, 0, 8, 8, 2.0).samples(1.2) == 3
    with pytest.raises(LimitError, match="16384"):
        frame_grid(90_000, 100)


@pytest.mark.parametrize(("fit", "at"), [("contain", (0.0, -100.0)), ("cover", (50.0, 0.0)), ("centre", (0.0, -50.0))])
def test_fits(fit, at):
    """Where the frame's corner (0, 0) of 200 x 400 falls in a picture of 200 x 200 (or 200 x 300 centred)."""
    size = (200.0, 300.0) if fit == "centre" else (200.0, 200.0)
    _a, _b, c, _d, _e, f = fitted(fit, size, (200.0, 400.0))
    assert (c, f) == pytest.approx(at)


def textured(height: int = 300, width: int = 360) -> np.ndarray:
    """Hard edges, single dots and fine texture, (H, W, 1)."""
    chance = np.random.Generator(np.random.PCG64(1))
    out = np.zeros((height, width, 1), np.float32)
    out[80:200, 90:260] = 1
    out[::37, ::41] = 1
    return out + chance.random(out.shape, dtype=np.float32) * np.float32(0.2)


@pytest.mark.parametrize("sigma", [0.7, 3, 3.9, 4, 4.1, 6, 7.9, 8, 8.1, 11.9, 12.1, 16, 24, 31, 47, 48.5, 60])
def test_gaussian_is_a_gaussian_at_any_sigma(sigma):
    """Against scipy.ndimage.gaussian_filter in double precision: 0.3 of 255 levels at the most, and no jump."""
    picture = textured()
    wanted = ndimage.gaussian_filter(picture[..., 0].astype(float), sigma, truncate=6, mode="nearest")
    assert 255 * np.abs(gaussian(picture, sigma, sigma)[..., 0] - wanted).max() < 0.3
    wide = ndimage.gaussian_filter(picture[..., 0].astype(float), (0.8, sigma), truncate=6, mode="nearest")
    assert 255 * np.abs(gaussian(picture, sigma, 0.8)[..., 0] - wide).max() < 0.3


@pytest.mark.parametrize("sigma", [7, 20, 45])
def test_gaussian_moves_with_its_picture(sigma):
    picture = np.pad(textured(), ((250, 250), (250, 250), (0, 0)))
    moved = np.roll(picture, (5, 3), (0, 1))
    back = np.roll(gaussian(moved, sigma, sigma), (-5, -3), (0, 1))
    assert 255 * np.abs(back - gaussian(picture, sigma, sigma))[200:-200, 200:-200].max() < 0.05


@pytest.mark.parametrize("radius", [1, 2, 3, 5, 12, 13, 30])
@pytest.mark.parametrize("way", ["grow", "shrink"])
def test_round_is_round(radius, way):
    """Between grey morphology by scikit-image's discs of this radius and of one more; the border held."""
    picture = textured(150, 180)
    run = ndimage.grey_dilation if way == "grow" else ndimage.grey_erosion
    near, far = (run(picture[..., 0], footprint=disk(r), mode="nearest") for r in (radius, radius + 1))
    got = morphed(picture, way, "round", radius)[..., 0]
    assert (got >= np.minimum(near, far) - 1e-6).all()
    assert (got <= np.maximum(near, far) + 1e-6).all()


@pytest.mark.parametrize("radius", [0.5, 1.0, 2.0, 3.0, 4.5, 10.0, 40.0])
def test_an_edge_is_moved_by_the_radius_however_it_slants(radius):
    """In closed form: the half plane x cos + y sin < offset, its coverage measured 16 x finer, moved by the radius."""
    size, fine = 160, 16
    at = (np.arange(size * fine) + 0.5) / fine - size / 2
    for turn in np.radians([0, 7.5, 22.5, 45, 60, 82.5, 90]):
        c, s = np.cos(turn), np.sin(turn)
        edge = (at[None] * c + at[:, None] * s < 0.3).reshape(size, fine, size, fine).mean(axis=(1, 3))
        alpha = edge.astype(np.float32)
        gained = morphed(alpha[..., None], "grow", "round", radius)[..., 0] - alpha
        along = gained[60:100] if abs(c) > 0.7 else gained[:, 60:100]
        assert along.sum() / 40 * max(abs(c), abs(s)) == pytest.approx(radius, abs=0.14)


def test_a_dot_grown_by_a_hundred_is_a_disc():
    dot = np.zeros((241, 241, 1), np.float32)
    dot[120, 120] = 1
    got = morphed(dot, "grow", "round", 100)[20:221, 20:221, 0]
    assert (got[disk(100) > 0] == 1).all()
    assert got.sum() == pytest.approx(np.pi * 100.5**2, rel=0.01)


@pytest.mark.parametrize("radius", [1.2, 7.0, 31.5, 40.0])
@pytest.mark.parametrize("way", ["grow", "shrink"])
def test_what_lies_flat_is_not_left_out_too_soon(radius, way):
    """A picture that is nearly all flat, and the same moved: where its soft spots lie, they grow alike, bit for bit."""
    wide = np.zeros((330, 420, 1), np.float32)
    for x, y, tall in ((150, 140, 1.0), (200, 141, 0.4), (260, 190, 0.9)):
        wide[y : y + 9, x : x + 5] = tall
        wide[y + 2, x + 5] = tall / 3
    wide = wide if way == "grow" else 1 - wide
    whole = morphed(wide, way, "round", radius)
    assert (whole != wide).sum() > 40
    for left, top in ((1, 7), (33, 31), (50, 64)):
        part = morphed(np.ascontiguousarray(wide[top:, left:]), way, "round", radius)
        assert (part[45:-45, 45:-45] == whole[top + 45 : -45, left + 45 : -45]).all()


@pytest.mark.parametrize("degrees", [0, 17, 45, 63, 90, 135, -30])
def test_a_line_blur_is_the_mean_along_its_line(degrees):
    """Against a dense mean of scipy.ndimage.map_coordinates; softened across by under half a pixel."""
    picture = np.asarray(cv2.GaussianBlur(textured()[..., 0], (0, 0), 1.5), np.float32)[..., None]
    angle, half = np.deg2rad(degrees), 20.0
    ys, xs = np.mgrid[60:240, 60:300].astype(float)
    steps = np.linspace(-half, half, 161)
    wanted = np.mean(
        [
            ndimage.map_coordinates(picture[..., 0], [ys + d * np.sin(angle), xs + d * np.cos(angle)], order=1)
            for d in steps
        ],
        axis=0,
    )
    assert np.abs(along_line(picture, angle, half)[60:240, 60:300, 0] - wanted).max() < 0.03
