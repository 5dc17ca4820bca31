"""Gradient noise against the 2002 reference and the statistics of fractal sums."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import cKDTree

from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.noise.bases import cells_at, point_of
from nimble_quake.raster.noise.fractal import BASES, Recipe, fractal, fractal_at
from nimble_quake.raster.noise.gradient_noise import SUMS, lattice, noise3


def slice_of(size: float = 20.0, side: int = 256, **values):
    grid = frame_grid(side, side)
    settings = {"z": 0.3, "octaves": 1} | values
    return fractal(grid, affine.stretch(1 / size, 1 / size), Recipe(**settings))[..., 0]


@pytest.mark.parametrize(
    ("place", "value"),
    [
        ((3.14, 42, 7), 0.13691995878400012),
        ((0.5, 0.5, 0.5), -0.25),
        ((0.1, 0.2, 0.3), 0.35122924878110723),
        ((1.5, 2.25, -3.75), -0.14916324615478516),
        ((100.7, -33.3, 12.1), 0.26495481147625055),
    ],
)
def test_reference_values(place, value):
    """Perlin, "Improving Noise" (2002): the first value is widely published, the others from an independent port."""
    assert noise3(*place) == pytest.approx(value, abs=1e-12)


def test_zero_at_lattice_points():
    """Perlin 2002: gradients are multiplied by the distance, which is 0 there."""
    assert all(noise3(x, y, z) == 0 for x in range(-2, 3) for y in (0, 7) for z in (-1, 4))


def test_row_kernel_equals_the_reference():
    """The row kernel folds gradients per cell; it must give what the plain function gives."""
    grid = Grid(3.0, -7.0, 40, 30, 1.0)
    for turn in (0.0, 33.0):
        place = affine.compose(affine.turn(turn), affine.stretch(1 / 7, 1 / 11))
        rows = fractal(grid, place, Recipe(z=1.7, octaves=1))[..., 0]
        plain = [
            [noise3(*affine.apply(place, float(x), float(y)), 1.7) for x in grid.xs()] for y in grid.ys().astype(float)
        ]
        assert np.abs(rows - np.array(plain)).max() < 2e-5


def test_continuous_across_lattice_planes():
    """Perlin 2002: first and second derivatives are continuous at lattice planes."""
    h = 1e-4
    for x in (1.0, 5.0):
        left = (noise3(x - h, 0.4, 0.3) - noise3(x - 2 * h, 0.4, 0.3)) / h
        right = (noise3(x + 2 * h, 0.4, 0.3) - noise3(x + h, 0.4, 0.3)) / h
        assert left == pytest.approx(right, abs=1e-2)


def test_spread_of_one_octave():
    """Monte-Carlo of the reference: std .256 to .275 over a slice."""
    assert 0.24 < slice_of(7.3, 512).std() < 0.29


@pytest.mark.parametrize("gain", [0.4, 0.5, 0.6])
def test_spectral_slope(gain):
    """Musgrave, Texturing & Modeling ch. 16: radial power falls with slope -(2H + 2), H = -log2(gain)."""
    side = 1024
    values = slice_of(128.0, side, octaves=7, gain=gain, seed=5)
    window = np.hanning(side)[:, None] * np.hanning(side)
    power = np.abs(np.fft.fft2((values - values.mean()) * window)) ** 2
    freq = np.fft.fftfreq(side)
    radius = np.hypot(*np.meshgrid(freq, freq)) * side
    bins = np.round(radius).astype(int)
    radial = np.bincount(bins.ravel(), power.ravel()) / np.bincount(bins.ravel())
    k = np.arange(len(radial))
    band = (k >= 10) & (k <= 300)
    slope = np.polyfit(np.log(k[band]), np.log(radial[band]), 1)[0]
    assert slope == pytest.approx(-(2 * -np.log2(gain) + 2), abs=0.45)


@pytest.mark.sampled(12)
@pytest.mark.parametrize("base", BASES)
@pytest.mark.parametrize("sum", SUMS)
def test_sums_are_centred(sum, base):
    """The picture must not slide: every sum's mean lies near 0 (over many cells)."""
    assert abs(slice_of(9.0, 600, octaves=4, sum=sum, base=base).mean()) < 0.03


