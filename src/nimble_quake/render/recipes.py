"""A recipe as it is computed: the steps that do something now, those of a bracket gathered in it.

A bracket's steps follow it in the recipe and name it in `inside`. What a unit's result depends on is its `key`.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import partial

from nimble_quake.operators.base import Operator, PlateKind
from nimble_quake.operators.steps import Shaper, Source, Step
from nimble_quake.params.kinds import MapRef
from nimble_quake.render.cache import Same
from nimble_quake.render.job import Job
from nimble_quake.shot.model import Map, Node


@dataclass(frozen=True)
class Unit:
    """A step with its numbers; a bracket has `inner` units."""

    node: Node
    operator: Step
    path: str
    inner: tuple[Unit, ...] = ()
    key: tuple[Hashable, ...] = ()

    @property
    def plain(self) -> bool:
        """Whether the result is used whole, everywhere."""
        operator = self.operator
        return getattr(operator, "opacity", 1.0) >= 1 and not getattr(operator, "mask", "")


def units_of(job: Job, map: Map, steps: tuple[Node, ...]) -> tuple[Unit, ...]:
    """Return the units of steps that do something at the job's moment. Others cost nothing."""
    if job.keys_under_way:
        return _units(job, map, steps)  # a key found inside a loop is cut short where the loop closes
    known = job.units.get((map.id, id(steps)))
    if known is None:
        known = job.units[map.id, id(steps)] = (steps, _units(job, map, steps))
    return known[1]


def _units(job: Job, map: Map, steps: tuple[Node, ...]) -> tuple[Unit, ...]:
    members: dict[str, list[Node]] = {}
    heads = {step.id for step in steps if step.kind == "bracket"}
    outer = []
    for step in steps:
        if step.inside in heads and step.id != step.inside:
            members.setdefault(step.inside, []).append(step)
        else:
            outer.append(step)
    found = []
    for step in outer:
        unit = _unit(job, map, step, members.get(step.id, []))
        if unit is not None:
            found.append(unit)
    return tuple(found)


def _unit(job: Job, map: Map, step: Node, inside: list[Node]) -> Unit | None:
    path = f"maps/{map.id}/steps/{step.id}"
    operator = job.operator("step", step, path) if step.on else None
    if not isinstance(operator, Step) or getattr(operator, "opacity", 1.0) <= 0:
        return None
    inner = tuple(unit for unit in (_unit(job, map, node, []) for node in inside) if unit is not None)
    if isinstance(operator, Shaper) and (operator.idle() or (step.kind == "bracket" and not inner)):
        return None
    refers = references(job, operator)
    key: tuple[Hashable, ...] = (operator.key(), job.depends(operator, operator.timed()), refers)
    if operator.whole_map:
        key = (*key, Same(map))
    if operator.looks_back():
        key = (*key, Same(step), *((Same(job.shot.maps), Same(job.shot.plates)) if refers else ()))
    return Unit(step, operator, path, inner, (*key, *(unit.key for unit in inner)))


def references(job: Job, operator: Operator) -> tuple[Hashable, ...]:
    """Return what the maps and plates depend on that an operator refers to.

    Derived from its declaration, so that nobody can forget one. What closes a loop is refused when it is computed.
    """
    found: list[Hashable] = []
    for name, param in type(operator).reference_params:
        value = getattr(operator, name)
        if not value:
            continue
        if isinstance(param, MapRef):
            found.append(_found_once(job, f"maps/{value}", partial(map_key, job, value)))
        else:
            quakes = bool(getattr(operator, "with_quakes", False))
            path = f"plates/{value}" + ("/quakes" if quakes else "")
            found.append(_found_once(job, path, partial(plate_key, job, value, with_quakes=quakes)))
    return tuple(found)


def _found_once(job: Job, path: str, find: Callable[[], tuple[Hashable, ...]]) -> tuple[Hashable, ...]:
    if path in job.keys:
        return job.keys[path]
    if path in job.keys_under_way:
        return (path,)
    job.keys_under_way.append(path)
    try:
        job.keys[path] = (path, job.engine.tokens.of(find()))
    finally:
        job.keys_under_way.pop()
    return job.keys[path]


def map_key(job: Job, id: str) -> tuple[Hashable, ...]:
    """Return what a map's finished values depend on; nothing where there is no such map."""
    map = job.shot.map(id)
    return () if map is None else key_of(units_of(job, map, map.recipe))


def plate_key(job: Job, id: str, *, with_quakes: bool) -> tuple[Hashable, ...]:
    """Return what a plate's finished picture depends on: its numbers, its file and time, its quakes and their maps."""
    plate = job.shot.plate(id)
    operator = job.operator("plate", plate, f"plates/{id}") if plate is not None else None
    if plate is None or not isinstance(operator, PlateKind):
        return ()
    found = (operator.key(), job.depends(operator, operator.timed()), plate.start, references(job, operator))
    if not with_quakes:
        return found
    quakes: list[Hashable] = []
    for node in plate.quakes:
        quake = job.operator("quake", node, f"plates/{id}/quakes/{node.id}") if node.on else None
        if quake is not None:
            quakes.append((quake.key(), references(job, quake)))
    return (*found, *quakes)


def key_of(units: tuple[Unit, ...]) -> tuple[Hashable, ...]:
    """Return what the result of units depends on."""
    return tuple(unit.key for unit in units)


def rest_of(job: Job, units: tuple[Unit, ...], otherwise: float) -> float:
    """Return the rest level after units: that of the last source, or `otherwise` where there is none."""
    for number in reversed(range(len(units))):
        unit = units[number]
        if unit.inner:
            return rest_of(job, unit.inner, rest_of(job, units[:number], otherwise))
        if isinstance(unit.operator, Source):
            return unit.operator.rest(job.context(unit.operator, unit.node, unit.path))
    return otherwise
