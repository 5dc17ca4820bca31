"""Keys of what is made of no plain numbers: switches, choices, words hold; stops and points go over."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

import nimble_quake as nq
from nimble_quake.errors import BadInput
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.motion.motion import value_at
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.front.base import Note
from nimble_quake.operators.registry import registry
from nimble_quake.params.kinds import Choice, MediaFile, StillToggle, Stop, Stops, Toggle, Words
from nimble_quake.params.words import Ref, ValueRef
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shotfile.codec import decoded, encoded

RED, BLUE = (1.0, 0.0, 0.0, 1.0), (0.0, 0.0, 1.0, 0.5)


def at(motion: Keys, frame: float) -> Any:
    return value_at(motion, Moment(frame, Fraction(24), 48, 100, 100), 0)


def keys(*values: object, after: str = "straight") -> Keys:
    return Keys(tuple(Key(frame=10.0 * n, value=value, after=after) for n, value in enumerate(values)))


@pytest.mark.parametrize("values", [(False, True), ("linear", "radial"), ("TEA", "SOUP")])
def test_what_is_no_number_holds_until_the_next_pin(values):
    motion = keys(*values)
    assert [at(motion, frame) for frame in (-3, 0, 9.9, 10, 30)] == [values[0]] * 3 + [values[1]] * 2


def test_stops_go_over_in_place_colour_and_midpoint():
    """Closed form: a fourth of the way each number has gone a fourth of its way."""
    motion = keys((Stop(0.0, RED, 0.2), Stop(1.0, BLUE)), (Stop(0.4, BLUE, 0.6), Stop(0.8, RED)))
    first, last = at(motion, 2.5)
    assert (first.at, first.mid) == (pytest.approx(0.1), pytest.approx(0.3))
    assert first.colour == pytest.approx((0.75, 0.0, 0.25, 0.875))
    assert last.at == pytest.approx(0.95)
    assert at(motion, 10) == motion.keys[1].value


def test_stops_that_come_or_go_hold():
    motion = keys((Stop(0.0, RED),), (Stop(0.0, RED), Stop(1.0, BLUE)))
    assert at(motion, 9.0) == motion.keys[0].value


SQUARE = ((-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5))
LARGE = tuple((2 * x, 2 * y) for x, y in SQUARE)


def test_a_point_that_is_added_is_added_in_every_pin_at_the_same_place_along_its_edge():
    motion = keys(SQUARE, LARGE)
    new = (*SQUARE[:2], (0.5, 0.25), *SQUARE[2:])  # three fourths down the right edge
    changed = motion.with_value(new, Moment(0, Fraction(24), 48, 100, 100), 0)
    assert changed.keys[0].value == new
    assert changed.keys[1].value == (*LARGE[:2], (1.0, 0.5), *LARGE[2:])
    back = changed.with_value(SQUARE, Moment(0, Fraction(24), 48, 100, 100), 0)
    assert back == motion


def test_between_the_last_and_the_first_point_too():
    changed = keys(SQUARE, LARGE).with_value((*SQUARE, (-0.5, 0.0)), Moment(0, Fraction(24), 48, 100, 100), 0)
    assert changed.keys[1].value == (*LARGE, (-1.0, 0.0))


def test_a_curves_ends_are_ends():
    """A point before the first one of a curve over values lies as far before it in the other pins."""
    low, high = ((0.2, 0.1), (0.8, 0.9)), ((0.3, 0.2), (0.9, 1.0))
    changed = keys(low, high).with_value(((0.1, 0.05), *low), Moment(0, Fraction(24), 48, 100, 100), 0)
    assert changed.keys[1].value[0] == pytest.approx((0.2, 0.15))


def test_all_that_holds_can_be_pinned_and_files_and_references_cannot():
    """Over every operator: what the panel marks, what the schema says, and what a file may hold are one."""
    for operator in registry().all():
        for param in operator.declared.values():
            if isinstance(param, Toggle | Choice | Stops):
                assert param.animatable is not isinstance(param, StillToggle)
            if isinstance(param, Words):
                assert param.animatable is not isinstance(param, Ref | ValueRef | MediaFile | Note)


def test_they_are_saved_and_opened():
    stops = keys((Stop(0.0, RED), Stop(1.0, BLUE)), (Stop(0.4, BLUE), Stop(0.8, RED)))
    outline = Node(id="g", kind="outline", values={"stops": stops, "paint": keys("flat", "gradient")})
    plate = Plate(id="p", kind="fill", values={"shape": keys("linear", "radial"), "stops": stops}, effects=(outline,))
    shot = Shot(plates=(plate,))
    assert decoded(encoded(shot)) == shot


def test_from_python_keys_are_checked_inside():
    """A stop as a plain tuple becomes one; what no key can hold is refused in one line."""
    given = Keys((Key(frame=0.0, value=((0.0, RED), (1.0, BLUE))),))
    shot, path = nq.add_plate(nq.new(64, 36), "fill", shape="linear", stops=given)
    plate = shot.plates[0]
    assert all(isinstance(stop, Stop) for stop in plate.values["stops"].keys[0].value)
    with pytest.raises(BadInput, match="cannot move so"):
        nq.set(shot, f"{path}/opacity", Keys((Key(frame=0.0, value="wide"),)))
