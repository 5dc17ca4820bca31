"""The shutter: a moving edge against its box integral, the frame alone against the sequence, and what costs nothing."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from nimble_quake.motion.kinds import Rate
from nimble_quake.raster.colour.channels import linear_to_srgb, srgb_to_linear
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture, render_frame
from nimble_quake.render.services import frame_job
from nimble_quake.render.shutter import moments, needed, openings
from nimble_quake.samples import sample_path
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import read_shot

WIDE, TALL = 256, 8


def edge(speed: float, **more: object) -> Shot:
    """A white half that moves to the right by so many px a frame: at frame 0 its right end lies at 100."""
    place = Rate(start=(100.0 - 512, 4.0), per_second=(speed * 24, 0.0))
    values = {"form": "rectangle", "width": 1024.0, "height": 64.0, "position": place, "colour": (1.0, 1.0, 1.0, 1.0)}
    plate = Plate(id="p", kind="shape", values=values)
    return Shot(width=WIDE, height=TALL, rate=Fraction(24), length=48, plates=(plate,), ground=(0, 0, 0, 1), **more)  # type: ignore[arg-type]


def row(shot: Shot, frame: int = 0) -> np.ndarray:
    return render_frame(Engine(), shot, frame)[TALL // 2, :, 0]


def covered(speed: float, angle: float, phase: float = 0.0) -> np.ndarray:
    """How much of the opening each pixel is white: the edge's place is uniform over it, so it is a box integral."""
    first, last = 100 + speed * phase / 360, 100 + speed * (phase + angle) / 360
    x = np.arange(WIDE) + 0.5
    places = np.linspace(first, last, 4001)
    return np.clip(places[None, :] - (x[:, None] - 0.5), 0, 1).mean(axis=1)


@pytest.mark.parametrize("speed", [4.0, 20.0, 80.0])
@pytest.mark.parametrize(("angle", "phase"), [(180, 0), (360, 0), (180, -90), (90, 120)])
def test_a_moving_edge_is_its_box_integral(speed, angle, phase):
    """Within half a level at 64 moments, up to 80 px in an opening."""
    found = row(edge(speed, shutter=angle, shutter_phase=phase, shutter_samples=64))
    np.testing.assert_allclose(found, covered(speed, angle, phase), atol=0.5 / 255)


def test_in_linear_light_light_is_averaged():
    shot = edge(20.0, shutter=360, shutter_samples=64, linear=True)
    wanted = linear_to_srgb(covered(20.0, 360).astype(np.float32))
    np.testing.assert_allclose(row(shot), wanted, atol=0.02)
    assert srgb_to_linear(np.array([row(shot)[110]], np.float32))[0] == pytest.approx(covered(20.0, 360)[110], abs=0.01)


def test_openings_lie_in_the_middles_of_equal_parts():
    shot = Shot(shutter=180, shutter_samples=4, shutter_phase=-90)
    assert openings(shot, 10, 4) == pytest.approx((9.8125, 9.9375, 10.0625, 10.1875))
    assert openings(Shot(), 10, 16) == (10,)


def test_a_still_frame_costs_nothing_more():
    shot = edge(0.0, shutter=180)
    assert len(moments(frame_job(Engine(), shot, 5))) == 1
    assert len(moments(frame_job(Engine(), edge(4.0, shutter=180), 5))) == 16
    np.testing.assert_array_equal(row(shot), row(edge(0.0)))


def test_any_frame_alone_is_the_same_in_sequence():
    shot, engine = edge(6.0, shutter=180, shutter_samples=8), Engine()
    played = [np.array(frame_picture(frame_job(engine, shot, frame))) for frame in range(5)]
    np.testing.assert_array_equal(played[4], render_frame(Engine(), shot, 4))


def test_a_plate_that_is_left_out_stays_sharp():
    shot = edge(20.0, shutter=360)
    sharp = msgspec.structs.replace(shot, plates=(msgspec.structs.replace(shot.plates[0], sharp=True),))
    np.testing.assert_array_equal(row(sharp), row(edge(20.0)))
    both = (msgspec.structs.replace(shot.plates[0], id="q", sharp=True), shot.plates[0])
    assert not np.array_equal(row(msgspec.structs.replace(shot, plates=both)), row(sharp))


def test_half_size_is_the_whole_made_smaller():
    shot = edge(12.0, shutter=180, shutter_samples=16)
    half = render_frame(Engine(), shot, 3, 0.5)[2, :, 0]
    np.testing.assert_allclose(half, row(shot, 3).reshape(-1, 2).mean(axis=1), atol=0.02)


@pytest.mark.parametrize("name", ["lantern-row", "glass-lens", "shockwave"])
def test_samples_smear_without_a_problem(name):
    path = sample_path(name)
    assert path is not None
    shot = msgspec.structs.replace(read_shot(path), shutter=180, shutter_samples=4)
    job = frame_job(Engine(), shot, shot.playhead)
    assert np.isfinite(frame_picture(job, 0.1)).all()
    assert not job.problems
    assert decoded(encoded(shot)).shutter == 180


@pytest.mark.parametrize("scale", [1.0, 0.5])
@pytest.mark.parametrize(("speed", "count"), [(0.0, 1), (4.0, 8), (20.0, 20), (40.0, 40), (300.0, 64)])
def test_as_many_moments_as_pixels_anything_moves(speed, count, scale):
    """At an opening of a whole frame: one a pixel; in a preview as many, so that it is the frame made smaller."""
    shot = edge(speed, shutter=360, shutter_samples=0)
    job = frame_job(Engine(), shot, 3)
    frame_picture(job, scale)
    assert sum(each.count for each in moments(job)) == count


def test_by_motion_an_edge_is_its_box_integral():
    np.testing.assert_allclose(
        row(edge(20.0, shutter=360, shutter_samples=0)), covered(20.0, 360), atol=0.5 / 255 + 1 / 20
    )


def test_what_effects_pull_counts_and_any_frame_alone_is_the_same():
    map = Map(id="m", name="", recipe=(Node(id="n", kind="noise", values={"churn": 20.0}),))
    push = Node(id="q", kind="push", values={"map": "m", "reach_x": 200.0})
    plate = Plate(id="p", kind="fill", effects=(push,), values={"shape": "linear"})
    shot = Shot(width=96, height=54, maps=(map,), plates=(plate,), shutter=180, shutter_samples=0)
    assert needed(frame_job(Engine(), shot, 4)) > 8
    engine = Engine()
    played = [render_frame(engine, shot, frame) for frame in range(6)]
    np.testing.assert_array_equal(render_frame(Engine(), shot, 5), played[5])


def test_a_moving_plate_that_is_pushed_counts_by_what_changes():
    """A still push of 60 px on a title that goes 4 px a frame is no motion of 60 px."""
    map = Map(id="m", name="", recipe=(Node(id="g", kind="gradient"),))
    push = Node(id="q", kind="push", values={"map": "m", "reach_x": 60.0})
    place = Rate(start=(400.0, 180.0), per_second=(96.0, 0.0))
    plate = Plate(id="p", kind="text", effects=(push,), values={"words": "ROW", "size": 90.0, "position": place})
    shot = Shot(width=800, height=360, rate=Fraction(24), maps=(map,), plates=(plate,), shutter=360, shutter_samples=0)
    assert 4 <= needed(frame_job(Engine(), shot, 4)) < 32
