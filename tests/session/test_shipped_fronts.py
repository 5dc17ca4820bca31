"""The dials and slots of all samples: harmless as they stand, seen when turned, and no problem at either end."""

from __future__ import annotations

import numpy as np
import pytest

from nimble_quake.conventions import Picture
from nimble_quake.operators.front.base import NumberDial
from nimble_quake.operators.front.turning import front_kind, left
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.services import frame_job
from nimble_quake.samples import sample_path, samples
from nimble_quake.session.fronts.filling import shown_as, with_dial
from nimble_quake.session.starting.starters import shipped, with_starter
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import items
from nimble_quake.session.verbs.tracking import track_folders
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shotfile.files import read_shot


def sample(name: str) -> Shot:
    path = sample_path(name)
    assert path is not None
    return read_shot(path)


NUMBERS = [
    (name, node.id)
    for name in samples()
    for node in sample(name).front
    if (kind := front_kind(node)) is not None and issubclass(kind, NumberDial)
]


@pytest.mark.parametrize("name", samples())
def test_every_sample_has_a_front_that_a_stranger_can_read(name: str) -> None:
    shot = sample(name)
    numbers = [node for node in shot.front if not getattr(front_kind(node), "slot", True)]
    assert 4 <= len(numbers) <= 10, [node.name for node in numbers]
    assert len({node.name for node in shot.front}) == len(shot.front)
    for node in shot.front:
        param = shown_as(shot, node)
        assert param is not None
        assert param.help, node.name
        assert not left(shot, node), node.name


@pytest.mark.sampled(18)
@pytest.mark.parametrize(("name", "dial"), NUMBERS)
def test_a_dial_at_its_ends_is_no_problem_and_is_seen(name: str, dial: str) -> None:
    """It is looked at until it is seen, at both ends and where it stands."""
    shot = sample(name)
    node = next(node for node in shot.front if node.id == dial)
    kind = front_kind(node)
    assert kind is not None
    assert issubclass(kind, NumberDial)
    values = (*kind.reach_of(node.values), kind.at_standard(node.values))
    for frame in _frames(shot):
        low, high, standard = (_picture(name, with_dial(shot, node, value), frame) for value in values)
        if max(np.abs(low - standard).max(), np.abs(high - standard).max()) > 1 / 255:
            return
    pytest.fail("it changes nothing that is seen")


def _picture(name: str, turned: Shot, frame: int) -> Picture:
    engine = Engine()
    engine.look_beside(*track_folders(sample_path(name)))
    job = frame_job(engine, turned, frame)
    picture = frame_picture(job, min(1.0, 160 / turned.width))
    assert not job.problems, [problem.line() for problem in job.problems.values()]
    assert np.isfinite(picture).all()
    return picture


def _frames(shot: Shot) -> tuple[int, ...]:
    """Where it opens, in its middle, and so on: nothing that a dial turns acts in none of them."""
    return (shot.playhead, *(shot.length * tenths // 10 for tenths in (5, 2, 8, 1, 3, 6, 9)))


@pytest.mark.parametrize("starter", shipped(), ids=lambda starter: starter.name)
def test_a_starter_put_on_a_picture_brings_its_dials(starter) -> None:
    session = Session()
    session.take(Shot(width=640, height=360, length=48))
    items.new_plate(session, "fill")
    shot, paths = with_starter(session, starter)
    assert paths
    mine: list[Node] = [node for node in shot.front if node.inside]
    assert mine, "no dial came along"
    assert all(not left(shot, node) for node in mine)
