"""Finishes against things outside the project; the source is named beside each check."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

import cv2
import numpy as np
import pytest
from scipy import ndimage

from helpers import moment, noise_map, operator_at, rendered
from nimble_quake.operators.registry import registry
from nimble_quake.operators.steps import Finish
from nimble_quake.raster.blur.aperture import aperture, defocused
from nimble_quake.raster.colour.light import exposed
from nimble_quake.raster.finishes.keys import kept_between
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.shapes.caustics import gathered
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 320, 180
DISC: dict[str, Any] = {"form": "ellipse", "width": 80.0, "height": 80.0, "colour": (0.6, 0.4, 0.2, 1.0)}


def finished(kind: str, plate: Plate | None = None, frame: int = 0, scale: float = 1.0, **values: Any) -> np.ndarray:
    """A disc (or another plate) over nothing, with one finish."""
    plate = plate or Plate(id="p", kind="shape", values=DISC)
    dressed = Plate(
        id=plate.id, kind=plate.kind, values=plate.values, effects=(Node(id="f", kind=kind, values=values),)
    )
    maps: tuple[Map, ...] = (noise_map("m", size_x=40.0, size_y=40.0, churn=0.0),)
    shot = Shot(width=W, height=H, rate=Fraction(24), length=48, ground=(0, 0, 0, 0), plates=(dressed,), maps=maps)
    return rendered(shot, frame=frame, scale=scale)


def plain(plate: Plate | None = None) -> np.ndarray:
    plate = plate or Plate(id="p", kind="shape", values=DISC)
    return rendered(Shot(width=W, height=H, ground=(0, 0, 0, 0), plates=(plate,)))


def radius_of(picture: np.ndarray) -> float:
    """The radius of a disc from its area."""
    return math.sqrt(float(picture[..., 3].sum()) / math.pi)


NOISE = Plate(id="p", kind="pattern", values={"map": "m"})


def test_finishes_that_keep_the_alpha_give_it_back():
    """Of a disc that is half seen through, and of a plate that fills the frame; it is not looked at again."""
    keep = [each for each in registry().all("finish") if issubclass(each, Finish) and each.alpha == "kept"]
    assert {"exposure", "saturation", "tint"} <= {each.kind for each in keep}
    for plate in (Plate(id="p", kind="shape", values={**DISC, "colour": (0.6, 0.4, 0.2, 0.5)}), NOISE):
        before = finished("exposure", plate, stops=0.0)[..., 3]
        for kind, lively in ((each.kind, each.lively) for each in keep):
            after = finished(kind, plate, **lively)
            assert after[..., 3] == pytest.approx(before, abs=1e-6), kind
            assert (after[..., :3] <= after[..., 3:] + 1e-6).all(), kind


class TestRims:
    def test_an_outline_is_as_wide_as_asked(self):
        """The area of a ring about a disc (plane geometry)."""
        ring = finished("outline", width=10.0, offset=4.0, shows="alone")
        assert float(ring[..., 3].sum()) == pytest.approx(math.pi * (54**2 - 44**2), rel=0.02)
        across = ring[90, :, 3]
        assert float(across[160:].sum()) == pytest.approx(10.0, abs=0.3)

    def test_an_outline_lies_under_its_plate(self):
        got = finished("outline", width=10.0, colour=(1.0, 1.0, 1.0, 1.0))
        assert np.abs(got[90, 160] - plain()[90, 160]).max() < 1e-6
        assert radius_of(got) == pytest.approx(50, abs=0.3)

    def test_square_corners_stay_corners(self):
        """A box grown by a square is a larger box; by a disc its corners are quarter circles (plane geometry)."""
        box = Plate(id="p", kind="shape", values={**DISC, "form": "rectangle", "width": 60.0, "height": 40.0})
        areas = {}
        for corners in ("round", "square"):
            got = finished("outline", box, width=10.0, corners=corners, shows="alone")
            areas[corners] = float(got[..., 3].sum())
        assert areas["square"] == pytest.approx(80 * 60 - 60 * 40, rel=0.01)
        assert areas["round"] == pytest.approx(2 * 10 * (60 + 40) + math.pi * 100, rel=0.02)

    def test_an_outline_begins_where_alpha_passes_the_threshold(self):
        """The outer rim of its line is 6 px from where a soft disc's own alpha is 20 or 60 %."""
        disc = Plate(id="p", kind="shape", values={**DISC, "width": 120.0, "height": 120.0})
        blur = Node(id="b", kind="blur", values={"radius_x": 12.0, "radius_y": 12.0})
        soft = Plate(id="p", kind="shape", values=disc.values, effects=(blur,))
        alpha = rendered(Shot(width=W, height=H, ground=(0, 0, 0, 0), plates=(soft,)))[90, 160:, 3]
        for threshold in (0.2, 0.6):
            line = Node(id="f", kind="outline", values={"width": 6.0, "shows": "alone", "threshold": threshold})
            plate = Plate(id="p", kind="shape", values=disc.values, effects=(blur, line))
            got = rendered(Shot(width=W, height=H, ground=(0, 0, 0, 0), plates=(plate,)))[90, 160:, 3]
            rim = np.flatnonzero(alpha > threshold).max()
            assert np.flatnonzero(got > 0.5).max() - rim == pytest.approx(6, abs=1.6)

    @pytest.mark.parametrize("shrink", [6.0, -6.0])
    def test_choke_draws_a_disc_in_and_out(self, shrink):
        """In closed form: a disc of 40 px becomes one of 34 or 46."""
        got = finished("choke", blur=0.0, shrink=shrink, softness=0.0)
        assert radius_of(got) == pytest.approx(40 - shrink, abs=0.2)

    def test_choke_smooths_and_keeps_colour(self):
        got = finished("choke", blur=4.0, shrink=-5.0, softness=4.0)
        inside = got[..., 3] > 0.02
        straight = got[inside][:, :3] / got[inside][:, 3:]
        assert np.abs(straight - DISC["colour"][:3]).max() < 0.02
        assert radius_of(finished("choke", blur=4.0, shrink=0.0, softness=0.0)) == pytest.approx(40, abs=0.5)

    def test_a_drop_shadow_is_the_blurred_outline_moved(self):
        """Filter Effects 1, drop-shadow(): the alpha offset, blurred by a Gaussian, coloured."""
        got = finished("drop_shadow", bearing=0.0, distance=30.0, blur=6.0, strength=1.0, alone=True)
        wanted = ndimage.shift(
            ndimage.gaussian_filter(plain()[..., 3].astype(np.float64), 6.0, truncate=5), (0, 30), order=1
        )
        assert np.abs(got[..., 3] - wanted).max() < 0.01

    def test_inner_glow_stays_inside(self):
        got = finished("inner_glow", radius=10.0, power=1.0, colour=(1.0, 1.0, 1.0, 1.0))
        assert np.array_equal(got[..., 3], plain()[..., 3])
        assert got[90, 123, 0] > plain()[90, 123, 0] + 0.2
        assert got[90, 160, 0] == pytest.approx(plain()[90, 160, 0], abs=1e-3)

    def test_a_rim_facing_the_light_shines(self):
        got = finished("rim_light", bearing=0.0, width=6.0, wrap=0.0)
        assert got[90, 196, 0] > plain()[90, 196, 0] + 0.2
        assert got[90, 124, 0] == pytest.approx(plain()[90, 124, 0], abs=1e-3)

    def test_line_drawing_follows_the_outline(self):
        got = finished("line_drawing", width=3.0)
        assert got[90, 200, 3] > 0.9
        assert got[90, 160, 3] == 0
        half = finished("line_drawing", width=3.0, shows=0.5)
        assert half[90, 160, 3] == pytest.approx(0.5, abs=1e-5)

    @pytest.mark.parametrize("kind", ["line_drawing", "inner_glow", "rim_light", "choke"])
    def test_a_picture_that_fills_the_frame_has_no_rim_there(self, kind):
        white = Plate(id="p", kind="shape", values={"form": "rectangle", "width": float(W), "height": float(H)})
        got = finished(kind, white)
        assert np.abs(got - got[90, 160]).max() < 1e-3

    def test_tube_light_has_a_core_and_a_halo(self):
        got = finished("tube_light", colour=(1.0, 0.0, 0.0, 1.0), core=(1.0, 1.0, 1.0, 1.0), spread=20.0)
        assert got[90, 160].min() > 0.99
        assert got[90, 210, 0] > 0.1
        assert got[90, 210, 1] == 0
        dark = Plate(id="p", kind="shape", values=DISC | {"colour": (0.05, 0.05, 0.05, 1.0)})
        assert finished("tube_light", dark)[90, 160].max() <= 1
        assert finished("tube_light", dark)[90, 160, 0] == pytest.approx(0.05, abs=1e-3)  # too dark to glow


