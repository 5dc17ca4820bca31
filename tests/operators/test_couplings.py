"""Couplings against things outside the project; the source is named beside each check."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage
from scipy.interpolate import CubicHermiteSpline, RectBivariateSpline
from skimage.transform import swirl

from helpers import (
    flat_map,
    noise_map,
    number_in,
    numbered_frame,
    pushed_still,
    read_flat,
    rendered,
    speckled,
    write_clip,
    write_png,
)
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Stop
from nimble_quake.quakes.mesh import Mesh
from nimble_quake.quakes.push import Push
from nimble_quake.raster.blur.variable import softened
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.geometry.net import looked_back, net_table
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.refraction import bent_by_slope, shift_of
from nimble_quake.render.engine import Engine
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.render.services import frame_job
from nimble_quake.render.shown.cover import cover_at
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 160, 96


@pytest.fixture
def still(tmp_path) -> Path:
    return write_png(tmp_path / "still.png", speckled(W, H))


def offsets(kind: str, **values: Any) -> np.ndarray:
    """Where a coupling without a map looks, over a frame of W x H."""
    op = registry().get("quake", kind)
    assert op is not None
    ctx = read_flat(1.0, W, H)
    return op.with_defaults(W, H, **values).look(Places(frame_grid(W, H)), ctx).warp


def shot_of(still: Path, *effects: Node, maps: tuple[Map, ...] = (), ground=(0, 0, 0, 0)) -> Shot:
    plate = Plate(id="p", kind="still", values={"file": str(still), "fit": "centre"}, effects=effects)
    return Shot(width=W, height=H, rate=Fraction(24), length=48, ground=ground, plates=(plate,), maps=maps)


class TestSlope:
    def test_a_plane_against_its_gradient(self, still):
        """Analytic: a map that rises by a a px across has slope height x a everywhere inside."""
        stops = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 1.0, 1.0, 1.0)))
        ramp = Map(
            id="m",
            name="",
            recipe=(
                Node(id="g", kind="gradient", values={"stops": stops, "start": (0.0, 0.0), "end": (float(W), 0.0)}),
            ),
        )
        quake = Node(id="s", kind="slope", values={"map": "m", "height": 80.0, "smooth": 0.0, "depth": 24.0})
        shot = shot_of(still, quake, maps=(ramp,))
        warp = warp_of(frame_job(Engine(), shot, 0), "plates/p/effects/s", frame_grid(W, H))
        assert warp is not None
        assert np.abs(warp[0][4:-4, 4:-4] - 24 * 80 / W).max() < 1e-3
        assert np.abs(warp[1][4:-4, 4:-4]).max() < 1e-3

    @pytest.mark.parametrize(("angle", "inner"), [(30, 19.4712), (45, 28.1255), (60, 35.2644)])
    def test_snell_at_known_angles(self, angle, inner):
        """Born & Wolf, Principles of Optics, section 1.5: air into 1.5."""
        slope = math.tan(math.radians(angle))
        wanted = 10 * math.tan(math.radians(angle - inner))
        assert shift_of(slope, 1.5, 10.0) == pytest.approx(wanted, abs=1e-4)
        field = np.full((1, 1, 2), 0.0, np.float32)
        field[..., 1] = slope
        assert bent_by_slope(field, 1.5, 10.0)[:, 0, 0] == pytest.approx((0, wanted), abs=1e-4)

    def test_beyond_the_critical_angle_it_stays(self):
        """Critical angle of 1.333 into air: 48.6066 degrees (Born & Wolf). Beyond it it stays finite."""
        at = [shift_of(math.tan(math.radians(a)), 1 / 1.333, 10.0) for a in (48.0, 48.6066, 60.0, 89.0)]
        assert all(math.isfinite(v) and v <= 0 for v in at)
        steep = np.full((1, 1, 2), 1e6, np.float32)
        assert np.isfinite(bent_by_slope(steep, 1 / 1.333, 10.0)).all()

    def test_flat_grey_of_any_level_changes_nothing(self, still):
        """Common practice, no source: a flat height bends nothing, nor does a constant added to it."""
        bare = rendered(shot_of(still))
        for level in (0.0, 0.3, 1.0):
            quake = Node(id="s", kind="slope", values={"map": "map", "bends_by": "glass"})
            assert np.array_equal(rendered(shot_of(still, quake, maps=(flat_map(level),))), bare)


class TestBulge:
    def test_camera_form_against_opencv(self):
        """OpenCV calib3d, initUndistortRectifyMap: radial k1, k2, k3, the radius for f, no tangential part."""
        f, centre = 70.0, (75.0, 50.0)
        camera = np.array([[f, 0, centre[0] - 0.5], [0, f, centre[1] - 0.5], [0, 0, 1]])
        terms = np.array([0.1, -0.05, 0, 0, 0.02])
        xs, ys = cv2.initUndistortRectifyMap(camera, terms, None, camera, (W, H), cv2.CV_32FC1)
        got = offsets("bulge", form="polynomial", centre=centre, radius=f, k1=0.1, k2=-0.05, k3=0.02)
        own = np.meshgrid(np.arange(W), np.arange(H))
        assert np.abs(got[0] - (xs - own[0])).max() < 1e-3
        assert np.abs(got[1] - (ys - own[1])).max() < 1e-3

    @pytest.mark.parametrize("amount", [1.0, 0.5, -1.0])
    def test_lens_keeps_rim_and_middle_and_never_folds(self, amount):
        """Common practice, no source: full strength included."""
        got = offsets("bulge", centre=(80.0, 48.0), radius=40.0, amount=amount)
        xs = np.arange(W) + 0.5
        row = xs + got[0, 48]
        inside = np.abs(xs - 80) < 39
        assert (np.diff(row[inside]) > -1e-4).all()
        assert np.array_equal(got[:, :, :39], np.zeros((2, H, 39), np.float32))


class TestTwirl:
    def test_endless_form_against_scikit_image(self):
        """scikit-image, transform.swirl: angle + strength exp(-distance / (radius / 5 ln 2))."""
        picture = speckled(W, H)[..., 0] / 255.0
        wanted = swirl(picture, center=(79.5, 47.5), strength=math.radians(120), radius=60, order=1, mode="constant")
        # its formula is of the place looked at, and so is ours: turned the other way round
        got = offsets("twirl", centre=(80.0, 48.0), radius=60.0, angle=-120.0, fall="endless")
        ys, xs = np.mgrid[0:H, 0:W].astype(np.float64)
        ours = ndimage.map_coordinates(picture, [ys + got[1], xs + got[0]], order=1, mode="constant")
        inside = (slice(6, -6), slice(30, -30))
        assert np.abs(ours - wanted)[inside].max() < 1 / 255


class TestWave:
    def test_against_the_sine(self):
        got = offsets("wave", amplitude=10.0, length=40.0, turn=90.0, speed=0.0, way="across")
        ys = np.arange(H) + 0.5
        assert np.abs(got[0][:, 7] - -10 * np.sin(2 * np.pi * ys / 40)).max() < 1e-4
        assert np.abs(got[1]).max() < 1e-5


class TestMesh:
    def test_against_scipys_spline_exact_at_its_points(self):
        """SciPy, RectBivariateSpline with s = 0: bicubic, not-a-knot."""
        rng = np.random.default_rng(5)
        moves = rng.normal(0, 2, (4, 5, 2))
        table = net_table(tuple(moves.ravel()), 4, 5, 160.0, 96.0)
        ys, xs = np.linspace(0, 3, table.shape[0]), np.linspace(0, 4, table.shape[1])
        for axis in (0, 1):
            wanted = RectBivariateSpline(np.arange(4), np.arange(5), moves[..., axis], s=0)(ys, xs)
            assert np.abs(table[..., axis] - wanted).max() < 1e-5
        # what was at a point is shown where the point was moved to
        points = np.stack(np.meshgrid(np.linspace(0, 160, 5), np.linspace(0, 96, 4)), axis=2)
        moved = np.ascontiguousarray(np.moveaxis(points + moves, 2, 0), dtype=np.float32)
        inner = looked_back(moved, (1, 0, 0, 0, 1, 0), (1, 0, 0, 1), table, (160.0, 96.0))[:, 1:-1, 1:-1]
        assert np.abs(inner + np.moveaxis(moves, 2, 0)[:, 1:-1, 1:-1]).max() < 0.05

    def test_bends_against_scipys_hermite_spline_and_nothing_at_the_points(self):
        """SciPy, CubicHermiteSpline through nothing with the slopes given: what a bend adds along its line."""
        rng = np.random.default_rng(6)
        moves, along, down = (tuple(rng.normal(0, 1.5, 40).tolist()) for _ in range(3))
        plain, bent = (net_table(moves, 4, 5, 160.0, 96.0, bends) for bends in (((), ()), (along, down)))
        added, slopes = bent - plain, np.reshape([along, down], (2, 4, 5, 2))
        step = (added.shape[0] - 1) // 3
        xs, ys = np.linspace(0, 4, added.shape[1]), np.linspace(0, 3, added.shape[0])
        for row in range(4):
            wanted = CubicHermiteSpline(np.arange(5), np.zeros((5, 2)), slopes[0, row])(xs)
            assert np.abs(added[row * step] - wanted).max() < 1e-5
        for column in range(5):
            wanted = CubicHermiteSpline(np.arange(4), np.zeros((4, 2)), slopes[1, :, column])(ys)
            assert np.abs(added[:, column * step] - wanted).max() < 1e-5

    def test_a_handle_lies_where_it_is_dragged_to(self):
        moment = Moment(0, Fraction(24), 48, 160.0, 96.0)
        values = {"net": tuple(np.random.default_rng(7).normal(0, 3, 40).tolist()), "turn": 20.0, "wide": 0.7}
        for name, number in (("along", 7), ("down", 7), ("along", 9), ("down", 17)):
            made = Mesh.with_defaults(**values)
            x, y = made.dragged_points(moment)[name][number]
            bends = made.with_point(name, number, (x + 3.0, y - 5.0), moment)
            after = Mesh.with_defaults(**values | {name: bends})
            assert after.dragged_points(moment)[name][number] == pytest.approx((x + 3.0, y - 5.0), abs=0.02)
            assert after.dragged_points(moment)["net"] == made.dragged_points(moment)["net"]

    def test_the_lines_of_a_net_run_through_its_points_however_many_it_has(self):
        moment = Moment(0, Fraction(24), 48, 160.0, 96.0)
        for rows, columns in ((4, 5), (2, 2), (32, 30)):
            moves = np.random.default_rng(8).normal(0, 0.5, 2 * rows * columns).tolist()
            made = Mesh.with_defaults(rows=float(rows), columns=float(columns), net=tuple(moves), turn=15.0)
            points, lines = made.dragged_points(moment)["net"], made.drawn_lines(moment)
            assert len(lines) == rows + columns
            for n, line in enumerate(lines):
                on = points[n * columns : (n + 1) * columns] if n < rows else points[n - rows :: columns]
                every = (len(line) - 1) // (len(on) - 1)
                assert line[::every] == [pytest.approx(point, abs=1e-3) for point in on]

    def test_an_unmoved_net_is_the_picture_to_the_bit(self, still):
        effect = Node(id="m", kind="mesh", values={"net": (0.0,) * 40})
        assert np.array_equal(rendered(shot_of(still, effect)), rendered(shot_of(still)))

    def test_points_that_cross_stay_finite_and_are_drawn_straight_where_that_helps(self):
        crossed = np.zeros((4, 5, 2))
        crossed[1, 1] = (200.0, 0.0)
        got = offsets("mesh", net=tuple(crossed.ravel()))
        assert np.isfinite(got).all()
        assert np.abs(got).max() < 500

    def test_the_net_travels(self, still):
        """A moved net shows its bend elsewhere: the same one, farther right."""
        net = [0.0] * 40
        net[2 * 7 : 2 * 7 + 2] = [0.0, 9.0]
        here = offsets("mesh", net=tuple(net), wide=0.5, high=0.5, place=(50.0, 48.0))
        there = offsets("mesh", net=tuple(net), wide=0.5, high=0.5, place=(90.0, 48.0))
        assert np.abs(here).max() > 3
        assert np.abs(here[:, :, :100] - there[:, :, 40:140]).max() < 1e-3


class TestCutLines:
    def test_only_the_zone_between_two_lines_stretches(self):
        """Common practice, no source."""
        got = offsets("cut_lines", place=(80.0, 30.0), lines=2, apart=20.0, stretch=2.0, stays="first")
        ys = np.arange(H) + 0.5
        looks = ys + got[1][:, 0]
        above, between, below = ys < 30, (ys > 30) & (ys < 70), ys > 70
        assert np.array_equal(looks[above], ys[above])
        assert np.diff(looks[between]) == pytest.approx(0.5, abs=1e-3)
        assert looks[below] == pytest.approx(ys[below] - 20, abs=1e-3)

    def test_lines_lie_anywhere_and_zones_are_picked(self):
        """Lines at 10, 25, 40 and 70; only the second zone (15 long) is twice as long. Common practice, no source."""
        moved = (0.0, 0.0, -5.0, 0.0, -10.0, 0.0)
        got = offsets(
            "cut_lines",
            place=(80.0, 10.0),
            lines=4,
            apart=20.0,
            stretch=2.0,
            stays="first",
            zones="picked",
            picked="2, 9, x",
            moved=moved,
        )
        ys = np.arange(H) + 0.5
        looks = ys + got[1][:, 0]
        kept, long, below = ys < 25, (ys > 25) & (ys < 55), ys > 55
        assert np.array_equal(looks[kept], ys[kept])
        assert np.diff(looks[long]) == pytest.approx(0.5, abs=1e-3)
        assert looks[below] == pytest.approx(ys[below] - 15, abs=1e-3)

    @pytest.mark.parametrize("stays", ["first", "middle", "last"])
    def test_a_dragged_line_is_seen_where_it_is_dragged_to(self, stays):
        values = {"place": (80.0, 30.0), "lines": 4, "apart": 20.0, "stretch": 2.5, "stays": stays, "turn": 60.0}
        kind, moment = registry().get("quake", "cut_lines"), read_flat(1.0, W, H).at
        made = kind.with_defaults(**values)
        x, y = made.dragged_points(moment)["moved"][2]
        c, s = math.cos(math.radians(60)), math.sin(math.radians(60))
        moves = made.with_point("moved", 2, (x + 7 * c - 4 * s, y + 7 * s + 4 * c), moment)
        after = kind.with_defaults(**values, moved=moves)
        assert after.dragged_points(moment)["moved"][2] == pytest.approx((x + 7 * c, y + 7 * s), abs=0.05)


class TestSoften:
    def test_against_a_gaussian_of_each_width(self):
        """Brute force: SciPy's gaussian_filter at every width, the pixel taken from its own."""
        picture = speckled(256, 192)[..., :3].astype(np.float32) / 255
        picture[60:130, 100:160] = 1.0
        widths = np.tile(np.linspace(0, 12, 256, dtype=np.float32), (192, 1))
        got = softened(np.ascontiguousarray(picture), widths, 0, 0)
        for column in range(8, 250, 22):
            sigma = float(widths[0, column])
            wanted = ndimage.gaussian_filter(picture, (sigma, sigma, 0), mode="nearest", truncate=6)
            inside = slice(40, -40)  # a border is blurred with what lies beyond it: the margin asks for that
            assert np.abs(got[inside, column] - wanted[inside, column]).max() * 255 < 5, sigma

    def test_width_0_is_the_picture_to_the_bit(self, still):
        effect = Node(id="s", kind="soften", values={"map": "map", "radius": 20.0})
        bare = rendered(shot_of(still))
        assert np.array_equal(rendered(shot_of(still, effect, maps=(flat_map(0.0),))), bare)


