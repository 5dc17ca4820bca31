"""Operators of nodes that stand still are found once."""

from __future__ import annotations

import pytest

from nimble_quake.motion.kinds import Formula, Rate
from nimble_quake.operators.registry import registry
from nimble_quake.render.engine import moment_of
from nimble_quake.render.values.resolving import Known, resolved
from nimble_quake.shot.model import Node, Shot

SHOT = Shot(width=320, height=180, length=48)
MOMENTS = [moment_of(SHOT, frame) for frame in (0, 7, 30)]


def operators(kind, values, moments=MOMENTS):
    made, node = Known(), Node(id="n", kind=kind, values=values)
    operator = registry().get("step", kind) or registry().get("effect", kind)
    assert operator is not None
    found = [made.resolved(operator, node, moment, "n") for moment in moments]
    for got, moment in zip(found, moments, strict=True):
        assert got.values == resolved(operator, node, moment, "n").values
    return found


@pytest.mark.parametrize(("kind", "values"), [("blur", {"radius": 3.0}), ("noise", {"size_x": 30.0}), ("push", {})])
def test_one_that_stands_still_is_the_same_at_every_moment(kind, values):
    first, *others = operators(kind, values)
    assert all(other is first for other in others)


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("blur", {"radius": Rate(1.0, 2.0)}),
        ("blur", {"radius": Formula("3 + t")}),
        ("noise", {"churn": 0.5}),
        ("noise", {"drift": (10.0, 0.0)}),
    ],
)
def test_one_that_moves_or_runs_is_not(kind, values):
    first, *others = operators(kind, values)
    assert all(other.values != first.values for other in others)


def test_another_size_of_shot_has_its_own():
    """Places that are not set lie at shares of the frame."""
    wide = moment_of(Shot(width=640, height=180, length=48), 0)
    near, far = operators("ring_space", {}, [MOMENTS[0], wide])
    assert near.centre != far.centre
