"""Maps: a recipe's steps, from the last one back to what it needs.

Each step's values are remembered under everything they depend on, so a still part of a recipe is computed once.
"""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.errors import ShotError
from nimble_quake.operators.base import Shaper, Source
from nimble_quake.raster.colour import as_channels
from nimble_quake.raster.grid import Grid
from nimble_quake.render.combine import combined, mixed
from nimble_quake.render.job import Job
from nimble_quake.shot.model import Map, Node


def map_field(job: Job, map: Map, grid: Grid, *, upto: int | None = None) -> Field:
    """Return a map's finished values on a grid, or those after its first `upto` steps. Do not write to it."""
    if f"maps/{map.id}" in job.under_way:
        loop = " -> ".join([*job.under_way, f"maps/{map.id}"])
        raise ShotError("the map reads itself", where=loop, cure="let one of them read another plate")
    job.under_way.append(f"maps/{map.id}")
    try:
        steps = map.recipe if upto is None else map.recipe[:upto]
        return _values(job, map, [step for step in steps if step.on], grid)
    finally:
        job.under_way.pop()


def map_rest(job: Job, map: Map) -> float:
    """Return what a finished map rests at: 128/255 where an 8-bit picture has the last say, else one half."""
    for step in reversed(map.recipe):
        operator = job.operator("step", step, _path(map, step)) if step.on else None
        if isinstance(operator, Source) and operator.opacity > 0:
            return operator.rest(job.context(operator, step, _path(map, step)))
    return REST


def _path(map: Map, step: Node) -> str:
    return f"maps/{map.id}/steps/{step.id}"


def _rest_before(job: Job, map: Map, steps: list[Node]) -> float:
    for step in reversed(steps):
        operator = job.operator("step", step, _path(map, step))
        if isinstance(operator, Source):
            return operator.rest(job.context(operator, step, _path(map, step)))
    return REST


def _key(job: Job, map: Map, steps: list[Node]) -> tuple[Hashable, ...]:
    keys: list[Hashable] = []
    for step in steps:
        operator = job.operator("step", step, _path(map, step))
        if operator is None or getattr(operator, "opacity", 1) <= 0:
            continue
        timed = isinstance(operator, Source) and operator.timed()
        keys.append((operator.key(), job.depends(operator, timed)))
    return tuple(keys)


def _values(job: Job, map: Map, steps: list[Node], grid: Grid) -> Field:
    if not steps:
        return np.full((*grid.shape, 1), REST, np.float32)
    step, before = steps[-1], steps[:-1]
    operator = job.operator("step", step, _path(map, step))
    if operator is None:
        return _values(job, map, before, grid)
    if isinstance(operator, Shaper):
        if operator.idle() or operator.opacity <= 0:
            return _values(job, map, before, grid)
        return _kept(job, map, steps, grid, lambda: _shaped(job, map, step, operator, before, grid))
    if isinstance(operator, Source):
        if operator.opacity <= 0:
            return _values(job, map, before, grid)
        return _kept(job, map, steps, grid, lambda: _made(job, map, step, operator, before, grid))
    return _values(job, map, before, grid)


def _kept(job: Job, map: Map, steps: list[Node], grid: Grid, make) -> Field:  # type: ignore[no-untyped-def]
    found: Field = job.engine.cache.get(("map", _key(job, map, steps), grid), make)
    return found


def _shaped(job: Job, map: Map, step: Node, operator: Shaper, before: list[Node], grid: Grid) -> Field:
    outer = grid.grown(grid.samples(operator.margin(job.moment)))
    below = _values(job, map, before, outer)
    ctx = job.context(operator, step, _path(map, step), _rest_before(job, map, before))
    after = operator.shape(below, outer, grid, ctx)
    return mixed(below[grid.inside(outer)], after, operator.opacity) if operator.opacity < 1 else after


def _made(job: Job, map: Map, step: Node, operator: Source, before: list[Node], grid: Grid) -> Field:
    made = operator.make(grid, job.context(operator, step, _path(map, step)))
    cover = None
    if isinstance(made, tuple):
        made, cover = made
        if not before:  # clear parts of the first step stay clear
            return _with_alpha(made, cover, operator.opacity)
    opaque = cover is None and (made.shape[2] < 4 or bool((made[..., 3] >= 1).all()))
    if operator.combine == "over" and operator.opacity >= 1 and (opaque or not before):
        return made
    return combined(_values(job, map, before, grid), made, operator.combine, operator.opacity, cover)


def _with_alpha(grey: Field, cover: Field, opacity: float) -> Field:
    out = np.ascontiguousarray(as_channels(grey, 4))
    out[..., 3:] = cover * np.float32(opacity)
    return out
