"""The push: against the W3C formula and SciPy, and the check values of the trade."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from helpers import coded, flat_map, noise_map, pushed_still, read_flat, rendered, speckled, write_png
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.params.kinds import Stop
from nimble_quake.quakes.push import Push
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.render.chain.maps import map_field, map_rest
from nimble_quake.render.engine import Engine
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 120, 80


@pytest.fixture
def still(tmp_path):
    return write_png(tmp_path / "s.png", speckled(W, H))


@pytest.fixture
def code(tmp_path):
    return write_png(tmp_path / "c.png", coded(W, H))


def picture_map(file, **values) -> Map:
    return Map(
        id="map",
        name="File",
        recipe=(
            Node(id="f", kind="picture", values={"file": str(file), "take": "colour", "fit": "stretch", **values}),
        ),
    )


def test_the_w3c_formula(still, tmp_path):
    """W3C Filter Effects 1, feDisplacementMap: P'(x,y) <- P(x + scale (XC - .5), y + scale (YC - .5)), scale = 2 reach,
    against SciPy's map_coordinates, order 1, transparent outside."""
    map_file = write_png(tmp_path / "m.png", speckled(W, H, 9))
    got = rendered(
        pushed_still(
            still,
            picture_map(map_file),
            (W, H),
            x_from="red",
            y_from="green",
            reach_x=20.0,
            reach_y=-12.0,
            rest_by="two",
            filter="linear",
        )
    )
    source, field = speckled(W, H) / 255.0, speckled(W, H, 9) / 255.0
    ys, xs = np.mgrid[0:H, 0:W].astype(np.float64)
    places = [ys - 24 * (field[..., 1] - 0.5) + 1, xs + 40 * (field[..., 0] - 0.5) + 1]
    padded = np.pad(source, ((1, 1), (1, 1), (0, 0)))
    for k in range(4):
        wanted = ndimage.map_coordinates(padded[..., k], places, order=1, mode="constant")
        assert np.abs(got[..., k] - wanted).max() < 1 / 255


def test_white_moves_left_and_up(code):
    """A flat white map and reach 20 pull from 20 px to the right: the picture moves left, and up (W3C 1.2)."""
    got = rendered(pushed_still(code, flat_map(1.0), (W, H), reach_x=20.0, reach_y=10.0)) * 255
    assert got[30, 40, 0] == pytest.approx(60, abs=1e-3)
    assert got[30, 40, 1] == pytest.approx(40, abs=1e-3)
    back = rendered(pushed_still(code, flat_map(1.0), (W, H), reach_x=-20.0, reach_y=0.0)) * 255
    assert back[30, 40, 0] == pytest.approx(20, abs=1e-3)


@pytest.mark.parametrize("edge", ["empty", "hold", "wrap", "mirror"])
def test_a_flat_map_at_rest_is_the_same_to_the_bit(still, edge):
    plain = rendered(pushed_still(still, flat_map(0.5), (W, H), strength=0.0))
    assert np.array_equal(rendered(pushed_still(still, flat_map(0.5), (W, H), reach_x=100.0, edge=edge)), plain)
    assert (
        np.array_equal(plain * 255, speckled(W, H).astype(np.float32))
        or np.abs(plain * 255 - speckled(W, H)).max() < 1e-4
    )


def test_code_128_at_reach_100(code, tmp_path):
    """Flat 8-bit 128 read with rest one half moves 0.39 px at reach 100; with rest 128/255 not at all (arithmetic)."""
    grey = np.full((H, W, 4), 128, np.uint8)
    grey[..., 3] = 255
    map = picture_map(write_png(tmp_path / "g.png", grey))
    half = rendered(pushed_still(code, map, (W, H), reach_x=100.0, reach_y=0.0, rest_by="two")) * 255
    assert half[30, 40, 0] - 40 == pytest.approx(200 * (128 / 255 - 0.5), abs=1e-3)
    auto = rendered(pushed_still(code, map, (W, H), reach_x=100.0, reach_y=0.0))
    assert np.array_equal(auto, rendered(pushed_still(code, map, (W, H), strength=0.0)))


