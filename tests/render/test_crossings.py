"""Crossings: exact at their ends and outside, sums of weights between, in both lights, whatever the plates are."""

from __future__ import annotations

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from nimble_quake.motion.drivers.follow import Follow
from nimble_quake.motion.kinds import Driven
from nimble_quake.motion.motion import value_at
from nimble_quake.motion.timing import Moment
from nimble_quake.raster.colour.channels import linear_to_srgb, srgb_to_linear
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import render_frame
from nimble_quake.shot.crossings import courses, kept, with_courses
from nimble_quake.shot.model import Map, Node, Plate, Shot

RED, BLUE = (0.8, 0.2, 0.1, 1.0), (0.1, 0.3, 0.9, 1.0)


def fill(id: str, colour: tuple[float, ...], **more: object) -> Plate:
    return Plate(id=id, kind="fill", values={"colour": colour, **more})


def crossed(
    first: Plate, second: Plate, *, start: int = 10, end: int = 20, linear: bool = False, **values: object
) -> Shot:
    """The second above the first, from where the crossing begins; the first ends with it."""
    made = Plate(id="x", kind="crossing", start=start, end=end, values={"before": "a", "after": "b", **values})
    plates = (
        msgspec.structs.replace(second, id="b", start=start),
        with_courses(made),
        msgspec.structs.replace(first, id="a", end=end),
    )
    return Shot(width=64, height=36, rate=Fraction(24), length=48, linear=linear, plates=plates, ground=(0, 0, 0, 0))


def without(shot: Shot, *ids: str) -> Shot:
    return msgspec.structs.replace(shot, plates=tuple(plate for plate in shot.plates if plate.id not in ids))


def frame(shot: Shot, number: float) -> np.ndarray:
    return render_frame(Engine(), shot, number)  # type: ignore[arg-type]


CLIP = Plate(id="c", kind="text", values={"words": "GO", "size": 30.0})
PAIRS = [
    (fill("a", RED), fill("b", BLUE)),
    (fill("a", RED, opacity=0.6), fill("b", BLUE, opacity=0.8)),
    (CLIP, msgspec.structs.replace(CLIP, values={"words": "ON", "size": 24.0})),
    (Plate(id="a", kind="clip", values={}), fill("b", BLUE)),
]


@pytest.mark.parametrize("linear", [False, True])
@pytest.mark.parametrize("pair", PAIRS[:3], ids=["fills", "half clear", "titles"])
class TestEnds:
    def test_at_its_beginning_only_the_first_is_there(self, pair, linear):
        shot = crossed(*pair, linear=linear)
        np.testing.assert_array_equal(frame(shot, 10), frame(without(shot, "x", "b"), 10))

    def test_outside_it_is_not_there(self, pair, linear):
        shot = crossed(*pair, linear=linear)
        for number in (0, 9, 20, 30, 47):
            np.testing.assert_array_equal(frame(shot, number), frame(without(shot, "x"), number))

    def test_any_length(self, pair, linear):
        for end in (12, 15, 44):
            shot = crossed(*pair, end=end, linear=linear)
            np.testing.assert_array_equal(frame(shot, 10), frame(without(shot, "x", "b"), 10))
            np.testing.assert_array_equal(frame(shot, end), frame(without(shot, "x"), end))


@pytest.mark.parametrize("number", [11, 13, 15, 19])
class TestMix:
    def test_a_dissolve_is_a_sum_of_weights(self, number):
        """W3C Compositing, plus-lighter: first x (1 - w) + second x w, w = (t - start) / (end - start)."""
        for (first, second), tolerance in ((PAIRS[0], 1e-6), (PAIRS[1], 1e-6), (PAIRS[2], 1e-6)):
            shot = crossed(first, second)
            w = (number - 10) / 10
            a, b = frame(without(shot, "x", "b"), number), frame(without(shot, "x", "a"), number)
            np.testing.assert_allclose(frame(shot, number), a * (1 - w) + b * w, atol=tolerance)

    def test_in_linear_light(self, number):
        shot = crossed(*PAIRS[0], linear=True)
        w = (number - 10) / 10
        a, b = (srgb_to_linear(np.array(c[:3], np.float32)) for c in (RED, BLUE))
        wanted = linear_to_srgb((a * (1 - w) + b * w).astype(np.float32))
        np.testing.assert_allclose(frame(shot, number)[5, 5, :3], wanted, atol=2e-3)

    def test_through_a_colour(self, number):
        """Closed form: the first weighs 1 - 2w, the second 2w - 1, the colour what is left."""
        shot = crossed(*PAIRS[0], through=True, colour=(1.0, 1.0, 1.0, 1.0))
        w = (number - 10) / 10
        one, two = max(0, 1 - 2 * w), max(0, 2 * w - 1)
        wanted = np.array(RED) * one + np.array(BLUE) * two + np.ones(4) * (1 - one - two)
        np.testing.assert_allclose(frame(shot, number)[5, 5], wanted, atol=1e-5)

    def test_by_a_map(self, number):
        """w = clamp((mix (1 + s) - v) / s) of a ramp from dark to light."""
        shot = crossed(*PAIRS[0], by="ramp", soft=0.2)
        ramp = Map(
            id="ramp", recipe=(Node(id="g", kind="gradient", values={"start": (0.0, 18.0), "end": (64.0, 18.0)}),)
        )
        shot = msgspec.structs.replace(shot, maps=(ramp,))
        seen = frame(shot, number)[18, :, 2]
        from nimble_quake.raster.geometry.grid import frame_grid
        from nimble_quake.render.chain.maps import map_field
        from nimble_quake.render.services import frame_job

        v = np.clip(map_field(frame_job(Engine(), shot, number), ramp, frame_grid(64, 36))[18, :, 0], 0, 1)
        mix = (number - 10) / 10
        w = np.clip((mix * 1.2 - v) / 0.2, 0, 1)
        np.testing.assert_allclose(seen, RED[2] * (1 - w) + BLUE[2] * w, atol=1e-5)


