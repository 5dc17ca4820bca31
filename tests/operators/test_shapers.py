"""What each shaper promises, against other libraries or its own formula."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from msgspec.structs import replace
from scipy import ndimage

from nimble_quake.params.kinds import Stop
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

SIZE = (320, 180)
GRID = frame_grid(*SIZE)
NOISE = Node(id="base", kind="noise", values={"size_x": 60.0, "size_y": 50.0, "octaves": 2, "churn": 0.8})
RED = Node(id="red", kind="gradient", values={"stops": (Stop(0.0, (1.0, 0.0, 0.0, 1.0)),), "colour": True})


def shaped(*steps: Node, frame: float = 20, base: Node = NOISE, others: tuple[Map, ...] = ()) -> np.ndarray:
    """The values after steps over a base."""
    title = Plate(id="title", kind="text", values={"size": 90.0, "words": "ROW"})
    map = Map(id="map", name="", recipe=(base, *steps))
    shot = Shot(width=SIZE[0], height=SIZE[1], length=300, plates=(title,), maps=(map, *others))
    return map_field(frame_job(Engine(), shot, frame), map, GRID)


def step(kind: str, **values) -> Node:
    return Node(id=f"{kind}-{abs(hash(str(values))) % 997}", kind=kind, values=values)


class TestValues:
    def test_contrast_stays_about_rest_and_invert_twice_is_nothing(self):
        """Common practice, no source: rest stays bit for bit; inverted twice the same; contrast -1 is invert."""
        flat = Node(id="f", kind="flat")
        for kind, values in (("contrast", {"amount": 7.0}), ("invert", {})):
            assert (shaped(step(kind, **values), base=flat) == 0.5).all()
        assert np.abs(shaped(step("invert"), Node(id="again", kind="invert")) - shaped()).max() < 1e-6
        assert np.abs(shaped(step("contrast", amount=-1.0)) - shaped(step("invert"))).max() < 1e-6

    def test_gamma_is_a_power(self):
        values = shaped()
        wanted = np.where(values > 0, np.abs(values) ** (1 / 2.2), values)
        assert np.abs(shaped(step("gamma", gamma=2.2)) - wanted).max() < 1e-4

    def test_threshold_and_posterise(self):
        assert set(np.unique(shaped(step("threshold", at=0.5, soft=0.0)))) == {0.0, 1.0}
        levels = np.unique(shaped(step("contrast", amount=3.0), step("posterise", steps=5.0)))
        assert levels.tolist() == pytest.approx([0, 0.25, 0.5, 0.75, 1])

    def test_curve_through_its_points(self):
        points = ((0.0, 1.0), (0.5, 0.25), (1.0, 0.0))
        flat = Node(id="f", kind="flat", values={"at_rest": False, "value": 0.5})
        assert shaped(step("curve", points=points), base=flat)[0, 0, 0] == pytest.approx(0.25, abs=2e-3)

    def test_the_border_fade_rests_at_the_border_alone(self):
        got = shaped(step("border_fade", width=40.0))
        assert np.abs(got[[0, -1]] - 0.5).max() < 0.002
        assert np.array_equal(got[45:135, 45:275], shaped()[45:135, 45:275])


class TestRest:
    """An 8-bit picture rests at 128/255: a flat one of that value stays, whatever turns values about rest."""

    STEPS = (step("invert"), step("contrast", amount=3.0))

    @pytest.mark.parametrize("within", [False, True])
    @pytest.mark.parametrize("count", [1, 2])
    def test_of_an_8_bit_picture(self, tmp_path, count, within):
        file = tmp_path / "grey.png"
        cv2.imwrite(str(file), np.full((180, 320, 3), 128, np.uint8))
        base = Node(id="base", kind="picture", values={"file": str(file)})
        steps = self.STEPS[:count]
        if within:  # a bracket hands on the level of what it stands on
            steps = (Node(id="b", kind="bracket"), *(replace(s, inside="b") for s in steps), *self.STEPS[:1])
        assert np.abs(shaped(*steps, base=base)[..., 0] - 128 / 255).max() < 1e-6


class TestChannels:
    def test_pure_red(self):
        """ITU-R BT.709: red channel 1, luminance 0.2126."""
        assert shaped(step("channel", which="red"), base=RED)[0, 0, 0] == pytest.approx(1.0)
        assert shaped(step("grey"), base=RED)[0, 0, 0] == pytest.approx(0.2126, abs=1e-4)

    def test_two_maps_are_packed(self):
        other = Map(id="other", name="", recipe=(Node(id="f", kind="flat", values={"at_rest": False, "value": 0.2}),))
        got = shaped(step("channel_pack", other="other"), others=(other,))
        assert np.array_equal(got[..., 0], shaped()[..., 0])
        assert (got[..., 1] == np.float32(0.2)).all()
        assert (got[..., 2] == 0.5).all()

    def test_a_ramp_looks_values_up(self):
        ramp = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (0.0, 1.0, 0.0, 1.0)))
        got = shaped(step("colour_ramp", stops=ramp))
        assert np.abs(got[..., 1] - np.clip(shaped()[..., 0], 0, 1)).max() < 1e-3
        assert (got[..., 0] == 0).all()

    def test_a_ramp_repeats_there_and_back_and_runs_through(self):
        """Times 2: 2 v of a round, its end a whole one; back: 1 - |1 - 2 v|; whole rounds of shift change nothing."""
        grey = (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 1.0, 1.0, 1.0)))
        values = np.clip(shaped()[..., 0], 0, 1)
        once, back, shifted, whole = (
            shaped(step("colour_ramp", stops=grey, **each))[..., 0]
            for each in ({"times": 2.0}, {"times": 2.0, "back": True}, {"shift": 0.25}, {"times": 2.0, "shift": 3.0})
        )
        sure = (np.abs(values - 0.5) > 1e-3) & (np.abs(values - 0.75) > 1e-3) & (values > 1e-3) & (values < 1)
        assert np.abs(once - 2 * values % 1)[sure].max() < 2e-3
        assert np.abs(back - (1 - np.abs(1 - 2 * values)))[sure].max() < 2e-3
        assert np.abs(shifted - (values + 0.25) % 1)[sure].max() < 2e-3
        assert np.abs(whole - once)[sure].max() < 1e-5

    def test_a_mask_by_plate_and_its_inverse_add_up(self):
        """Common practice, no source: a matte and its inverse over one picture add up to the picture."""
        inside, outside = (shaped(step("mask", plate="title", invert=on)) - 0.5 for on in (False, True))
        assert np.abs(inside + outside + 0.5 - shaped()).max() < 1e-6

    def test_alpha_by_value(self):
        got = shaped(step("alpha_levels", by="value", low=0.2, high=0.8))
        assert np.abs(got[..., 3] - np.clip((shaped()[..., 0] - 0.2) / 0.6, 0, 1)).max() < 1e-6


class TestSoftness:
    def test_box_against_scipy(self):
        wanted = ndimage.uniform_filter(shaped()[..., 0], 11, mode="nearest")
        got = shaped(step("blur", form="box", radius=5.0))[..., 0]
        assert np.abs(got - wanted)[8:-8, 8:-8].max() < 1e-5

    def test_sharpen_is_unsharp_masking(self):
        plain = shaped()[..., 0]
        soft = ndimage.gaussian_filter(plain.astype(np.float64), 4, mode="nearest")
        got = shaped(step("sharpen", radius=4.0, amount=1.5))[..., 0]
        assert np.abs(got - (plain + 1.5 * (plain - soft)))[20:-20, 20:-20].max() < 2e-3

    def test_turning_blur_leaves_rings_alone(self):
        """What depends on the distance from the centre alone is unchanged by averaging round it."""
        rings = Node(id="g", kind="gradient", values={"shape": "radial", "start": (160.0, 90.0), "end": (160.0, 400.0)})
        away = np.abs(shaped(step("blur", form="turning", sweep=40.0), base=rings) - shaped(base=rings))
        assert away[20:-20, 20:-20].max() < 0.01

    def test_streaks_fade_to_a_tenth(self):
        dot = Node(
            id="d",
            kind="shape",
            values={
                "form": "rectangle",
                "width": 20.0,
                "height": 20.0,
                "soft": 0.0,
                "place": (160.0, 150.0),
                "middle": 1.0,
                "edge": 1.0,
            },
        )
        black = Node(id="k", kind="levels", values={"black": 0.5, "white": 1.0, "clip": True})
        column = shaped(black, step("streaks", way="up", length=60.0, above=0.5, strength=1.0), base=dot)[:, 160, 0]
        assert column[139 - 60] == pytest.approx(0.1, abs=0.02)


class TestSpace:
    def test_perspective_against_opencv(self):
        """cv2.warpPerspective, where nothing is made smaller."""
        corners = [(-40.0, -30.0), (350.0, -20.0), (370.0, 220.0), (-60.0, 200.0)]
        names = ("top_left", "top_right", "bottom_right", "bottom_left")
        got = shaped(step("perspective", **dict(zip(names, corners, strict=True))))[..., 0]
        flat = np.array([(0, 0), (320, 0), (320, 180), (0, 180)], np.float32) - 0.5
        matrix = cv2.getPerspectiveTransform(flat, np.array(corners, np.float32) - 0.5)
        wanted = cv2.warpPerspective(shaped()[..., 0], matrix, SIZE, borderMode=cv2.BORDER_REPLICATE)
        assert np.abs(got - wanted).mean() < 2e-3

    def test_a_floor_has_a_horizon(self):
        got = shaped(step("perspective", by="turns", tilt=80.0, depth=300.0))[..., 0]
        assert got[:20].std() < 0.25 * got[100:].std(), "flat beyond the horizon"
        assert np.isfinite(got).all()

    def test_tiles_repeat_and_mirror(self):
        got = shaped(step("tile", across=4.0, down=2.0, mirror=False))[..., 0]
        assert np.abs(got[:, :80] - got[:, 80:160]).max() < 2e-3
        mirrored = shaped(step("tile", across=4.0, down=2.0, mirror=True))[..., 0]
        assert np.abs(mirrored[:, :80] - mirrored[:, 80:160][:, ::-1]).max() < 2e-3

    def test_flip_and_half_turn(self):
        flipped = shaped(step("transform", flip_x=True, flip_y=True))
        assert np.abs(flipped - shaped()[::-1, ::-1]).max() < 1e-4
        assert np.abs(shaped(step("transform", turn=180.0)) - flipped).max() < 2e-3

    def test_neighbouring_bends_are_sampled_once(self):
        """Turned there and back by two steps: the same as nothing, far nearer than two samplings would come."""
        got = shaped(step("transform", turn=33.0), step("transform", turn=-33.0))
        assert np.abs(got - shaped())[2:-2, 2:-2].max() < 1e-3

    def test_a_kaleidoscope_is_mirrored_round(self):
        got = shaped(step("kaleidoscope", sectors=2.0, spin=0.0))[..., 0]
        assert np.abs(got - got[::-1]).max() < 5e-3
        assert np.abs(got - got[:, ::-1]).max() < 5e-3

    def test_a_push_by_a_flat_map_does_nothing(self):
        other = Map(id="other", name="", recipe=(Node(id="f", kind="flat"),))
        assert np.abs(shaped(step("push", map="other"), others=(other,)) - shaped()).max() < 1e-5

    def test_a_map_that_pushes_itself_does_so_beside_other_bends_too(self):
        itself = step("push", reach_x=60.0, reach_y=60.0)
        idle = step("transform", move=(0.001, 0.0))
        alone = shaped(itself)
        assert np.abs(alone - shaped()).mean() > 0.01
        for steps in ((itself, idle), (idle, itself)):
            assert np.abs(shaped(*steps) - alone).mean() < 1e-3

    def test_push_moves_as_a_quake_does(self):
        """White with positive reach: content moves left and up (the place looked at lies right and below)."""
        white = Map(id="white", name="", recipe=(Node(id="f", kind="flat", values={"at_rest": False, "value": 1.0}),))
        got = shaped(step("push", map="white", reach_x=30.0, reach_y=10.0), others=(white,))[..., 0]
        assert np.abs(got[:160, :280] - shaped()[10:170, 30:310, 0]).max() < 1e-4


class TestTime:
    def test_echo_is_the_weighted_mean(self):
        parts = [shaped(frame=20 - 6 * n) for n in range(3)]
        wanted = (parts[0] + parts[1] * 0.5 + parts[2] * 0.25) / 1.75
        assert np.abs(shaped(step("echo", copies=2.0, delay=0.2, decay=0.5)) - wanted).max() < 1e-6

    def test_difference_from_its_own_past(self):
        wanted = 0.5 + (shaped()[..., 0] - shaped(frame=14)[..., 0])
        assert np.abs(shaped(step("difference", delay=0.2, power=2.0))[..., 0] - wanted).max() < 1e-6

    def test_what_stands_still_differs_in_nothing(self):
        still = Node(id="base", kind="noise", values={"size_x": 60.0})
        assert (shaped(step("difference"), base=still) == 0.5).all()

    def test_copies_without_any_change_are_the_map(self):
        got = shaped(step("copies", delay=0.0, move=(0.0, 0.0), decay=1.0, meet="mean"))
        assert np.abs(got - shaped()).max() < 1e-6


class TestRelief:
    def test_a_flat_height_pushes_nothing(self):
        """Common practice, no source: slope of any flat grey, or with a constant added, leaves the picture."""
        for level in (0.1, 0.9):
            flat = Node(id="f", kind="flat", values={"at_rest": False, "value": level})
            for kind in ("height_to_slope", "relief"):
                assert np.abs(shaped(step(kind), base=flat) - 0.5).max() < 1e-6

    def test_edges_lie_on_the_outline(self):
        box = Node(
            id="b",
            kind="shape",
            values={"form": "rectangle", "width": 100.0, "height": 80.0, "soft": 0.0, "place": (160.0, 90.0)},
        )
        got = shaped(step("edges", width=3.0), base=box)[..., 0]
        assert got[90, 110] > 0.5
        assert got[90, 160] == 0
        assert got[20, 20] == 0


@pytest.mark.parametrize(("border", "mode"), [("hold", "nearest"), ("mirror", "reflect"), ("wrap", "grid-wrap")])
def test_the_border_of_a_slope_against_scipy(border, mode):
    """Sobel's slopes of the frame's own values, in SciPy's boundary modes; whole, and any part as the whole."""
    height = shaped().astype(np.float64)[..., 0]
    tall, wide = height.shape
    chosen = step("height_to_slope", smooth=0.0, elevation=30.0, border=border)
    got = shaped(chosen)
    for axis, channel in ((1, 0), (0, 1)):
        wanted = 0.5 + 0.5 * 30.0 * ndimage.sobel(height, axis, mode=mode) / 8
        assert np.abs(got[..., channel] - wanted).max() < 2e-4
    goes_on = shaped(step("height_to_slope", smooth=0.0, elevation=30.0))
    assert np.abs(got - goes_on)[2:-2, 2:-2].max() < 1e-5
    assert np.abs(got - goes_on).max() > 1e-3
    map = Map(id="map", name="", recipe=(NOISE, chosen))
    shot = Shot(width=wide, height=tall, length=90, maps=(map,))
    whole = frame_grid(wide, tall)
    part = map_field(frame_job(Engine(), shot, 20), map, whole.part(0, 3, 20, 15))
    assert np.abs(part - got[3:18, :20]).max() < 1e-5