class TestLens:
    @pytest.mark.parametrize(("radius", "blades"), [(3.0, 0), (6.5, 0), (6.0, 6), (5.0, 5)])
    def test_apertures_sum_to_one_and_are_even(self, radius, blades):
        """A disc is the same turned by a quarter; both moments of a regular polygon are equal (geometry)."""
        kernel = aperture(radius, blades, 20.0).astype(np.float64)
        assert kernel.sum() == pytest.approx(1, abs=1e-6)
        y, x = np.mgrid[: len(kernel), : len(kernel)] - len(kernel) // 2
        second = [(kernel * a * b).sum() for a, b in ((x, x), (y, y), (x, y))]
        assert second[0] == pytest.approx(second[1], rel=0.01)
        assert abs(second[2]) < 0.01 * second[0]
        if not blades:
            assert second[0] == pytest.approx(radius**2 / 4 + 1 / 12, rel=0.012)  # and of a pixel

    def test_a_point_becomes_a_disc_of_that_radius(self):
        """The second moment of a uniform disc is r^2 / 4 along each axis."""
        point = np.zeros((181, 181, 4), np.float32)
        point[90, 90] = 1.0
        for radius in (5.0, 12.0, 20.0, 33.0):
            got = defocused(point, radius, 0, 0.0, (slice(None), slice(None)))[..., 0].astype(np.float64)
            y, x = np.mgrid[:181, :181] - 90
            assert got.sum() == pytest.approx(1, abs=1e-4)
            assert (got * x * x).sum() / got.sum() == pytest.approx(radius**2 / 4, rel=0.02)
            far, level = np.hypot(x, y), 1 / (math.pi * radius**2)
            assert np.abs(got[far < radius - 1] / level - 1).max() < 0.01  # as bright at the rim as in the middle
            assert np.abs(got[far > radius + 1]).max() < 0.01 * level

    @pytest.mark.parametrize(("radius", "blades"), [(0.2, 0), (4.3, 3), (27.0, 5), (29.0, 5)])
    def test_running_sums_and_a_transform_weigh_alike(self, radius, blades):
        """SciPy's `ndimage.convolve` with the same kernel, its border held; narrow shapes and wide ones."""
        picture = np.random.default_rng(3).random((70, 90, 4)).astype(np.float32)
        picture[..., 3] = 1.0 if blades == 5 else picture[..., 3]
        got = defocused(picture, radius, blades, 15.0, (slice(5, 60), slice(10, 90)))
        kernel = aperture(radius, blades, 15.0).astype(np.float64)
        for k in range(4):
            wanted = ndimage.convolve(picture[..., k].astype(np.float64), kernel, mode="nearest")
            assert np.abs(got[..., k] - wanted[5:60, 10:90]).max() < 2e-5

    def test_a_polygon_stands_as_it_is_turned(self):
        """Geometry: of a triangle turned by 0 a side lies right, at half the radius, and a corner left."""
        point = np.zeros((61, 61, 4), np.float32)
        point[30, 30] = 1.0
        row = defocused(point, 20.0, 3, 0.0, (slice(None), slice(None)))[30, :, 0] > 1e-4
        assert (30 - int(row.argmax()), len(row) - 1 - int(row[::-1].argmax()) - 30) == (20, 10)

    def test_a_fringe_leaves_green_and_moves_red(self):
        got = finished("fringe", way="along", amount=8.0, bearing=0.0)
        assert np.abs(got[..., 1] - plain()[..., 1]).max() < 1e-5
        assert np.abs(got[:, 4:, 0] - plain()[:, :-4, 0]).max() < 1e-5
        out = finished("fringe", amount=8.0)
        wide = [np.sqrt(out[..., k].sum() / plain()[..., k].sum()) for k in range(3)]
        assert wide == pytest.approx([1 + 4 / 160, 1.0, 1 - 4 / 160], abs=0.002)

    def test_a_vignette_leaves_the_middle(self):
        white = Plate(id="p", kind="fill", values={"colour": (1.0, 1.0, 1.0, 1.0)})
        got = finished("vignette", white, amount=1.0, size=0.4, softness=0.6, roundness=1.0)
        assert got[90, 160].min() == 1
        assert got[0, 0, 0] < 0.01
        assert np.abs(got - got[::-1, ::-1]).max() < 1e-5


