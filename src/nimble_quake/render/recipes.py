"""A recipe as it is computed: the steps that do something now, those of a bracket gathered in it.

A bracket's steps follow it in the recipe and name it in `inside`. What a unit's result depends on is its `key`.
"""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from nimble_quake.operators.base import Operator
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
    maps = _maps_read(job, operator)
    key: tuple[Hashable, ...] = (operator.key(), job.depends(operator, operator.timed()), maps)
    if operator.whole_map:
        key = (*key, Same(map))
    if operator.looks_back():
        key = (*key, Same(step), *((Same(job.shot.maps),) if maps else ()))
    return Unit(step, operator, path, inner, (*key, *(unit.key for unit in inner)))


def _maps_read(job: Job, operator: Operator) -> tuple[Hashable, ...]:
    """What the maps depend on that an operator reads; a map that reads itself is refused when it is computed."""
    found: list[Hashable] = []
    for name, param in operator.declared.items():
        id = getattr(operator, name) if isinstance(param, MapRef) else ""
        other = job.shot.map(id) if id else None
        if other is None or id in job.keys_under_way:
            continue
        job.keys_under_way.append(id)
        try:
            found.append((id, key_of(units_of(job, other, other.recipe))))
        finally:
            job.keys_under_way.pop()
    return tuple(found)


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
