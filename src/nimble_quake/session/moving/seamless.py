"""Seamless loops: what of a shot does not close over its length, measured, each with a cure."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import numpy as np

from nimble_quake.conventions import Value
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.kinds import Motion, is_moving
from nimble_quake.params.kinds import Number, Pairs, Param
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.chain.maps import map_field
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import FrameJob
from nimble_quake.render.services import frame_job
from nimble_quake.render.values.resolving import shown_value
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import all_nodes, kind_of, map_path, owner_path, plate_path, value_path

ACROSS = 160
"""Samples across at which maps and plates are compared."""
OF_MAPS = "one of its steps goes on by itself: set its Loop, or slow it down to nothing"
OF_PLATES = "its picture goes on: take a clip that closes, or make the shot as long as the clip"
LEAST = 1.5 / 255
"""Values that differ by no more than this are the same to the eye."""


@dataclass(frozen=True)
class Leak:
    """Something that is not at the end what it was at the beginning."""

    path: str
    cure: str


def leaks(engine: Engine, shot: Shot, go_on: Callable[[], bool] = lambda: True) -> list[Leak]:
    """Return what does not close: values first, then maps and plates whose values all do. For a thread of its own."""
    found = [leak for path, node in all_nodes(shot) for leak in _values(engine, shot, path, node)]
    said = {owner_path(leak.path) for leak in found}
    grid = frame_grid(shot.width, shot.height, min(1.0, ACROSS / shot.width))
    ends = frame_job(engine, shot, 0), frame_job(engine, shot, shot.length)
    for map in shot.maps:
        path = map_path(map.id)
        if go_on() and path not in said and _differ(ends, partial(_of_map, map, grid)):
            found.append(Leak(path, OF_MAPS))
    for plate in shot.plates:
        path, there = plate_path(plate.id), plate.on and plate.end is None and not plate.start
        if go_on() and there and path not in said and _differ(ends, partial(_plain, plate.id, grid)):
            found.append(Leak(path, OF_PLATES))
    return found


def _of_map(map: Map, grid: Grid, job: FrameJob) -> np.ndarray:
    return map_field(job, map, grid)


def _plain(id: str, grid: Grid, job: FrameJob) -> np.ndarray:
    return job.plate_picture(id, grid, with_effects=False)[0]


def _differ(ends: tuple[FrameJob, FrameJob], look: Callable[[FrameJob], Value]) -> bool:
    try:
        first, last = (np.array(look(job)) for job in ends)
    except NimbleQuakeError:
        return False
    return first.shape == last.shape and bool(np.abs(first - last).max(initial=0.0) > LEAST)


def _values(engine: Engine, shot: Shot, path: str, node: Node) -> list[Leak]:
    operator = engine.operators.get(kind_of(path), node.kind)
    if operator is None or not node.on:
        return []
    begin, end = frame_job(engine, shot, 0).moment, frame_job(engine, shot, shot.length).moment
    closes = shot.seamless and operator.family == "source"
    goes_on = not closes and "loop" not in operator.declared and not operator.media_param
    found = []
    for name, param in operator.declared.items():
        raw = node.values.get(name)
        speed = isinstance(param, Number | Pairs) and param.accumulates
        if speed and goes_on and _any(raw if raw is not None else param.default):
            found.append(Leak(value_path(path, name), "a speed never comes back: set it to 0, or use a wave"))
        elif is_moving(raw) and not speed:
            try:
                first, last = shown_value(param, node, begin), shown_value(param, node, end)
            except NimbleQuakeError:
                continue
            if not _same(param, first, last):
                found.append(Leak(value_path(path, name), _cure(raw)))
    return found


def _any(value: Value) -> bool:
    return any(value) if isinstance(value, tuple) else bool(value)


def _same(param: Param, first: Value, last: Value) -> bool:
    if isinstance(first, bool | str) or not isinstance(first, int | float | tuple):
        return bool(first == last)
    a, b = (np.asarray(v, np.float64).ravel() for v in (first, last))
    if a.shape != b.shape:
        return False
    apart = b - a
    if isinstance(param, Number) and param.ring:
        apart = (apart + 180) % 360 - 180
    return bool(np.abs(apart).max(initial=0.0) < 1e-3)


def _cure(raw: Value) -> str:
    return raw.how_to_close() if isinstance(raw, Motion) else "make its end its beginning"


def toggle(session: Session) -> None:
    """Let the shot close over its length, or not."""
    on = not session.shot.seamless
    session.edit("Seamless loop" if on else "No seamless loop", set_shot(session.shot, seamless=on))
    session.message.emit("Waves, jitter, noise and turns close over the shot now" if on else "The shot need not close")