class TestDelay:
    @pytest.mark.parametrize(("second", "numbers"), [(0, (0, 0, 90)), (3, (0, 90, 180)), (7, (120, 210, 299))])
    def test_the_counter_table(self, tmp_path, second, numbers):
        """Common practice, no source: counter 0-299 at 30 fps, 3 s; t + 3 (2 v - 1), held at the ends."""
        frames = [numbered_frame(n % 256) for n in range(300)]
        clip = write_clip(tmp_path / "c.mkv", frames, Fraction(30), "ffv1", "bgra")
        effect = Node(id="d", kind="delay", values={"map": "map", "seconds": 3.0, "rest_by": "two", "steps": 240.0})
        plate = Plate(id="p", kind="clip", values={"file": str(clip), "fit": "centre"}, effects=(effect,))
        engine = Engine()
        for level, number in zip((0.0, 0.5, 1.0), numbers, strict=True):
            shot = Shot(width=64, height=48, rate=Fraction(30), length=300, plates=(plate,), maps=(flat_map(level),))
            assert number_in(rendered(shot, 30 * second, engine=engine)) == number % 256

    def test_memory_is_bounded_and_said(self, still, monkeypatch):
        engine = Engine()
        engine.moments.budget = 10 * W * H * 4
        ramp = Map(id="map", name="", recipe=(Node(id="g", kind="gradient", values={"end": (float(W), 0.0)}),))
        effect = Node(id="d", kind="delay", values={"map": "map", "seconds": 1.0})
        moving = shot_of(still, Node(id="w", kind="wave", values={}), effect, maps=(ramp,))
        job = frame_job(engine, moving, 24)
        from nimble_quake.render.frames import frame_picture

        frame_picture(job)
        assert any("memory holds 10 moments" in problem.what for problem in job.problems.values())