def test_pure_red_by_luminance_is_below_rest(code):
    """BT.709: red's luminance is 0.2126, so a positive reach moves the picture right."""
    stop = (Stop(0.0, (1.0, 0.0, 0.0, 1.0)),)
    map = Map(id="map", name="Red", recipe=(Node(id="g", kind="gradient", values={"stops": stop, "colour": True}),))
    by_red = rendered(pushed_still(code, map, (W, H), x_from="red", y_from="none", reach_x=10.0)) * 255
    by_luma = rendered(pushed_still(code, map, (W, H), x_from="luminance", y_from="none", reach_x=10.0)) * 255
    assert by_red[30, 60, 0] == pytest.approx(70, abs=1e-3)
    assert by_luma[30, 60, 0] == pytest.approx(60 + 20 * (0.2126 - 0.5), abs=1e-2)


def test_two_one_sided_pushes_are_the_two_sided_one(code):
    """The second with inverted map and negated reach: the same push, to first order (common practice, no source)."""
    soft = noise_map(size_x=90.0, size_y=90.0, octaves=1)
    inverted = Map(id="inv", name="Inv", recipe=(*soft.recipe, Node(id="i", kind="invert")))
    one = pushed_still(code, soft, (W, H), reach_x=2.0, reach_y=0.0, rest_by="two")
    quakes = (
        Node(id="a", kind="push", values={"map": "map", "reach_x": 2.0, "reach_y": 0.0, "rest_by": "one"}),
        Node(id="b", kind="push", values={"map": "inv", "reach_x": -2.0, "reach_y": 0.0, "rest_by": "one"}),
    )
    plate = Plate(id="p", kind="still", values=one.plates[0].values, effects=quakes)
    two = Shot(width=W, height=H, plates=(plate,), maps=(soft, inverted), ground=(0, 0, 0, 0))
    a, b = rendered(one)[..., 0] * 255, rendered(two)[..., 0] * 255
    assert np.abs(a - b)[10:-10, 10:-10].max() < 0.35


def test_map_at_half_opacity_is_half_the_move(code):
    for level in (1.0, 0.0):
        faded = Map(
            id="map",
            name="Half",
            recipe=(
                Node(
                    id="f", kind="gradient", values={"stops": (Stop(0.0, (level, level, level, 1.0)),), "opacity": 0.5}
                ),
            ),
        )
        got = rendered(pushed_still(code, faded, (W, H), reach_x=20.0, reach_y=0.0)) * 255
        assert got[30, 60, 0] == pytest.approx(60 + (10 if level else -10), abs=1e-3)


def test_transparent_map_is_rest_in_proportion(code):
    def at(alpha: float, clear: str) -> float:
        stop = (Stop(0.0, (1.0, 1.0, 1.0, alpha)),)
        map = Map(id="map", name="A", recipe=(Node(id="g", kind="gradient", values={"stops": stop, "colour": True}),))
        got = rendered(
            pushed_still(code, map, (W, H), reach_x=20.0, reach_y=0.0, x_from="red", clear=clear, edge="hold")
        )
        return float(got[30, 60, 0] * 255) - 60

    assert at(0.5, "rest") == pytest.approx(10, abs=1e-3)
    assert at(0.0, "rest") == pytest.approx(0, abs=1e-5)
    assert at(0.0, "black") == pytest.approx(-20, abs=1e-3)
    assert at(0.0, "white") == pytest.approx(20, abs=1e-3)
    assert at(0.25, "as-is") == pytest.approx(20, abs=1e-3)