def test_one_side_alone():
    """Nothing but arriving: the second comes over what lies beneath."""
    shot = crossed(*PAIRS[0])
    shot = without(shot, "a")
    crossing = shot.plate("x")
    assert crossing is not None
    alone = msgspec.structs.replace(crossing, values={**crossing.values, "before": ""})
    shot = msgspec.structs.replace(shot, plates=(shot.plates[0], alone))
    np.testing.assert_allclose(frame(shot, 15)[3, 3], np.array(BLUE) * 0.5, atol=1e-6)
    assert frame(shot, 10).max() == 0
    np.testing.assert_allclose(frame(shot, 25)[3, 3], BLUE, atol=1e-6)


def test_values_inside_follow_it():
    """Strength: nothing at both ends, all at its strongest moment; an effect of a side reads it."""
    push = Node(
        id="push",
        kind="push",
        inside="x",
        span=(10, 20),
        values={"reach_y": 0.0, "reach_x": Driven(0.0, 20.0, Follow({"path": "plates/x/strength"})), "map": "white"},
    )
    shot = crossed(*PAIRS[2])
    plates = tuple(msgspec.structs.replace(p, effects=(push,)) if p.id == "a" else p for p in shot.plates)
    white = Map(id="white", recipe=(Node(id="f", kind="gradient"),))
    moved = msgspec.structs.replace(shot, plates=plates, maps=(white,))
    np.testing.assert_array_equal(frame(moved, 10), frame(shot, 10))
    np.testing.assert_array_equal(frame(moved, 20), frame(shot, 20))
    assert np.abs(frame(moved, 15) - frame(shot, 15)).max() > 0.1


def test_a_group_crosses_as_one():
    shot = crossed(*PAIRS[0])
    group = Plate(id="a", kind="group", end=20)
    inner = fill("inner", RED)
    rest = tuple(plate for plate in shot.plates if plate.id != "a")
    grouped = msgspec.structs.replace(shot, plates=(*rest, group, msgspec.structs.replace(inner, inside="a")))
    for number in (5, 10, 14, 25):
        np.testing.assert_allclose(frame(grouped, number), frame(shot, number), atol=1e-6)


class TestKept:
    def test_its_motions_go_along_with_its_bar(self):
        shot = crossed(*PAIRS[0])
        crossing = shot.plate("x")
        assert crossing is not None
        moved = msgspec.structs.replace(crossing, start=20, end=40)
        after = msgspec.structs.replace(shot, plates=(shot.plates[0], moved, shot.plates[2]))
        found = kept(shot, after).plate("x")
        assert found is not None
        assert {name: found.values[name] for name in ("progress", "mix", "strength")} == courses(moved)

    def test_what_somebody_changed_stays(self):
        shot = crossed(*PAIRS[0])
        crossing = shot.plate("x")
        assert crossing is not None
        own = msgspec.structs.replace(crossing, values={**crossing.values, "mix": 0.5})
        before = msgspec.structs.replace(shot, plates=(shot.plates[0], own, shot.plates[2]))
        moved = msgspec.structs.replace(own, end=30)
        after = msgspec.structs.replace(shot, plates=(shot.plates[0], moved, shot.plates[2]))
        found = kept(before, after).plate("x")
        assert found is not None
        assert found.values["mix"] == 0.5
        assert found.values["progress"] == courses(moved)["progress"]

    def test_effects_of_its_sides_have_its_span_and_go_with_it(self):
        glow = Node(id="glow", kind="glow", inside="x", span=(10, 20))
        shot = crossed(*PAIRS[0])
        sided = msgspec.structs.replace(shot.plates[2], effects=(glow,))
        shot = msgspec.structs.replace(shot, plates=(*shot.plates[:2], sided))
        longer = msgspec.structs.replace(shot.plates[1], end=30)
        after = kept(shot, msgspec.structs.replace(shot, plates=(shot.plates[0], longer, sided)))
        assert after.plate("a").effects[0].span == (10, 30)  # type: ignore[union-attr]
        gone = kept(shot, without(shot, "x"))
        assert gone.plate("a").effects == ()  # type: ignore[union-attr]