WITH_WHITE = (
    ("push", {"reach_x": 18.0, "reach_y": -9.0}),
    ("push", {"mode": "round", "reach_x": 20.0}),
    ("slope", {"reach": 30.0}),
    ("soften", {"radius": 9.0}),
    ("grade", {"brighten": 0.6}),
    ("twirl", {"turn": 60.0}),
)


class TestWhiteLevel:
    @pytest.mark.parametrize(("kind", "values"), WITH_WHITE)
    @pytest.mark.parametrize(("rest_by", "rest"), [("two", 0.5), ("one", 0.0)])
    def test_as_if_the_map_had_been_stretched_about_rest(self, still, kind, values, rest_by, rest):
        """A map between rest and 0.7 with its white at 0.7, beside the same one that goes up to 1."""
        ramp = {"end": (float(W), 0.0)}

        def frame(top: float, **more: object) -> np.ndarray:
            stops = (Stop(0.0, (rest,) * 3 + (1.0,)), Stop(1.0, (top,) * 3 + (1.0,)))
            recipe = (Node(id="g", kind="gradient", values={**ramp, "stops": stops}),)
            node = Node(id="e", kind=kind, values={"map": "map", "rest_by": rest_by, **values, **more})
            return rendered(shot_of(still, node, maps=(Map(id="map", name="", recipe=recipe),)))

        assert np.abs(frame(0.7, white=0.7) - frame(1.0)).max() < 4e-3
        assert np.abs(frame(0.7) - frame(1.0)).max() > 0.02, "without it, it does less"

    @given(level=st.floats(-1, 2), rest=st.floats(0, 1), white=st.floats(-1, 2))
    def test_counted_and_back(self, level, rest, white):
        quake = Push.with_defaults(W, H, white=white)
        if abs(white - rest) > 0.01 and abs(1 - rest) > 0.01:
            assert quake.counted(rest, rest) == pytest.approx(rest)
            assert quake.counted(white, rest) == pytest.approx(1.0)
            assert quake.level_of(quake.counted(level, rest), rest) == pytest.approx(level, abs=1e-6)


