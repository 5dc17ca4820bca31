"""A plate seen only where another one is."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import msgspec
import numpy as np
import pytest

from helpers import noise_map, rendered
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Map, Node, Plate, Shot

W, H = 160, 96
SKY: dict[str, Any] = {"shape": "linear"}


def shot(*plates: Plate) -> Shot:
    return Shot(
        width=W,
        height=H,
        rate=Fraction(24),
        length=48,
        ground=(0, 0, 0, 0),
        plates=plates,
        maps=(noise_map("m", size_x=40.0, size_y=40.0),),
    )


def plate(id: str, kind: str, *, on: bool = True, end: int | None = None, **values: Any) -> Plate:
    return Plate(id=id, kind=kind, on=on, end=end, values=values)


HOLE = plate("hole", "shape", on=False, width=70.0, height=50.0, colour=(1.0, 1.0, 1.0, 0.8))
CLOUD = plate("cloud", "pattern", on=False, map="m")


@pytest.mark.parametrize(("other", "by"), [(HOLE, "alpha"), (CLOUD, "luminance")])
def test_matte_and_inverse_add_up_to_the_picture(other, by):
    """Porter-Duff "in" and "out" (W3C Compositing 1, sections 9.1.6 and 9.1.8): A in B + A out B = A."""
    within = rendered(shot(plate("sky", "fill", matte=other.id, matte_by=by, **SKY), other))
    without = rendered(shot(plate("sky", "fill", matte=other.id, matte_by=by, matte_invert=True, **SKY), other))
    assert np.abs(within + without - rendered(shot(plate("sky", "fill", **SKY)))).max() < 1e-6
    assert within.max() > 0.1
    assert without.max() > 0.1


def test_alpha_and_luminance_are_what_they_say():
    by_alpha = rendered(shot(plate("sky", "fill", colour=(1.0, 1.0, 1.0, 1.0), matte="hole"), HOLE))
    assert by_alpha[48, 80, 3] == pytest.approx(0.8, abs=1e-4)
    red = plate("hole", "shape", on=False, width=70.0, height=50.0, colour=(1.0, 0.0, 0.0, 1.0))
    by_light = rendered(
        shot(plate("sky", "fill", colour=(1.0, 1.0, 1.0, 1.0), matte="hole", matte_by="luminance"), red)
    )
    assert by_light[48, 80, 3] == pytest.approx(0.2126, abs=1e-4)  # ITU-R BT.709


def test_the_matte_may_be_shown_and_has_a_time_of_its_own():
    shown = plate("hole", "shape", width=70.0, height=50.0, end=10)
    sky = plate("sky", "fill", matte="hole", **SKY)
    assert rendered(shot(sky, shown), frame=9)[48, 80, 3] == 1
    assert rendered(shot(sky, shown), frame=10).max() == 0


def test_it_is_part_of_what_the_picture_depends_on():
    engine = Engine()
    first = rendered(shot(plate("sky", "fill", matte="hole", **SKY), HOLE), engine=engine)
    wide = plate("hole", "shape", on=False, width=120.0, height=50.0)
    then = rendered(shot(plate("sky", "fill", matte="hole", **SKY), wide), engine=engine)
    assert (first != then).any()


def test_what_is_not_there_is_told():
    job = frame_job(Engine(), shot(plate("sky", "fill", matte="gone", **SKY)), 0)
    assert frame_picture(job)[..., 3].min() == 1
    assert "its matte is not there" in next(problem.line() for problem in job.problems.values())


class TestCutOut:
    """What a coupling's cut-out takes away: on a lens, what lies beneath it is seen there as it is."""

    @staticmethod
    def _shot(plate: Plate, level: float) -> Shot:
        push = Node(id="q", kind="push", values={"map": "m", "reach_x": 8.0, "cut": True, "light": False})
        map = Map(id="m", name="M", recipe=(Node(id="g", kind="flat", values={"at_rest": False, "value": level}),))
        stripes = Plate(id="s", kind="shape", values={"width": 50.0, "height": 40.0, "position": (60.0, 34.0)})
        acts = Plate(id=plate.id, kind=plate.kind, values=plate.values, effects=(push,))
        return Shot(width=120, height=68, maps=(map,), plates=(acts, stripes), ground=(0.2, 0.3, 0.4, 1.0))

    @pytest.mark.parametrize("linear", [False, True])
    def test_outside_a_lens_shows_the_untouched_picture(self, linear):
        shot = msgspec.structs.replace(self._shot(Plate(id="l", kind="lens"), 0.0), linear=linear)
        without = msgspec.structs.replace(shot, plates=shot.plates[1:])
        np.testing.assert_allclose(rendered(shot), rendered(without), atol=2e-6)

    def test_inside_it_shows_the_bent_one(self):
        shot = self._shot(Plate(id="l", kind="lens"), 1.0)
        uncut = set_value(shot, "plates/l/effects/q/cut", False)
        assert np.abs(rendered(shot) - rendered(msgspec.structs.replace(shot, plates=shot.plates[1:]))).max() > 0.1
        np.testing.assert_allclose(rendered(shot), rendered(uncut), atol=2e-6)

    def test_a_plate_of_its_own_becomes_clear(self):
        shot = self._shot(Plate(id="f", kind="fill"), 0.0)
        without = msgspec.structs.replace(shot, plates=shot.plates[1:])
        np.testing.assert_allclose(rendered(shot), rendered(without), atol=2e-6)
