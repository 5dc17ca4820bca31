"""A step that acts several times, each time later than the one before."""

from __future__ import annotations

import tracemalloc
from fractions import Fraction

import msgspec
import numpy as np
import pytest

from helpers import flat_map, rendered
from nimble_quake.motion.kinds import Key, Keys, Rate
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.files import read_shot, write_shot

PULSE = Keys(tuple(Key(frame=f, value=v, after="straight") for f, v in ((0, 0.0), (4, 40.0), (8, 0.0))))
DRIFT = Node(id="n", kind="noise", values={"size_x": 60.0, "drift": (90.0, 20.0)})


def shot(*effects: Node, maps: tuple[Map, ...] = (Map(id="m", name="Noise", recipe=(DRIFT,)),)) -> Shot:
    plate = Plate(id="p", kind="text", values={"words": "LANTERN", "size": 50.0}, effects=effects)
    return Shot(width=240, height=136, length=48, rate=Fraction(24), plates=(plate,), maps=maps)


def later(motion: Keys, frames: float) -> Keys:
    return Keys(tuple(msgspec.structs.replace(key, frame=key.frame + frames) for key in motion.keys))


@pytest.mark.parametrize("frame", [0, 5, 9, 14, 20])
def test_each_time_is_the_effect_with_its_pins_so_much_later(frame):
    flat = (Map(id="m", name="Ramp", recipe=(Node(id="g", kind="gradient"),)),)
    one = Node(id="e", kind="push", values={"map": "m", "reach_x": PULSE, "stagger_times": 3.0, "stagger_by": 5.0})
    apart = [Node(id=f"e{n}", kind="push", values={"map": "m", "reach_x": later(PULSE, 5 * n)}) for n in range(3)]
    assert np.array_equal(rendered(shot(one, maps=flat), frame), rendered(shot(*apart, maps=flat), frame))


def test_its_map_is_read_as_it_was_then():
    one = Node(id="e", kind="push", values={"map": "m", "reach_x": 30.0, "stagger_times": 2.0, "stagger_by": 6.0})
    found = rendered(shot(one), 10)
    again = Node(id="e2", kind="push", values={"map": "then", "reach_x": 30.0})
    first = Node(id="e1", kind="push", values={"map": "m", "reach_x": 30.0})
    then = Map(id="then", name="Then", recipe=(DRIFT, Node(id="t", kind="time_shift", values={"later": -0.25})))
    expected = rendered(shot(first, again, maps=(*shot().maps, then)), 10)
    assert np.allclose(found, expected, atol=1e-5)
    assert not np.allclose(found, rendered(shot(first), 10), atol=1e-3)


def test_its_span_comes_later_too():
    blur = Node(id="e", kind="blur", span=(0, 4), values={"radius": 9.0, "stagger_times": 2.0, "stagger_by": 20.0})
    plain, once = rendered(shot(), 10), rendered(shot(msgspec.structs.replace(blur, span=None, values={"radius": 9.0})))
    assert np.array_equal(rendered(shot(blur), 10), plain)
    for frame in (2, 22):
        assert np.array_equal(rendered(shot(blur), frame), once)


def test_once_is_as_before_and_no_time_apart_is_so_often_at_once():
    blur = {"radius": 6.0}
    twice = shot(Node(id="a", kind="blur", values=blur), Node(id="b", kind="blur", values=blur))
    for values, expected in (
        ({"stagger_times": 1.0, "stagger_by": 9.0}, shot(Node(id="e", kind="blur", values=blur))),
        ({"stagger_times": 2.0, "stagger_by": 0.0}, twice),
    ):
        assert np.array_equal(rendered(shot(Node(id="e", kind="blur", values={**blur, **values}))), rendered(expected))


def test_a_delay_after_it_sees_every_time_of_it():
    """The delay shows another moment of what stands before it, whole: as if that frame were shown by itself."""
    one = Node(id="e", kind="push", values={"map": "r", "reach_x": PULSE, "stagger_times": 3.0, "stagger_by": 5.0})
    ramp = Map(id="r", name="Ramp", recipe=(Node(id="g", kind="gradient"),))
    black = flat_map(0.0, "k")
    delay = Node(id="d", kind="delay", values={"map": "k", "seconds": 0.25, "rest_by": "two"})
    found = rendered(shot(one, delay, maps=(ramp, black)), 20)
    assert np.abs(found - rendered(shot(one, maps=(ramp, black)), 14)).max() < 2 / 255


def test_a_seamless_shot_has_its_end_before_its_beginning():
    turn = Node(id="e", kind="transform", values={"turn": Rate(0.0, 180.0), "stagger_times": 2.0, "stagger_by": 12.0})
    round_ = msgspec.structs.replace(shot(turn), seamless=True)
    assert np.allclose(rendered(round_, 0), rendered(round_, 48), atol=1e-6)


def test_it_is_kept_in_the_file(tmp_path):
    made = shot(Node(id="e", kind="blur", values={"radius": 9.0, "stagger_times": 4.0, "stagger_by": 2.5}))
    write_shot(made, tmp_path / "a.nquake")
    assert read_shot(tmp_path / "a.nquake") == made


def test_many_steps_that_see_far_need_no_more_than_a_frame_round_the_frame():
    """Twelve times a frame's side on every side was 24 GB in a soak."""
    blur = Node(id="b", kind="blur", values={"radius": 500.0, "stagger_times": 12.0, "stagger_by": 0.0})
    rendered(shot(Node(id="b", kind="blur", values={"radius": 500.0})))
    tracemalloc.start()
    try:
        found = rendered(shot(blur))
        peak = tracemalloc.get_traced_memory()[1]
    finally:
        tracemalloc.stop()
    assert np.isfinite(found).all()
    assert peak < 12 * (3 * 240) ** 2 * 16, "some pictures of nine frames, not of hundreds"


def test_grids_grow_no_farther_than_a_frames_side():
    frame = frame_grid(240, 136, 0.5)
    assert frame.grown_near((30,) * 4, (240, 136)) == frame.grown(30)
    far = frame.grown_near((10_000,) * 4, (240, 136))
    assert far == frame.grown(120)
    assert far.grown_near((50,) * 4, (240, 136)) == far
    beyond = frame.grown(300)
    assert beyond.grown_near((10,) * 4, (240, 136)) == beyond, "never less than itself"
    corner = frame.part(0, 0, 10, 10).grown_near((10_000,) * 4, (240, 136))
    assert (corner.x0, corner.y0) == (-240, -240)
    assert frame.part(0, 0, 10, 10).inside(corner) == (slice(120, 130), slice(120, 130))