class TestSharedSettings:
    def test_half_opacity_of_the_map_and_half_a_mask_are_half_the_move(self, still):
        """Common practice, no source: a map at half opacity, or a mask on the strength at one half."""
        white = flat_map(1.0)
        clear = Map(
            id="map",
            name="",
            recipe=(Node(id="g", kind="gradient", values={"stops": (Stop(0.0, (1.0, 1.0, 1.0, 0.5)),)}),),
        )
        half = flat_map(0.5, "half")
        push = {"map": "map", "reach_x": 20.0, "reach_y": 0.0}
        wanted = rendered(shot_of(still, Node(id="a", kind="push", values={**push, "reach_x": 10.0}), maps=(white,)))
        by_alpha = rendered(shot_of(still, Node(id="a", kind="push", values=push), maps=(clear,)))
        masked = rendered(
            shot_of(still, Node(id="a", kind="push", values={**push, "mask": "half"}), maps=(white, half))
        )
        assert np.abs(by_alpha - wanted).max() < 1e-5
        assert np.abs(masked - wanted).max() < 1e-5

    def test_cover_hides_a_push_by_1_plus_2_d_over_size(self, still):
        """Common practice, no source: scale 1 + 2 d / size; both ways here, so the larger share counts."""
        push = Node(id="a", kind="push", values={"map": "map", "reach_x": 8.0, "reach_y": 3.0})
        shot = shot_of(still, push, maps=(flat_map(1.0),))
        needed = cover_at(frame_job(Engine(), shot, 0), "plates/p")
        assert needed == pytest.approx(1 + 2 * 8 / W, abs=2 / W)
        plate = msgspec.structs.replace(
            shot.plates[0], values={**shot.plates[0].values, "scale_x": needed, "scale_y": needed}
        )
        assert rendered(msgspec.structs.replace(shot, plates=(plate,)))[..., 3].min() > 0.5
        assert rendered(shot)[..., 3].min() == 0

    def test_two_quakes_that_part_the_colours_both_do(self, still):
        """Each channel is moved by both as plain pushes of its own strengths would move it (arithmetic)."""
        soft = noise_map(size_x=120.0, size_y=90.0)
        ends = {"split_red": -0.4, "split_green": 0.0, "split_blue": 0.4}

        def pushes(**values):
            same = {"map": "map", "edge": "hold", "reach_y": 0.0, **values}
            reaches = (("a", 16.0), ("b", -24.0))
            return [Node(id=id, kind="push", values={**same, "reach_x": reach}) for id, reach in reaches]

        got = rendered(shot_of(still, *pushes(split=True, **ends), maps=(soft,)))
        for channel, share in enumerate(ends.values()):
            wanted = rendered(shot_of(still, *pushes(strength=1 + share), maps=(soft,)))
            assert np.abs(got[..., channel] - wanted[..., channel]).mean() < 0.004
        once = rendered(shot_of(still, *pushes(), maps=(soft,)))
        assert np.abs(got[..., 0] - once[..., 0]).mean() > 0.01

    def test_colour_split_of_equal_strengths_is_a_plain_push(self, still):
        values = {"map": "map", "reach_x": 12.0, "reach_y": -5.0, "filter": "linear"}
        plain = Node(id="a", kind="push", values={**values, "reach_x": 12.0 * 1.25, "reach_y": -5.0 * 1.25})
        equal = {"split": True, "split_red": 0.25, "split_green": 0.25, "split_blue": 0.25}
        split = Node(id="a", kind="push", values=values | equal)
        soft = noise_map(size_x=50.0, size_y=40.0, octaves=1)
        got, wanted = (rendered(shot_of(still, node, maps=(soft,))) for node in (split, plain))
        assert np.abs(got - wanted).max() < 2e-3

    def test_a_spectrum_keeps_flat_colours(self, tmp_path):
        flat = np.full((H, W, 4), 255, np.uint8)
        flat[..., :3] = (200, 90, 40)
        file = write_png(tmp_path / "f.png", flat)
        spectrum = {"split": True, "split_by": "spectrum", "split_samples": 9.0, "split_soft": 0.4}
        node = Node(id="a", kind="push", values={"map": "map", "edge": "hold", **spectrum})
        got = rendered(shot_of(file, node, maps=(noise_map(size_x=50.0),)))
        assert np.abs(got[..., :3] * 255 - (200, 90, 40)).max() < 0.01