@given(st.floats(-180, 180), st.floats(-30, 30))
def test_along_a_bearing(bearing, reach):
    """White goes towards the bearing; 0 is right, 90 is down."""
    made = Push.with_defaults(map="m", mode="bearing", bearing=bearing, reach_x=reach)
    dx, dy = made.offsets(Places(frame_grid(1, 1)), read_flat(1.0))[:, 0, 0]
    assert (-dx, -dy) == pytest.approx(
        (reach * math.cos(math.radians(bearing)), reach * math.sin(math.radians(bearing))), abs=1e-4
    )


def test_several_quakes_compose_into_one_sampling(code):
    """Two flat pushes of 0.25 px are one of 0.5 px to the bit: nothing is blurred twice."""
    quake = Node(id="a", kind="push", values={"map": "map", "reach_x": 0.25, "reach_y": 0.0})
    twice = pushed_still(code, flat_map(1.0), (W, H), reach_x=0.25, reach_y=0.0)
    plate = twice.plates[0]
    twice = Shot(
        width=W,
        height=H,
        ground=(0, 0, 0, 0),
        maps=twice.maps,
        plates=(
            Plate(
                id="p",
                kind="still",
                values=plate.values,
                effects=(quake, Node(id="b", kind="push", values=quake.values)),
            ),
        ),
    )
    once = pushed_still(code, flat_map(1.0), (W, H), reach_x=0.5, reach_y=0.0)
    assert np.array_equal(rendered(twice), rendered(once))


def test_order_of_quakes(code):
    """The last quake acts last on the picture: p looks at p + d2(p) + d1(p + d2(p))."""
    ramp = Map(
        id="ramp",
        name="Ramp",
        recipe=(
            Node(
                id="g",
                kind="gradient",
                values={
                    "stops": (Stop(0.0, (0.0, 0.0, 0.0, 1.0)), Stop(1.0, (1.0, 1.0, 1.0, 1.0))),
                    "start": (0.0, 0.0),
                    "end": (120.0, 0.0),
                },
            ),
        ),
    )
    shove, zoom = ({"map": "map", "reach_x": 10.0}, {"map": "ramp", "reach_x": 15.0})
    base = pushed_still(code, flat_map(1.0), (W, H))

    def at(*quakes) -> float:
        nodes = tuple(Node(id=str(n), kind="push", values={**q, "reach_y": 0.0}) for n, q in enumerate(quakes))
        plate = Plate(id="p", kind="still", values=base.plates[0].values, effects=nodes)
        return float(rendered(Shot(width=W, height=H, plates=(plate,), maps=(*base.maps, ramp)))[30, 60, 0] * 255)

    def ramp_push(x: float) -> float:
        return 30 * (x / 120 - 0.5)

    assert at(shove, zoom) == pytest.approx(60.5 + ramp_push(60.5) + 10 - 0.5, abs=0.02)
    assert at(zoom, shove) == pytest.approx(70.5 + ramp_push(70.5) - 0.5, abs=0.02)


def test_hook_up_to_the_plate_travels_with_it(code):
    """The map moves with its plate: the pushed picture is the same, only elsewhere; hooked to the frame it is not."""
    soft = noise_map(size_x=40.0, size_y=40.0, octaves=2)
    for hook, same in (("plate", True), ("frame", False)):
        pictures = []
        for x in (0.0, 30.0):
            shot = pushed_still(code, soft, (W, H), reach_x=10.0, reach_y=10.0, hook=hook, filter="linear")
            plate = shot.plates[0]
            values = {**plate.values, "position": (60.0 + x, 40.0)}
            shot = Shot(
                width=W,
                height=H,
                maps=shot.maps,
                ground=(0, 0, 0, 0),
                plates=(Plate(id="p", kind="still", values=values, effects=plate.effects),),
            )
            pictures.append(rendered(shot))
        close = np.abs(pictures[0][:, 12:60] - pictures[1][:, 42:90]).max() < 1e-3
        assert bool(close) is same