class TestColour:
    def test_saturate_and_hue_are_those_of_filter_effects(self):
        """W3C Filter Effects 1, sections 8.6 (saturate) and 8.7 (hue-rotate): the published matrices."""
        made = registry().get("finish", "saturation")
        assert made.with_defaults(saturate=0.0, hue=0.0).matrix() == pytest.approx(
            np.tile((0.2126, 0.7152, 0.0722), (3, 1)), abs=1e-3
        )
        turned = made.with_defaults(saturate=1.0, hue=90.0).matrix()
        wanted = [[0.0, 0.0, 1.0], [0.356, 0.855, -0.211], [-0.574, 1.430, 0.144]]
        assert turned == pytest.approx(np.array(wanted), abs=1e-3)

    def test_a_stop_doubles_linear_light(self):
        """IEC 61966-2-1: half the light of white is coded 0.7354."""
        grey = Plate(id="p", kind="fill", values={"colour": (1.0, 1.0, 1.0, 1.0)})
        assert finished("exposure", grey, stops=-1.0)[0, 0, 0] == pytest.approx(0.7354, abs=1e-3)
        gains = registry().get("finish", "exposure").with_defaults(stops=0.0, warmth=0.4, magenta=-0.3).gains()
        assert float(gains @ np.array((0.2126, 0.7152, 0.0722))) == pytest.approx(1.0, abs=1e-5)

    @pytest.mark.parametrize("gain", [0.04, 0.5, 1.7, 24.0])
    def test_exposure_is_the_formula_at_every_value(self, gain):
        """IEC 61966-2-1:1999 in float64; an eighth of a level of 8 bits where it clips, a hundredth elsewhere."""
        coded = np.linspace(0, 1, 20_011)
        light = np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4) * gain
        wanted = np.where(light <= 0.0031308, light * 12.92, 1.055 * np.clip(light, 0, 1) ** (1 / 2.4) - 0.055)
        picture = np.repeat(coded.astype(np.float32)[None, :, None], 4, axis=2)
        apart = np.abs(exposed(picture, np.full(3, gain, np.float32))[0, :, 0] - np.clip(wanted, 0, 1)) * 255
        assert apart.max() < 1 / 8
        assert np.quantile(apart, 0.999) < 0.01

    def test_tint_maps_brightness(self):
        grey = Plate(id="p", kind="fill", values={"colour": (0.5, 0.5, 0.5, 1.0)})
        got = finished("tint", grey, black=(0.0, 0.0, 0.0, 1.0), white=(1.0, 0.5, 0.0, 1.0))
        assert got[0, 0, :3] == pytest.approx([0.5, 0.25, 0.0], abs=2e-3)

    def test_broadcast_limits(self):
        """ITU-R BT.709-6: narrow range, black 16, white 235."""
        ramp = Plate(id="p", kind="fill", values={"colour": (1.0, 0.0, 0.5, 1.0)})
        assert finished("broadcast_limit", ramp)[0, 0, :3] == pytest.approx([235 / 255, 16 / 255, 0.5], abs=1e-5)
        squeezed = finished("broadcast_limit", ramp, way="squeeze")[0, 0, :3]
        assert squeezed == pytest.approx([235 / 255, 16 / 255, 125.5 / 255], abs=1e-5)
        assert len(np.unique(finished("broadcast_limit", ramp, way="show")[0, :, 1])) > 1


