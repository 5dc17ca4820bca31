"""What sources and shapers compute, against other libraries and published formulas."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest
from scipy import ndimage

from nimble_quake.raster.blur.morphology import morphed
from nimble_quake.raster.colour.pointwise import CLIP, LINEAR, QUANTISE, STEP, TABLE, op, run_ops
from nimble_quake.raster.geometry.curves import monotone
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.geometry.polar import polar_of, turn_of
from nimble_quake.raster.noise.fractal import Recipe, fractal
from nimble_quake.raster.shapes.particles import flown
from nimble_quake.raster.shapes.patterns import bands, pattern, ribs
from nimble_quake.raster.shapes.rings import blast_radius, plain_ring, ripple_ring
from nimble_quake.raster.shapes.screens import screened
from nimble_quake.raster.warps.operations import bent, rolled, unrolled
from nimble_quake.raster.warps.slopes import lit, slopes
from nimble_quake.raster.warps.trails import along_line
from nimble_quake.raster.warps.warped import places_of, sampled_at, sampled_through
from nimble_quake.sources.noise import _curl

SIZE = (320.0, 180.0)
GRID = frame_grid(320, 180)
SOFT = ndimage.gaussian_filter(np.random.Generator(np.random.PCG64(8)).random((180, 320)), 3).astype(np.float32)[
    ..., None
]


def test_swirl_has_no_divergence():
    """The curl of a potential is free of divergence (vector calculus; Bridson, "Curl-noise", 2007)."""
    hills = fractal(GRID.grown(2), (1 / 40, 0, 0, 0, 1 / 40, 0), Recipe(octaves=2, seed=3))[..., 0]
    flow = _curl(hills, 1.0, 40.0)
    across = (flow[1:-1, 2:, 0] - flow[1:-1, :-2, 0]) / 2
    down = (flow[2:, 1:-1, 1] - flow[:-2, 1:-1, 1]) / 2
    assert np.abs(across + down).max() < 1e-5
    assert flow.std() > 0.1


@pytest.mark.parametrize("count", [1, 7, 48, 1000])
def test_ribs_fill_exactly(count):
    """Common practice, no source: 40 px ribs fill 1920 with 48, without a gap; the mean of a ramp is a half."""
    row = ribs(Grid(0, 0, 1920, 2), "ramp", (count / 1920, 0.0, 0.0))[0, :, 0]
    assert row.mean() == pytest.approx(0.5, abs=1e-3)
    if count == 48:
        assert (np.diff(row) < -0.3).sum() == 47


def test_bands_are_so_many_and_equal():
    row = bands(Grid(0, 0, 1920, 1), (12 / 1920, 0.0, 0.0), np.linspace(0, 1, 12))[0, :, 0]
    assert len(np.unique(row)) == 12
    assert all((row == value).sum() == 160 for value in np.unique(row))


@pytest.mark.parametrize("kind", ["stripes", "checker", "grid", "dots", "hexagons", "bricks", "waves"])
def test_edges_are_averaged(kind):
    """Anti-aliasing: a pattern of any size has the mean of the same pattern computed sixteen times as fine."""
    cells = (1 / 23.0, 0, 0.3, 0, 1 / 17.0, 0.2)
    fine = pattern(Grid(0, 0, 320 * 4, 180 * 4, 4.0), kind, cells, 0.0, (0.4, 0.4), 1)
    mean = cv2.resize(fine, (320, 180), interpolation=cv2.INTER_AREA)
    got = pattern(GRID, kind, cells, 0.0, (0.4, 0.4), 1)[..., 0]
    assert np.abs(got - mean).mean() < 0.012


def test_angles():
    """numpy.arctan2, within 2e-6 turns."""
    places = np.random.Generator(np.random.PCG64(3)).normal(size=(500, 2)).astype(np.float32)
    got = [turn_of(np.float32(y), np.float32(x)) for x, y in places]
    assert np.abs(np.array(got) - np.arctan2(places[:, 1], places[:, 0]) / (2 * np.pi)).max() < 3e-6


def test_ring_space_there_and_back():
    """Common practice, no source: unchanged but for resampling; and a shift by half the width is half a turn."""
    places = places_of(GRID)
    there_and_back = (unrolled((160, 90), 150, 0.0, SIZE), rolled((160, 90), 150, 0.0, SIZE))
    back = bent(places.copy(), there_and_back)
    inside = (places[1] > 2) & (places[0] > 1) & (places[0] < 319)
    assert np.abs(back - places)[:, inside].max() < 0.01
    there = bent(np.array([[[80.0, 240.0]], [[90.0, 90.0]]], np.float32), there_and_back[:1])
    middle = (there[:, 0, 0] + there[:, 0, 1]) / 2
    assert middle == pytest.approx((160, 90), abs=1e-3)


def test_vertical_stripes_become_rays():
    """Common practice, no source: along a ray from the centre, vertical stripes keep one value."""
    stripes = lambda grid: pattern(grid, "stripes", (10 / 320, 0, 0, 0, 1, 0), 0.2, (0.5, 0.5), 1)  # noqa: E731
    got = sampled_through(stripes, GRID, (rolled((160, 90), 180, 0.0, SIZE),), SIZE, 0.0)[..., 0]
    for angle in np.radians([20, 110, 200, 305]):
        along = [got[round(90 + r * math.sin(angle)), round(160 + r * math.cos(angle))] for r in (45, 60, 75)]
        assert np.ptp(along) < 0.2  # the pixels asked lie up to half a pixel off the ray


def test_bends_against_map_coordinates():
    """scipy.ndimage.map_coordinates, linear, where nothing is minified."""
    places = places_of(GRID)
    places[0] += 5 * np.sin(places[1] / 30)
    wanted_at = places[:, 4:-4, 4:-4] - 0.5
    wanted = ndimage.map_coordinates(SOFT[..., 0], [wanted_at[1], wanted_at[0]], order=1, mode="nearest")
    got = sampled_at(lambda grid: SOFT, GRID, places, SIZE, 0.0)[..., 0]
    assert np.abs(got - wanted).max() < 1e-4


@pytest.mark.parametrize(
    ("way", "run"),
    [
        ("grow", ndimage.grey_dilation),
        ("shrink", ndimage.grey_erosion),
        ("open", ndimage.grey_opening),
        ("close", ndimage.grey_closing),
    ],
)
def test_morphology_against_scipy(way, run):
    """scipy.ndimage grey morphology by a square; and grow a dot by r with a square is (2r + 1)^2 (common practice)."""
    wanted = run(SOFT[..., 0], size=(7, 7), mode="nearest")
    assert np.abs(morphed(SOFT, way, "square", 3.0)[..., 0] - wanted).max() < 1e-6
    dot = np.zeros((30, 30, 1), np.float32)
    dot[15, 15] = 1
    assert morphed(dot, "grow", "square", 4.0).sum() == 81


@pytest.mark.parametrize("angle", [0.0, 90.0, 35.0])
def test_line_blur_against_a_kernel(angle):
    """OpenCV filter2D with the line as a kernel (a sum of bilinear dots)."""
    kernel = np.zeros((41, 41), np.float32)
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    for away in np.linspace(-12, 12, 481):
        x, y = 20 + away * c, 20 + away * s
        for i in (math.floor(x), math.floor(x) + 1):
            for j in (math.floor(y), math.floor(y) + 1):
                kernel[j, i] += max(0, 1 - abs(x - i)) * max(0, 1 - abs(y - j))
    wanted = cv2.filter2D(SOFT[..., 0], -1, kernel / kernel.sum(), borderType=cv2.BORDER_REPLICATE)
    assert np.abs(along_line(SOFT, math.radians(angle), 12.0)[..., 0] - wanted)[25:-25, 25:-25].max() < 4e-3


@pytest.mark.parametrize("tone", [0.1, 0.35, 0.6, 0.9])
@pytest.mark.parametrize("form", ["dots", "lines", "hatch"])
def test_halftone_area_is_the_tone(form, tone):
    """The area that is light is the tone (the Murray-Davies relation with black and white as its ends)."""
    field = np.full((400, 400, 1), tone, np.float32)
    assert screened(field, frame_grid(400, 400), form, 16.0, 17.0, 0.0).mean() == pytest.approx(tone, abs=0.012)


def test_slopes_and_light_against_the_formulas():
    """W3C Filter Effects: the normal of a plane, and N . L of it; a flat surface is lit by the light's height alone."""
    ramp = np.tile(np.arange(40, dtype=np.float32) * 0.02, (30, 1))
    got = slopes(ramp, 3)
    assert got[5:-5, 5:-5, 0] == pytest.approx(0.02, abs=1e-6)
    assert np.abs(got[5:-5, 5:-5, 1]).max() < 1e-6
    light = (0.6, 0.0, 0.8)
    normal = np.array([-0.02 * 50, 0.0, 1.0]) / math.hypot(1.0, 1.0)
    assert lit(got, 50.0, light, 0.0, 1.0)[15, 20, 0] == pytest.approx(max(0, normal @ light), abs=1e-5)
    assert lit(np.zeros((4, 4, 2), np.float32), 50.0, light, 0.0, 1.0) == pytest.approx(0.8, abs=1e-6)