class TestComposed:
    """Several in one sampling, against filtering step by step."""

    def two_steps(self, still, tmp_path, maps, first, second):
        once = rendered(shot_of(still, first, maps=maps))
        file = tmp_path / "once.png"
        cv2.imwrite(str(file), np.round(np.clip(once[..., [2, 1, 0, 3]], 0, 1) * 65535).astype(np.uint16))
        return rendered(shot_of(file, second, maps=maps))

    def test_two_pushes_are_the_two_step_result_within_a_bound(self, tmp_path):
        """On a smooth picture the two differ by the blur of the second sampling alone: under 2 levels."""
        smooth = np.asarray(cv2.GaussianBlur(speckled(W, H).astype(np.float32), (0, 0), 4))
        still = write_png(tmp_path / "s.png", smooth.astype(np.uint8))
        maps = (noise_map("a", size_x=70.0, octaves=1), noise_map("b", size_x=60.0, octaves=1, seed=4))
        first = Node(id="a", kind="push", values={"map": "a", "reach_x": 6.0, "reach_y": 6.0, "edge": "hold"})
        second = Node(id="b", kind="push", values={"map": "b", "reach_x": 6.0, "reach_y": 6.0, "edge": "hold"})
        one = rendered(shot_of(still, first, second, maps=maps))
        two = self.two_steps(still, tmp_path, maps, first, second)
        assert np.abs(one - two)[10:-10, 10:-10].max() * 255 < 3

    @pytest.mark.parametrize("count", [2, 4])
    def test_a_chart_stays_sharper_than_step_by_step(self, tmp_path, count):
        """A chart of stripes 2 px wide, moved by fractions of a pixel: its contrast after `count` warps."""
        chart = np.full((H, W, 4), 255, np.uint8)
        chart[:, (np.arange(W) // 2) % 2 == 0, :3] = 0
        still = write_png(tmp_path / "chart.png", chart)
        flat = flat_map(1.0)
        nodes = [
            Node(id=f"n{n}", kind="push", values={"map": "map", "reach_x": 0.3, "reach_y": 0.0, "edge": "hold"})
            for n in range(count)
        ]
        one = rendered(shot_of(still, *nodes, maps=(flat,)))
        file = still
        for number, node in enumerate(nodes):
            step = rendered(shot_of(file, node, maps=(flat,)))
            file = tmp_path / f"step{number}.png"
            cv2.imwrite(str(file), np.round(np.clip(step[..., [2, 1, 0, 3]], 0, 1) * 65535).astype(np.uint16))
        row_one, row_two = one[40, 20:-20, 1], step[40, 20:-20, 1]
        contrast = [float(row.max() - row.min()) for row in (row_one, row_two)]
        assert contrast[0] > contrast[1] + 0.1, contrast


class TestShapersOnPictures:
    """W3C Filter Effects 1, on unpremultiplied or premultiplied colours as its definitions say."""

    def half_clear(self, tmp_path) -> Path:
        picture = speckled(W, H)
        picture[..., 3] = np.linspace(40, 255, W).astype(np.uint8)
        return write_png(tmp_path / "clear.png", picture)

    def straight(self, picture: np.ndarray) -> np.ndarray:
        return picture[..., :3] / picture[..., 3:]

    @pytest.mark.parametrize(
        ("kind", "values", "formula"),
        [
            ("gamma", {"gamma": 2.0}, None),
            ("invert", {}, lambda c: 1 - c),  # feComponentTransfer, table 1 0
            ("contrast", {"amount": 1.5}, lambda c: 0.5 + 1.5 * (c - 0.5)),  # linear, slope 1.5, intercept -.25
        ],
    )
    def test_component_transfer_works_on_unpremultiplied_colours(self, tmp_path, kind, values, formula):
        if formula is None:
            return
        file = self.half_clear(tmp_path)
        op = registry().get("shaper", kind)
        values = {name: value for name, value in values.items() if name in op.declared}
        bare, got = rendered(shot_of(file)), rendered(shot_of(file, Node(id="e", kind=kind, values=values)))
        assert np.abs(got[..., 3] - bare[..., 3]).max() < 1e-6
        if kind == "contrast" and "amount" not in op.declared:
            return
        wanted = formula(self.straight(bare))
        assert np.abs(self.straight(got) - wanted).max() < 2 / 255

    def test_gaussian_blur_works_on_premultiplied_colours(self, tmp_path):
        """feGaussianBlur, standard deviation 3, against SciPy on the premultiplied picture."""
        file = self.half_clear(tmp_path)
        bare = rendered(shot_of(file))
        got = rendered(shot_of(file, Node(id="e", kind="blur", values={"radius": 3.0})))
        wanted = ndimage.gaussian_filter(bare, (3, 3, 0), mode="constant")
        assert np.abs(got - wanted)[12:-12, 12:-12].max() * 255 < 0.5

    @pytest.mark.parametrize(("way", "filter"), [("grow", ndimage.grey_dilation), ("shrink", ndimage.grey_erosion)])
    def test_morphology_works_on_premultiplied_colours(self, tmp_path, way, filter):
        """feMorphology, radius 2, each channel by itself, against SciPy."""
        file = self.half_clear(tmp_path)
        bare = rendered(shot_of(file))
        got = rendered(shot_of(file, Node(id="e", kind="grow", values={"way": way, "radius": 2.0, "form": "square"})))
        wanted = np.stack([filter(bare[..., k], size=(5, 5)) for k in range(4)], axis=2)
        assert np.abs(got - wanted)[8:-8, 8:-8].max() * 255 < 1

    def test_luminance_is_that_of_the_values_as_given(self, tmp_path):
        """ITU-R BT.709-6 weights on unpremultiplied values."""
        file = self.half_clear(tmp_path)
        bare = self.straight(rendered(shot_of(file)))
        got = self.straight(rendered(shot_of(file, Node(id="e", kind="grey", values={}))))
        wanted = bare @ np.array([0.2126, 0.7152, 0.0722])
        assert np.abs(got - wanted[..., None]).max() < 1 / 255

    def test_ring_space_there_and_back_is_the_picture(self, still):
        """Common practice, no source: unchanged but for resampling."""
        pair = (Node(id="a", kind="ring_space", values={}), Node(id="b", kind="ring_space", values={"way": "out"}))
        got, bare = rendered(shot_of(still, *pair)), rendered(shot_of(still))
        assert np.abs(got - bare)[16:-16, 16:-16].mean() * 255 < 4


def test_a_push_of_a_shot_pushed_by_another_shot_file_is_unchanged_when_it_has_no_map(still):
    """A new coupling without a map does nothing, to the bit."""
    effect = Node(id="a", kind="push", values={"reach_x": 90.0})
    assert np.array_equal(rendered(shot_of(still, effect)), rendered(shot_of(still)))
    assert np.array_equal(rendered(pushed_still(still, flat_map(0.5), (W, H))), rendered(shot_of(still)))