class TestKeys:
    def test_a_brightness_key_is_two_ramps(self):
        """Closed form: (b - low) / softness + 1/2, held to 0...1, and the same from above."""
        bright = np.linspace(0, 1, 101, dtype=np.float32)
        wanted = np.minimum(np.clip((bright - 0.4) / 0.2 + 0.5, 0, 1), np.clip((0.8 - bright) / 0.2 + 0.5, 0, 1))
        for alpha in (1.0, 0.5, 1e-3):  # the colours are straight ones
            grey = np.stack([bright * alpha] * 3 + [np.full_like(bright, alpha)], axis=1)[None].astype(np.float32)
            assert kept_between(grey, 0.4, 0.8, 0.2)[0] == pytest.approx(wanted, abs=1e-5)
            assert (kept_between(grey, 0.4, 1.0, 0.2)[0, 60:] == 1).all(), "nothing is brighter than white"
        clear = np.zeros((1, 4, 4), np.float32)
        assert kept_between(clear, 0.4, 0.8, 0.2).max() == 0

    def test_key_and_inverse_add_up(self):
        both = [finished("brightness_key", NOISE, low=0.5, invert=invert) for invert in (False, True)]
        whole = finished("brightness_key", NOISE, low=-4.0, softness=0.0)
        assert np.abs(both[0] + both[1] - whole).max() < 1e-5

    def test_a_colour_key_takes_one_colour(self):
        made = registry().get("finish", "colour_key").with_defaults(colour=(0.1, 0.75, 0.25, 1.0))
        colours = np.array([[0.1, 0.75, 0.25], [0.15, 0.9, 0.33], [0.8, 0.3, 0.2], [0.5, 0.5, 0.5]], np.float32)
        assert made.kept(colours)[:2].max() < 0.05
        assert made.kept(colours)[2:].min() > 0.95

    def test_spill_is_taken_from_what_is_kept(self):
        greenish = Plate(id="p", kind="fill", values={"colour": (0.5, 0.6, 0.5, 1.0)})
        got = finished("colour_key", greenish, spill=1.0, tolerance=0.01, softness=0.01)
        assert got[0, 0, :3] == pytest.approx([0.5, 0.5, 0.5], abs=1e-5)