@pytest.mark.parametrize(
    "values", [{"before": "gone"}, {"before": "x"}, {"before": "b"}, {"after": ""}, {"by": "gone"}]
)
def test_what_makes_no_sense_is_no_harm(values):
    shot = crossed(*PAIRS[0])
    crossing = msgspec.structs.replace(shot.plates[1], values={**shot.plates[1].values, **values})
    shot = msgspec.structs.replace(shot, plates=(shot.plates[0], crossing, shot.plates[2]))
    for number in (9, 10, 15, 20):
        assert np.isfinite(frame(shot, number)).all()


class TestOnItsCut:
    """Whichever of the three bars is moved, the others go along where they met."""

    def _moved(self, shot: Shot, id: str, **times: int) -> Shot:
        plates = tuple(msgspec.structs.replace(p, **times) if p.id == id else p for p in shot.plates)
        return kept(shot, msgspec.structs.replace(shot, plates=plates))

    def _times(self, shot: Shot) -> list[tuple[int | None, int | None]]:
        return [(plate.start, plate.end) for plate in (shot.plate(id) for id in "axb") if plate is not None]

    def test_the_crossing_takes_its_plates_along(self):
        shot = self._moved(crossed(*PAIRS[0]), "x", start=8, end=26)
        assert self._times(shot) == [(None, 26), (8, 26), (8, None)]

    def test_a_plate_takes_the_crossing_along(self):
        shot = self._moved(crossed(*PAIRS[0]), "b", start=14)
        assert self._times(shot) == [(None, 20), (14, 20), (14, None)]
        shot = self._moved(shot, "a", end=30)
        assert self._times(shot) == [(None, 30), (14, 30), (14, None)]
        crossing = shot.plate("x")
        assert crossing is not None
        assert crossing.values["progress"] == courses(crossing)["progress"]

    def test_what_did_not_meet_stays(self):
        shot = self._moved(crossed(*PAIRS[0]), "a", end=40)
        loose = self._moved(shot, "a", start=2)
        assert self._times(loose) == [(2, 40), (10, 40), (10, None)]


def bezier(t: np.ndarray, x1: float, y1: float, x2: float, y2: float) -> np.ndarray:
    """CSS Easing 1: y where the cubic from (0, 0) to (1, 1) with these handles has x = t; its real root by NumPy."""
    found = []
    for x in t:
        roots = np.roots([1 + 3 * x1 - 3 * x2, 3 * x2 - 6 * x1, 3 * x1, -x])
        u = next(r.real for r in roots if abs(r.imag) < 1e-9 and -1e-9 <= r.real <= 1 + 1e-9)
        found.append(3 * u * (1 - u) ** 2 * y1 + 3 * u**2 * (1 - u) * y2 + u**3)
    return np.array(found)


@pytest.mark.parametrize("ease", ["straight", "eased", "late", "early"])
@pytest.mark.parametrize(("start", "end", "strongest"), [(10, 34, 0.5), (0, 48, 0.25), (5, 7, 0.5)])
def test_its_courses_are_what_their_easing_is(ease, start, end, strongest):
    """progress = (t - start) / (end - start) through CSS Easing's cubic; strength rises to 1 and falls as one."""
    crossing = Plate(id="x", kind="crossing", start=start, end=end, values={"ease": ease, "strongest": strongest})
    t = np.arange(start, end) / 1.0
    part = (t - start) / (end - start)
    handles = {"eased": (0.42, 0, 0.58, 1), "late": (0.6, 0, 1, 1), "early": (0, 0, 0.4, 1)}
    wanted = part if ease == "straight" else bezier(part, *handles[ease])
    peak = start + (end - start) * strongest
    rising = np.clip((t - start) / max(peak - start, 1e-9), 0, 1)
    falling = np.clip((end - t) / max(end - peak, 1e-9), 0, 1)
    strength = np.where(t < peak, bezier(rising, 0.42, 0, 0.58, 1), bezier(falling, 0.42, 0, 0.58, 1))
    moments = [Moment(frame, Fraction(24), 48, 64, 36) for frame in t]
    got = {name: [float(value_at(motion, at)) for at in moments] for name, motion in courses(crossing).items()}
    np.testing.assert_allclose(got["progress"], wanted, atol=1e-4)
    np.testing.assert_allclose(got["mix"], wanted, atol=1e-4)
    np.testing.assert_allclose(got["strength"], strength, atol=1e-4)