def test_blast_radius_follows_its_law():
    """Sedov 1946, Taylor 1950: the radius of a strong blast grows as time^(2/5)."""
    assert blast_radius(0.32, 100) / blast_radius(0.01, 100) == pytest.approx(32**0.4)


def test_plain_ring_lies_at_its_radius():
    """Radius = speed x age: the weight of a ring lies where it should."""
    ring = plain_ring(0, 0, 200.0, 40.0, 0.5, 1.0, 1.0)
    at = ring.start + ring.per * np.arange(len(ring.values))
    weight = np.abs(ring.values)
    assert (at * weight).sum() / weight.sum() == pytest.approx(200, abs=4)


def test_ripples_run_as_deep_water_does():
    """Lamb, Hydrodynamics ch. IX: the pattern travels with half the phase speed, longer waves ahead of shorter ones."""
    width, speed = 60.0, 150.0
    for age in (2.0, 3.0):
        ring = ripple_ring(0, 0, age, width, speed, 5000)
        at = ring.per * np.arange(len(ring.values))
        crossings = at[1:][np.diff(np.sign(ring.values)) != 0]
        near = [2 * (b - a) for a, b in zip(crossings, crossings[1:], strict=False)]
        # local wave number of the Cauchy-Poisson waves: k = g t^2 / 4 r^2, g = speed^2 2 pi / width
        g = speed**2 * 2 * math.pi / width
        compared = 0
        for start, length in zip(crossings, near, strict=False):
            wanted = 2 * math.pi * 4 * (start + length / 4) ** 2 / (g * age**2)
            if 0.85 * width < wanted < 3 * width:
                assert length == pytest.approx(wanted, rel=0.15)
                compared += 1
        assert compared
    assert ripple_ring(0, 0, 0.0, width, speed, 500).values[0] == pytest.approx(1.0, abs=0.05)


