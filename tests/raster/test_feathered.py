"""Feathers and soft edges against distances found otherwise, and previews against the frame made smaller."""

import numpy as np
import pytest
from scipy.spatial import cKDTree

from nimble_quake.raster.geometry.feathered import feathered, feathered_box
from nimble_quake.raster.geometry.figures import FIGURES, Fill, figures, regular
from nimble_quake.raster.geometry.grid import Grid, frame_grid

SIZE = (640, 360)
STAR = np.array([(90, 70), (520, 40), (430, 170), (600, 320), (250, 330), (300, 200)], float)


def smooth(t):
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def halved(values):
    return values.reshape(values.shape[0] // 2, 2, values.shape[1] // 2, 2).mean(axis=(1, 3))


def away_from(line, places):
    """Distances to a closed line (N, 2), by a search among points laid densely along it."""
    ends = np.roll(line, -1, axis=0)
    t = np.linspace(0, 1, 4000, endpoint=False)[None, :, None]
    return cKDTree((line[:, None] * (1 - t) + ends[:, None] * t).reshape(-1, 2)).query(places)[0]


def places():
    y, x = np.mgrid[0 : SIZE[1], 0 : SIZE[0]] + 0.5
    return np.stack([x, y], axis=-1)


@pytest.mark.parametrize("feather", [24.0, 60.0, 300.0])
@pytest.mark.parametrize("turn", [0.0, 30.0])
def test_an_ellipse_is_as_far_as_it_is(feather, turn):
    """Outside check: SciPy's nearest of 100,000 points of the ellipse."""
    got = feathered_box(frame_grid(*SIZE), (320, 180), (520, 110), turn, feather, 0.0, is_round=True)
    angle = np.linspace(0, 2 * np.pi, 100_001)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    own = np.stack([260 * np.cos(angle), 55 * np.sin(angle)], axis=1) @ np.array([[c, s], [-s, c]]) + (320, 180)
    at = places()[::9, ::9]
    far = cKDTree(own).query(at)[0]
    back = (at - (320, 180)) @ np.array([[c, -s], [s, c]])
    inside = (back[..., 0] / 260) ** 2 + (back[..., 1] / 55) ** 2 < 1
    assert 255 * np.abs(got[::9, ::9] - smooth(0.5 - np.where(inside, -far, far) / feather)).max() < 0.25


@pytest.mark.parametrize("feather", [24.0, 90.0])
def test_a_polygon_is_as_far_as_it_is(feather):
    got = feathered(frame_grid(*SIZE), STAR, feather, 10.0)[::3, ::3]
    far = away_from(STAR, places()[::3, ::3])
    solid = feathered(frame_grid(*SIZE), STAR, 0.0, 0.0)[::3, ::3] > 0.5
    wanted = smooth(0.5 - (np.where(solid, -far, far) - 10.0) / feather)
    apart = 255 * np.abs(got - wanted)  # where the nearest side changes a sample is a mean, no point
    assert np.quantile(apart, 0.999) < 0.5
    assert apart.max() < 4


@pytest.mark.parametrize("feather", [0.0, 2.0, 60.0, 200.0])
def test_a_drawn_mask_is_as_wide_as_it_says(feather):
    """Half at the outline, whatever the feather: 400 px are 400 px."""
    row = feathered_box(Grid(0, 90, 640, 1), (320, 90), (400, 900), 0.0, feather, 0.0, is_round=False)[0]
    assert row.sum() == pytest.approx(400, abs=0.01)
    assert (row[119] + row[120]) / 2 == pytest.approx(0.5, abs=1e-3)


def test_a_polygon_covers_its_area():
    """The shoelace formula."""
    x, y = STAR.T
    area = abs(np.dot(x, np.roll(y, 1)) - np.dot(y, np.roll(x, 1))) / 2
    assert feathered(frame_grid(*SIZE), STAR, 0.0, 0.0).sum() == pytest.approx(area, rel=1e-5)


@pytest.mark.parametrize("feather", [0.0, 1.0, 7.0, 60.0, 300.0])
@pytest.mark.parametrize("form", ["ellipse", "rectangle", "polygon"])
def test_a_preview_is_the_frame_made_smaller(feather, form):
    def mask(scale):
        grid = frame_grid(*SIZE, scale)
        if form == "polygon":
            return feathered(grid, STAR, feather, 0.0)
        return feathered_box(grid, (321, 178), (420, 130), 20.0, feather, 0.0, is_round=form == "ellipse")

    apart = 255 * np.abs(mask(0.5) - halved(mask(1.0)))
    assert np.sort(apart.ravel())[-40] < 1  # a corner's own few samples apart
    assert apart.max() < 12


@pytest.mark.parametrize("soft", [0.0, 1.0, 2.0, 40.0, 200.0])
@pytest.mark.parametrize("figure", [name for name in FIGURES if name not in ("curve", "polygon")])
def test_a_soft_figure_is_in_a_preview_what_it_is(figure, soft):
    points = regular(5, 0.5) if figure == "star" else np.zeros((1, 2))
    each = np.array([[320.0, 180, 200, 60, np.cos(0.3), np.sin(0.3), 1, 1 / 60]])

    def made(scale):
        return figures(frame_grid(*SIZE, scale), figure, each, points, soft, Fill(1.0, 1.0, 0.0))[0][..., 0]

    assert np.sort(255 * np.abs(made(0.5) - halved(made(1.0))).ravel())[-40] < 1


@pytest.mark.parametrize("feather", [0.0, 10.0])
def test_no_step_where_the_feather_grows(feather):
    """Neither at a sample's width nor where samples are taken at their middle."""
    before = None
    for width in np.linspace(feather, feather + 30, 121):
        row = feathered_box(Grid(0, 90, 640, 1), (320, 90), (400.6, 900), 0.0, float(width), 0.0, is_round=False)
        assert before is None or np.abs(row - before).max() < 0.12
        before = row


@pytest.mark.parametrize("grow", [-60.0, -20.0, 0.0, 45.0])
def test_an_ellipse_drawn_in_or_out_is_as_its_distance_says(grow):
    """Against the distance itself: the nearest of many places of the ellipse, through a smooth step (GLSL 4.6)."""
    a, b, feather = 200.0, 75.0, 10.0
    got = feathered_box(frame_grid(*SIZE), (320, 180), (2 * a, 2 * b), 0.0, feather, grow, is_round=True)
    t = np.linspace(0, 2 * np.pi, 4001)
    edge = np.stack([320 + a * np.cos(t), 180 + b * np.sin(t)], axis=1)
    for x, y in (
        (320, 180),
        (250, 180),
        (400, 180),
        (415, 185),
        (180, 190),
        (121, 180),
        (320, 100),
        (420, 230),
        (530, 180),
        (600, 30),
    ):
        place = np.array([x + 0.5, y + 0.5])
        far = np.hypot(*(edge - place).T).min()
        inside = ((place[0] - 320) / a) ** 2 + ((place[1] - 180) / b) ** 2 < 1
        way = np.clip(0.5 - ((-far if inside else far) - grow) / feather, 0, 1)
        assert abs(got[y, x] - way * way * (3 - 2 * way)) < 0.02
