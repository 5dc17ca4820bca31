"""Samples with one value in the place of another: refused in a line, or all of what opens is asked and drawn."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

import pytest

from conftest import ALL, SEED
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.kinds import Key, Keys
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.front.base import NumberDial
from nimble_quake.operators.front.turning import front_kind, left
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.shown.bench import tolerant_job
from nimble_quake.samples import FOLDER, sample_path, samples
from nimble_quake.session.fronts.filling import shown_as
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.model import Map, Marker, Node, Plate, Shot
from nimble_quake.shot.paths import all_nodes, value_path
from nimble_quake.shotfile.codec import decoded, encoded
from nimble_quake.shotfile.files import shot_from

OTHERS: list[Any] = [None, -1, 1e300, "x", [], {}, {"formula": "1/0"}, "\ud800", True, [[1] * 9] * 9]


def twisted(rng: random.Random, raw: dict[str, Any]) -> bytes:
    """A shot file with something else in the place of one value, somewhere."""
    where: Any = raw
    while True:
        key = rng.choice(list(where) if isinstance(where, dict) else list(range(len(where))))
        if not isinstance(where[key], dict | list) or not where[key] or rng.random() < 0.15:
            where[key] = rng.choice(OTHERS)
            return json.dumps(raw).encode()
        where = where[key]


def ask_all(shot: Shot) -> None:
    """What the window asks of a shot that was opened."""
    session = Session()
    session.take(shot)
    for path, _node in all_nodes(shot):
        operator = session.operator(path)
        for name in operator.declared if operator is not None else ():
            front.dials_of(session, value_path(path, name))
            session.shown(value_path(path, name))
    for node in shot.front:
        left(shot, node)
        shown_as(shot, node)
    job, scale = tolerant_job(Engine(), shot, 3), 32 / max(shot.width, shot.height)
    for draw in (*(lambda map=map: map_field(job, map, _grid(shot, scale)) for map in shot.maps), None):
        try:
            frame_picture(job, scale) if draw is None else draw()
        except NimbleQuakeError as told:
            assert told.line()


def _grid(shot: Shot, scale: float) -> Any:
    return frame_grid(shot.width, shot.height, scale)


@pytest.mark.parametrize("number", range(200 if ALL else 30))
def test_one_value_for_another(number):
    rng, opened = random.Random(f"{SEED} {number}"), 0
    while opened < 3:
        name = rng.choice(samples())
        raw = json.loads((FOLDER / f"{name}.nquake").read_bytes())
        try:
            shot = shot_from(twisted(rng, raw), Path("x.nquake"), [])
        except NimbleQuakeError as told:
            assert told.line()
            continue
        opened += 1
        if name != "drips-on-glass":  # four times as large as the others
            ask_all(shot)


def test_a_dial_of_a_kind_we_do_not_know_is_kept_and_nothing_else_suffers():
    """What is behind it is kept as it came, as plain JSON."""
    raw = json.loads((FOLDER / "shockwave.nquake").read_bytes())
    raw["front"][0]["kind"] = "of-a-newer-version"
    shot = shot_from(json.dumps(raw).encode(), Path("x.nquake"), [])
    assert isinstance(shot.front[0].values["drives"][0], dict)
    ask_all(shot)


@pytest.mark.parametrize("name", samples())
def test_a_dial_that_moves_moves_what_can_be_moved(name):
    """A dial over a seed, which takes no pins, leaves it at its standard."""
    path = sample_path(name)
    assert path is not None
    session = Session()
    session.open(path)
    for node in session.shot.front:
        kind = front_kind(node)
        if kind is None or not issubclass(kind, NumberDial) or kind.declared["value"].size != 1:
            continue
        low, high = kind.reach_of(node.values)
        moving = Keys((Key(frame=3.0, value=low), Key(frame=20.0, value=low + (high - low) * 0.37)))
        session.set(f"front/{node.id}/value", moving)
        for at, other in all_nodes(session.shot):
            operator = session.operator(at)
            for value, param in operator.declared.items() if operator is not None else ():
                if not param.animatable:
                    assert not isinstance(other.values.get(value), Motion), f"{at}/{value}"
        shot = session.shot
        assert decoded(encoded(shot)).front == shot.front
        session.undo()


def test_a_marker_is_no_trouble_to_what_is_hit_by_markers():
    rings = Node(id="rings", kind="rings", values={"when": "markers"})
    map = Map(id="hit", name="", recipe=(rings,))
    plate = Plate(id="p", kind="pattern", values={"map": "hit"})
    one, two = (
        Shot(width=64, height=36, maps=(map,), plates=(plate,), markers=(Marker(frame=frame, name="here"),))
        for frame in (2, 9)
    )
    assert (frame_picture(tolerant_job(Engine(), one, 12)) != frame_picture(tolerant_job(Engine(), two, 12))).any()
    ask_all(one)