def test_keyed_reach_burst(code):
    """0 -> 100 -> 0: untouched at both ends, moved between."""
    reach = Keys((Key(frame=0, value=0.0), Key(frame=10, value=100.0), Key(frame=20, value=0.0)))
    shot = pushed_still(code, flat_map(0.6), (W, H), reach_x=reach, reach_y=0.0, edge="wrap")
    still = rendered(pushed_still(code, flat_map(0.6), (W, H), strength=0.0))
    assert np.array_equal(rendered(shot, 0), still)
    assert np.array_equal(rendered(shot, 20), still)
    assert rendered(shot, 10)[30, 60, 0] * 255 == pytest.approx(80, abs=1e-2)


def test_maps_rest_where_their_last_say_rests(tmp_path):
    file = write_png(tmp_path / "m.png", coded(W, H))
    shot = pushed_still(file, picture_map(file), (W, H))
    job = frame_job(Engine(), shot, 0)
    assert map_rest(job, shot.maps[0]) == pytest.approx(128 / 255)
    mixed = Map(id="x", name="X", recipe=(*shot.maps[0].recipe, Node(id="n", kind="noise", values={"combine": "add"})))
    assert map_rest(job, mixed) == 0.5


def test_adding_rest_to_rest_is_rest():
    steps = (Node(id="a", kind="gradient", values={"stops": (Stop(0.0, (0.5, 0.5, 0.5, 1.0)),)}),)
    double = Map(
        id="m", name="M", recipe=(*steps, Node(id="b", kind="gradient", values={**steps[0].values, "combine": "add"}))
    )
    job = frame_job(Engine(), Shot(width=8, height=8, maps=(double,)), 0)
    assert (map_field(job, double, frame_grid(8, 8)) == 0.5).all()


class TestBounds:
    """A pushed plate is never cut off: bounds come from what its map holds."""

    def plate(self, tmp_path, **values):
        file = write_png(tmp_path / "dot.png", np.full((40, 40, 4), 255, np.uint8))
        return pushed_still(file, noise_map(), (400, 240), **values)

    @pytest.mark.parametrize("level", [-1.5, 0.0, 2.0, 3.0])
    @pytest.mark.parametrize("hook", ["frame", "plate"])
    def test_values_beyond_0_and_1_and_a_scaled_plate(self, tmp_path, level, hook):
        """W3C feDisplacementMap: P'(x) = P(x + 2 reach (c - rest)); a plate's hook scales the push with the plate."""
        shot = self.plate(tmp_path, reach_x=12.0, reach_y=0.0, hook=hook)
        flat = Node(id="f", kind="formula", values={"text": f"{level}"})
        shot = msgspec.structs.replace(shot, maps=(Map(id="map", name="", recipe=(flat,)),))
        plate = msgspec.structs.replace(
            shot.plates[0], values={**shot.plates[0].values, "scale_x": 2.0, "scale_y": 2.0}
        )
        shot = msgspec.structs.replace(shot, plates=(plate,))
        picture = rendered(shot)
        columns = np.flatnonzero(picture[120, :, 3] > 0.5)
        push = 2 * 12 * (level - 0.5) * (2 if hook == "plate" else 1)
        assert len(columns) == 80, "cut off"
        assert columns[0] == 160 - push

    def test_a_tall_frame_asks_for_no_more_than_it_looks_at(self, tmp_path):
        file = write_png(tmp_path / "tall.png", speckled(60, 4000))
        shot = pushed_still(file, noise_map(), (60, 4000), reach_x=900.0, reach_y=900.0)
        twice = (shot.plates[0].effects[0], msgspec.structs.replace(shot.plates[0].effects[0], id="second"))
        shot = msgspec.structs.replace(shot, plates=(msgspec.structs.replace(shot.plates[0], effects=twice),))
        engine = Engine()
        rendered(shot, engine=engine)
        assert engine.cache.nbytes <= 4 * 9 * 60 * 4000 * 4
