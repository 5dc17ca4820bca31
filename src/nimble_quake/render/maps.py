"""Maps: a recipe's steps, from the last one back to what it needs.

Each result is remembered under everything it depends on, so a still part of a recipe is computed once. Neighbouring
point shapers run in one pass; neighbouring benders are composed and sample once.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from nimble_quake.conventions import REST, Field, Seconds
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Bender, PointShaper, Source
from nimble_quake.raster.bent import sampled_through
from nimble_quake.raster.clear import seen
from nimble_quake.raster.colour import as_channels, channel
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.pointwise import run_ops
from nimble_quake.render.combine import combined, mixed
from nimble_quake.render.job import Job
from nimble_quake.render.recipes import Unit, key_of, rest_of, units_of
from nimble_quake.shot.model import Map, Node


@dataclass(frozen=True)
class Ground:
    """What lies beneath the first step: the rest level, or what a bracket was given."""

    values: Callable[[Job, Grid], Field]
    key: tuple[Hashable, ...] = ()
    """What it depends on; empty for the bare rest level."""
    rest: float = REST


MOST_LOOKS = 400
"""How often the steps of one frame may look at other times, so that echoes of echoes end."""


def map_field(job: Job, map: Map, grid: Grid, *, upto: int | None = None) -> Field:
    """Return a map's finished values on a grid, or those after its first `upto` steps. Do not write to it."""
    steps = map.recipe if upto is None else map.recipe[:upto]
    with job.inside(f"maps/{map.id}", "the map reads itself", "let one of them read another"):
        return _run(job, map, units_of(job, map, steps), grid, AT_REST)


def map_rest(job: Job, map: Map) -> float:
    """Return what a finished map rests at: 128/255 where an 8-bit picture has the last say, else one half."""
    return rest_of(job, units_of(job, map, map.recipe), REST)


def other_map(job: Job, map_id: str, grid: Grid, seconds: Seconds | None) -> Field | None:
    """Return another map's values, now or at another time; None where there is none."""
    map = job.shot.map(map_id) if map_id else None
    if map is None:
        return None
    return map_field(job if seconds is None else job.at(seconds), map, grid)


def _flat(job: Job, grid: Grid) -> Field:
    return np.full((*grid.shape, 1), REST, np.float32)


AT_REST = Ground(_flat)


def _run(job: Job, map: Map, units: tuple[Unit, ...], grid: Grid, ground: Ground) -> Field:
    """Return what units make over a ground."""
    if not units:
        return ground.values(job, grid)
    key = ("map", key_of(units), ground.key, grid)
    found: Field = job.engine.cache.get(key, lambda: _computed(job, map, units, grid, ground))
    return found


def _computed(job: Job, map: Map, units: tuple[Unit, ...], grid: Grid, ground: Ground) -> Field:
    last, before = units[-1], units[:-1]

    def below(on: Grid, seconds: Seconds | None = None) -> Field:
        if seconds is None or seconds == job.moment.seconds:
            return _run(job, map, before, on, ground)
        return _earlier(job, map, before, on, seconds, ground)

    if isinstance(last.operator, Source):
        return _made(job, last, bool(before) or ground is not AT_REST, grid, below)
    run = _neighbours(units)
    if len(run) > 1:
        lead = units[: -len(run)]
        rest = rest_of(job, lead, ground.rest)
        return _fused(job, run, rest, grid, lambda on: _run(job, map, lead, on, ground))
    ctx = replace(
        job.context(last.operator, last.node, last.path, rest_of(job, before, ground.rest)), steps_before=below
    )
    with job.timed(last.path):
        beneath = (key_of(before), ground.key)
        after = _bracket(job, map, last, grid, ctx, beneath) if last.inner else last.operator.run(grid, ctx)  # type: ignore[attr-defined]
    if last.plain:
        return after
    return mixed(below(grid), after, last.operator.opacity, _mask(job, last, grid))  # type: ignore[attr-defined]


def _earlier(job: Job, map: Map, before: tuple[Unit, ...], on: Grid, seconds: Seconds, ground: Ground) -> Field:
    """The steps before, at another time: the same nodes with the numbers they have then."""
    job.count_look(MOST_LOOKS)
    then = job.at(seconds)
    ids = {unit.node.id for unit in before} | {unit.node.id for outer in before for unit in outer.inner}
    nodes = tuple(step for step in map.recipe if step.id in ids)
    units = units_of(then, map, tuple(_freed(step, ids) for step in nodes))
    if ground is not AT_REST:
        ground = replace(ground, key=(*ground.key, then.moment.frame))
    return _run(then, map, units, on, ground)


def _freed(step: Node, ids: set[str]) -> Node:
    """Free a step from a bracket that is not among the steps asked for (it is the ground they stand on)."""
    return step if step.inside in ids or not step.inside else msgspec.structs.replace(step, inside="")