class TestLightAndFilm:
    def test_caustics_keep_their_sum(self):
        """Light is moved, not lost: what lands sums to what fell, save for what leaves the border."""
        y, x = np.mgrid[:200, :300].astype(np.float32)
        fade = np.minimum(np.minimum(x, 299 - x), np.minimum(y, 199 - y)) / 40
        slope = np.stack([np.sin(x / 9), np.cos(y / 11)], axis=2) * np.clip(fade - 0.2, 0, 1)[..., None]
        got = gathered(np.ascontiguousarray(slope.astype(np.float32)), 6.0, (slice(None), slice(None)))
        assert float(got.sum()) == pytest.approx(300 * 200, rel=1e-5)
        assert got.max() > 2
        flat = gathered(np.zeros((20, 30, 2), np.float32), 9.0, (slice(None), slice(None)))
        assert (flat == 1).all()

    def test_a_flat_surface_lights_its_floor_evenly(self):
        made, ctx = operator_at("shaper", "caustics", moment(), level=0.4)
        grid = frame_grid(64, 36)
        outer = grid.grown(grid.samples(made.margin(ctx.at)))
        got = made.shape(np.full((*outer.shape, 1), 0.3, np.float32), outer, grid, ctx)
        assert np.abs(got - 0.4).max() < 1e-4

    def test_light_wrap_brings_in_what_lies_beneath(self):
        disc = Plate(id="p", kind="shape", values=DISC, effects=(Node(id="f", kind="light_wrap"),))
        red = Plate(id="r", kind="fill", values={"colour": (1.0, 0.0, 0.0, 1.0)})
        shots = [Shot(width=W, height=H, plates=plates) for plates in ((disc, red), (disc,))]
        wrapped, alone = (rendered(shot) for shot in shots)
        assert wrapped[90, 123, 0] > alone[90, 123, 0] + 0.1
        assert wrapped[90, 123, 1] == pytest.approx(alone[90, 123, 1], abs=1e-3)
        engine = Engine()
        first = frame_picture(frame_job(engine, shots[0], 0)).copy()
        blue = Plate(id="r", kind="fill", values={"colour": (0.0, 0.0, 1.0, 1.0)})
        then = frame_picture(frame_job(engine, Shot(width=W, height=H, plates=(disc, blue)), 0))
        assert np.abs(first[90, 123] - then[90, 123]).max() > 0.05  # it depends on what lies beneath

    @pytest.mark.parametrize("kind", ["grain", "worn_film"])
    def test_any_frame_alone_is_the_same_and_frames_differ(self, kind):
        grey = Plate(id="p", kind="fill", values={"colour": (0.5, 0.5, 0.5, 1.0)})
        first, then = finished(kind, grey, frame=7), finished(kind, grey, frame=12)
        assert (first != then).any()
        assert np.array_equal(first, finished(kind, grey, frame=7))

    def test_grain_keeps_the_mean_and_half_size_is_its_mean(self):
        grey = Plate(id="p", kind="fill", values={"colour": (0.5, 0.5, 0.5, 1.0)})
        got = finished("grain", grey, amount=0.4, size=2.0)
        assert got[..., :3].mean() == pytest.approx(0.5, abs=2e-3)
        half = cv2.resize(got, (W // 2, H // 2), interpolation=cv2.INTER_AREA)
        assert np.abs(finished("grain", grey, amount=0.4, size=2.0, scale=0.5) - half).mean() < 0.01


def test_every_finish_stays_premultiplied_and_small_is_large_made_smaller():
    """On a shape and on a pattern: 0 <= colour <= alpha <= 1; half size equals the full frame made smaller."""
    for op in registry().all("finish"):
        for plate in (None, NOISE):
            full, half = finished(op.kind, plate, frame=5), finished(op.kind, plate, frame=5, scale=0.5)
            assert np.isfinite(full).all(), op.kind
            assert full.min() >= -1e-5, op.kind
            assert full[..., 3].max() <= 1 + 1e-5, op.kind
            assert (full[..., :3] <= full[..., 3:] + 1e-4).all(), op.kind
            small = cv2.resize(full, (W // 2, H // 2), interpolation=cv2.INTER_AREA)
            assert np.abs(half - small).mean() < 0.012, op.kind


def test_what_a_mask_of_nothing_or_no_alpha_leaves_is_defined():
    nothing = Plate(id="p", kind="pattern", values={"map": "gone"})
    for op in registry().all("finish"):
        assert np.isfinite(finished(op.kind, nothing)).all(), op.kind


class TestBorder:
    """What touches the frame's border goes on beyond it: a plate that fills the frame gets no rim there."""

    FULL = Plate(
        id="p",
        kind="shape",
        values={"form": "rectangle", "width": 320.0, "height": 180.0, "colour": (0.8, 0.8, 0.8, 1.0)},
    )

    @pytest.mark.parametrize(
        ("kind", "values"),
        [
            ("blur", {"radius": 12.0}),
            ("blur", {"form": "box", "radius": 12.0}),
            ("blur", {"form": "line", "radius": 12.0}),
            ("defocus", {"radius": 12.0}),
            ("sharpen", {"radius": 8.0}),
            ("glow", {"radius": 20.0}),
            ("fringe", {"amount": 20.0}),
            ("outline", {"width": 6.0, "offset": -6.0}),
            ("choke", {"shrink": 4.0}),
        ],
    )
    def test_no_rim_where_the_frame_ends(self, kind, values):
        got = finished(kind, self.FULL, **values)
        assert 255 * np.abs(got - got[90, 160]).max() < 0.6

    def test_soften_neither(self):
        white = Map(id="m", name="m", recipe=(Node(id="g", kind="flat", values={"at_rest": False, "value": 1.0}),))
        quake = Node(id="q", kind="soften", values={"map": "m", "radius": 12.0})
        plate = Plate(id="p", kind="shape", values=self.FULL.values, effects=(quake,))
        got = rendered(Shot(width=W, height=H, ground=(0, 0, 0, 0), plates=(plate,), maps=(white,)))
        assert 255 * np.abs(got - got[90, 160]).max() < 0.6

    def test_beyond_the_frame_it_is_what_it_is(self):
        """Pushed in from outside, a blurred plate brings its own soft end, not one that was never there."""
        white = Map(id="m", name="m", recipe=(Node(id="g", kind="flat", values={"at_rest": False, "value": 1.0}),))
        blur = Node(id="b", kind="blur", values={"radius": 6.0})
        push = Node(id="q", kind="push", values={"map": "m", "reach_x": 40.0, "reach_y": 0.0})
        plate = Plate(id="p", kind="shape", values=self.FULL.values, effects=(blur, push))
        got = rendered(Shot(width=W, height=H, ground=(0, 0, 0, 0), plates=(plate,), maps=(white,)))
        assert got[90, 270, 3] == pytest.approx(1, abs=1e-3)
        assert got[90, 310, 3] < 0.01