@pytest.mark.parametrize("base", BASES)
def test_rows_equal_single_places(base):
    """The fast ways along rows and the plain function of one place give the same."""
    grid = frame_grid(60, 40)
    recipe = Recipe(base=base, octaves=2, z=0.4, seed=3)
    for turn in (0.0, 25.0):
        place = affine.compose(affine.turn(turn), affine.stretch(1 / 9, 1 / 7))
        places = np.array([[affine.apply(place, float(x), float(y)) for x in grid.xs()] for y in grid.ys()], np.float32)
        us, vs = np.ascontiguousarray(places[..., 0]), np.ascontiguousarray(places[..., 1])
        away = np.abs(fractal(grid, place, recipe) - fractal_at(us, vs, recipe))
        assert np.quantile(away, 0.99) < 1e-3  # float32 places may fall into the next flat cell


def test_cells_against_a_tree():
    """Worley 1996: distances to the nearest and the second point, against SciPy's cKDTree over the same points."""
    perm = lattice(4)
    points = [
        (i + x, j + y) for i in range(-4, 16) for j in range(-4, 16) for x, y, _ in [point_of(i, j, 0.3, 0, perm)]
    ]
    places = np.random.Generator(np.random.PCG64(1)).random((2000, 2)) * 10
    wanted, _ = cKDTree(points).query(places, k=2)
    got = [cells_at(x, y, 0.3, 0, perm)[:2] for x, y in places]
    assert np.abs(np.array(got) - wanted).max() < 1e-12


def test_a_ring_has_no_seam():
    us = np.array([[0.0, 12.0, 3.25, 15.25]], np.float32)
    got = fractal_at(us, np.full_like(us, 1.7), Recipe(octaves=4, seed=2), wrap=12)[0, :, 0]
    assert got[0] == pytest.approx(got[1], abs=1e-5)
    assert got[2] == pytest.approx(got[3], abs=1e-5)


def test_seeds_differ_and_repeat():
    assert not np.array_equal(slice_of(seed=1), slice_of(seed=2))
    assert np.array_equal(slice_of(seed=7), slice_of(seed=7))
    assert sorted(lattice(9)[:256]) == list(range(256))


def test_slices_repeat_after_their_period():
    """A loop: with slices wrapped after 3 cells, z and z + 3 are the same bits."""
    assert np.array_equal(slice_of(z=0.25, z_period=3), slice_of(z=3.25, z_period=3))
    assert not np.array_equal(slice_of(z=0.25, z_period=3), slice_of(z=1.25, z_period=3))


def test_any_part_of_the_grid_alone():
    whole = frame_grid(200, 120)
    place = affine.stretch(1 / 30, 1 / 30)
    recipe = Recipe(z=0.1, octaves=3)
    full = fractal(whole, place, recipe)
    part = fractal(whole.part(60, 40, 50, 70), place, recipe)
    assert np.abs(full[40:110, 60:110] - part).max() < 1e-5


@pytest.mark.parametrize("sum", SUMS)
@pytest.mark.parametrize("base", ["smooth", "value", "blocks"])
def test_rows_along_the_lattice_are_as_all_others(base, sum):
    """Rows along the lattice share what depends on x; a lattice leant by a hair takes the general way."""
    grid = frame_grid(150, 90)
    recipe = Recipe(base, sum, octaves=4, z=0.4, seed=2)
    for across, down in ((1 / 40, 1 / 25), (-1 / 7, 1 / 90), (0.45, -0.3), (1.7, 2.3)):
        along = fractal(grid, (across, 0.0, 3.3, 0.0, down, -1.2), recipe)
        leant = fractal(grid, (across, 0.0, 3.3, 1e-9, down, -1.2), recipe)
        far = np.abs(along - leant) > 2e-4
        assert far.mean() < (0.001 if base == "blocks" else 1e-9), "only where a hair moves a block's border"
        assert along.std() > 0.1