def _neighbours(units: tuple[Unit, ...]) -> tuple[Unit, ...]:
    """The steps at the end that can be done in one go: all point shapers, or all benders made of operations."""
    kind = PointShaper if isinstance(units[-1].operator, PointShaper) else Bender
    count = 0
    for unit in reversed(units):
        if not isinstance(unit.operator, kind) or not unit.plain or unit.inner or not _fusible(unit):
            break
        count += 1
    return units[len(units) - count :]


def _fusible(unit: Unit) -> bool:
    """A step that answers `run` or `look` itself may read what is beneath it, so it stands alone."""
    operator = type(unit.operator)
    if issubclass(operator, Bender):
        return operator.run is Bender.run and operator.look is Bender.look
    return issubclass(operator, PointShaper) and operator.run is PointShaper.run


def _fused(job: Job, run: tuple[Unit, ...], rest: float, grid: Grid, below: Callable[[Grid], Field]) -> Field:
    """Run neighbours in one go over what is below; their cost is shared evenly among them."""
    if isinstance(run[0].operator, PointShaper):
        field = below(grid)
        began = time.perf_counter()
        out = run_ops(field, tuple(op for unit in run for op in unit.operator.ops(rest)))  # type: ignore[attr-defined]
        taken = time.perf_counter() - began
    else:
        bends, far = [], 0.0
        for unit in reversed(run):
            bends += unit.operator.bends(job.context(unit.operator, unit.node, unit.path, rest))  # type: ignore[attr-defined]
            far = max(far, type(unit.operator).far)  # type: ignore[attr-defined]
        began, inner = time.perf_counter(), sum(job.costs.values())
        size, steps = (job.moment.width, job.moment.height), tuple(bends)
        out = seen(below, rest, lambda beneath: sampled_through(beneath, grid, steps, size, far))
        taken = time.perf_counter() - began - (sum(job.costs.values()) - inner) / 1000
    for unit in run:
        job.add_cost(unit.path, taken * 1000 / len(run))
    return out


def _made(job: Job, unit: Unit, covers: bool, grid: Grid, below: Callable[[Grid], Field]) -> Field:
    operator = unit.operator
    assert isinstance(operator, Source)
    made = _source_values(job, unit, grid, below)
    cover = None
    if isinstance(made, tuple):
        made, cover = made
        if not covers:  # clear parts of the first step stay clear
            return _with_alpha(made, cover, operator.opacity)
    mask = _mask(job, unit, grid)
    opaque = cover is None and (made.shape[2] < 4 or bool((made[..., 3] >= 1).all()))
    if operator.combine in ("over", "replace") and unit.plain and (opaque or not covers):
        return made
    if mask is not None:
        cover = mask if cover is None else cover * mask
    return combined(below(grid), made, operator.combine, operator.opacity, cover)


def _source_values(job: Job, unit: Unit, grid: Grid, below: Callable[..., Field]) -> Field | tuple[Field, Field]:
    """A source's own values; those of a still one are remembered by themselves, whatever moves beneath it."""
    operator = unit.operator
    ctx = replace(job.context(operator, unit.node, unit.path), steps_before=below)

    def make() -> Field | tuple[Field, Field]:
        with job.timed(unit.path):
            return operator.make(grid, ctx)  # type: ignore[attr-defined, no-any-return]

    if operator.timed() or job.moves(unit.node, operator):
        return make()
    found: Field | tuple[Field, Field] = job.engine.cache.get(("source", unit.key, grid), make)
    return found


def _with_alpha(grey: Field, cover: Field, opacity: float) -> Field:
    out = np.ascontiguousarray(as_channels(grey, 4))
    out[..., 3:] = cover * np.float32(opacity)
    return out


def _mask(job: Job, unit: Unit, grid: Grid) -> Field | None:
    """A step's mask as (H, W, 1), held to 0...1; None where it has none."""
    id = getattr(unit.operator, "mask", "")
    if not id:
        return None
    values = other_map(job, id, grid, None)
    if values is None:
        job.path = unit.path
        job.complain("its mask is not there", "choose another map")
        return None
    return np.clip(channel(values, "value"), 0, 1)[..., None]


def _bracket(job: Job, map: Map, unit: Unit, grid: Grid, ctx: Context, beneath: tuple[Hashable, ...]) -> Field:
    """A bracket's steps over what was there before, in the bracket's own space."""
    operator = unit.operator

    def entered(inner_job: Job, on: Grid) -> Field:
        outer = ctx if inner_job is job else replace(ctx, at=inner_job.moment)
        values: Field = operator.enter(on, outer)  # type: ignore[attr-defined]
        return values

    ground = Ground(entered, ("in", unit.key, beneath), ctx.rest)

    def inside(on: Grid) -> Field:
        return _run(job, map, unit.inner, on, ground)

    left: Field = operator.leave(grid, ctx, inside)  # type: ignore[attr-defined]
    return left