def test_particles_against_ballistics():
    """Newton's second law, integrated in small steps: x'' = g - k (x' - w)."""
    age = np.array([1.3])
    for pull, wind, drag in ((900.0, 0.0, 0.0), (900.0, 120.0, 0.8), (-300.0, 50.0, 4.0)):
        x, v, step = 10.0, 200.0 + (wind if drag < 1e-4 else 0.0), 1e-5
        for _ in range(round(1.3 / step)):
            v += (pull - drag * (v - wind if drag >= 1e-4 else 0.0)) * step
            x += v * step
        got = flown(age, np.array([10.0]), np.array([200.0]) - (0 if drag < 1e-4 else wind), pull, wind, drag)
        assert got[0] == pytest.approx(x, rel=2e-3)


def test_points_in_one_pass_equal_them_one_by_one():
    """Neighbours are fused: the same bits as each alone; the table is numpy.interp's."""
    table = monotone([(0.0, 0.1), (0.4, 0.9), (1.0, 0.2)], np.linspace(0, 1, 513)).astype(np.float32)
    ops = (op(LINEAR, 1.7, 0.5, 0.5), op(CLIP, 0, 1), op(TABLE, 0, 1, table=table), op(STEP, 0.5, 0.6), op(QUANTISE, 5))
    one = SOFT
    for each in ops:
        one = run_ops(one, (each,))
    assert np.array_equal(run_ops(SOFT, ops), one)
    looked = run_ops(SOFT, (ops[2],))[..., 0]
    assert np.abs(looked - np.interp(SOFT[..., 0], np.linspace(0, 1, 513), table)).max() < 1e-5


def test_monotone_curves_do_not_overshoot():
    """Fritsch and Carlson 1980: between two points the curve stays between their values."""
    ys = monotone([(0.0, 0.0), (0.3, 0.0), (0.5, 1.0), (1.0, 1.0)], np.linspace(0, 1, 200))
    assert ys.min() >= 0
    assert ys.max() <= 1


def test_distances_from_a_centre():
    radius, angle = polar_of(GRID, (160.0, 90.0))
    xs, ys = np.meshgrid(GRID.xs() - 160, GRID.ys() - 90)
    assert np.abs(radius - np.hypot(xs, ys)).max() < 1e-3
    assert np.abs(angle).max() <= 0.5
