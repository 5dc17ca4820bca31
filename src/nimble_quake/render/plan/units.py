"""Planning: which steps of a chain do something now, and what each result depends on. Running is `render.chain.pull`.

A chain is the recipe of a map or the effects of a plate. Each step that does something becomes a unit, with the key of
what it depends on: its numbers, and through its references the files, plates and maps it reads. A bracket's steps
follow it in the chain and name it in `inside`; an effect made of several steps holds them in the same way.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Hashable
from dataclasses import dataclass, replace
from functools import partial

from nimble_quake.conventions import Frames
from nimble_quake.media.drawing import faces
from nimble_quake.operators.base import Operator
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.steps import STAGGER_BY, TIMES, PointShaper, Shaper, Source, Step
from nimble_quake.params.kinds import BandRef, MapRef, PlateRef
from nimble_quake.raster.colour.pointwise import Op
from nimble_quake.render.caches.results import Same
from nimble_quake.render.heard import own_sound, sound_files
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.closing import goes_on
from nimble_quake.render.plan.groups import below, eyes, is_there, stacked
from nimble_quake.shot.model import Map, Node, Plate
from nimble_quake.shot.paths import chain_of, map_path, nested_path, plate_path, with_shared
from nimble_quake.shot.spans import acts_at, faded


@dataclass(frozen=True)
class Unit:
    """A step with its numbers. `inner`: the units of a bracket, or the parts of an effect."""

    node: Node
    operator: Step
    path: str
    inner: tuple[Unit, ...] = ()
    key: tuple[Hashable, ...] = ()
    bracket: bool = False
    whole: bool = False
    """It is a part of an effect, which is mixed as one."""
    time: int = 0
    """Which time of a staggered step it is."""
    behind: Frames = 0.0
    """How many frames ago its numbers and maps are taken."""

    @property
    def plain(self) -> bool:
        """Whether the result is used whole, everywhere."""
        if self.whole:
            return True
        operator = self.operator
        return operator.opacity >= 1 and (not operator.mask or operator.masks_strength)


def units_of(job: FrameJob, owner: Map | Plate, nodes: tuple[Node, ...] | None = None) -> tuple[Unit, ...]:
    """Return the units of a map's steps or a plate's effects (or of some of them) that do something now."""
    nodes = chain_of(owner) if nodes is None else nodes
    path = plate_path(owner.id) if isinstance(owner, Plate) else map_path(owner.id)
    if job.keys_under_way:
        return _units(job, owner, path, nodes)  # a key found inside a loop is cut short where the loop closes
    known = job.units.get((path, id(nodes)))
    if known is None:
        known = job.units[path, id(nodes)] = (nodes, _units(job, owner, path, nodes))
    found: tuple[Unit, ...] = known[1]
    return found


def _units(job: FrameJob, owner: Map | Plate, path: str, nodes: tuple[Node, ...]) -> tuple[Unit, ...]:
    heads = {node.id for node in nodes if _encloses(job, node)}
    members: dict[str, list[Node]] = {}
    outer = []
    for node in nodes:
        if node.inside in heads and node.id != node.inside:
            members.setdefault(node.inside, []).append(node)
        else:
            outer.append(node)
    found: list[Unit] = []
    for node in outer:
        found += _staggered(job, owner, path, node, members.get(node.id, []))
    return tuple(found)


def _encloses(job: FrameJob, node: Node) -> bool:
    kind = job.engine.operators.get("step", node.kind)
    return kind is not None and issubclass(kind, Step) and kind.encloses


def _staggered(job: FrameJob, owner: Map | Plate, path: str, node: Node, inside: list[Node]) -> list[Unit]:
    """The units of a node: once, or as often as it is staggered, each time as it was so much earlier."""
    values = with_shared(job.shot, node).values
    kind = job.engine.operators.get("effect" if isinstance(owner, Plate) else "step", node.kind)
    staggers = "stagger_times" in values and kind is not None and "stagger_times" in kind.declared
    if not staggers:
        return list(_unit(job, job, owner, path, node, inside))
    own = nested_path(path, node.id)
    times = round(job.number(values["stagger_times"], f"{own}/stagger_times", 1))
    by = job.number(values.get("stagger_by", STAGGER_BY.default), f"{own}/stagger_by", 0.0)
    found: list[Unit] = []
    for time in range(min(max(times, 1), int(TIMES.hard[1]))):
        then = job.earlier(time * by) if time and by else job
        units = _unit(job, then, owner, path, node, inside)
        found += (replace(unit, time=time, behind=time * by) for unit in units)
    return found


def _unit(
    now: FrameJob, job: FrameJob, owner: Map | Plate, path: str, node: Node, inside: list[Node]
) -> tuple[Unit, ...]:
    """The unit of a node; none where it does nothing; several where its parts can stand among their neighbours.

    job: the shot when its numbers are taken, which for a staggered one is not now.
    """
    own = nested_path(path, node.id)
    node = with_shared(job.shot, node)
    on_picture = isinstance(owner, Plate)
    at = job.moment.frame
    fraction = faded(node, at, job.moment.length) if acts_at(node, at) else 0.0
    operator = job.operator("effect" if on_picture else "step", node, own) if fraction > 0 else None
    if not isinstance(operator, Step) or operator.opacity <= 0:
        return ()
    if on_picture and not _has_its_map(job, operator, own):
        return ()
    key = _key(now, job, owner, operator, node)
    if operator.encloses:
        inner = tuple(unit for member in inside for unit in _staggered(now, owner, path, member, []))
        return (Unit(node, operator, own, inner, (*key, *(unit.key for unit in inner)), True),) if inner else ()
    unit = Unit(node, operator, own, (), key)
    steps = operator.parts()
    if steps == (operator,):
        return (unit,)
    parts = tuple(Unit(node, part, own, (), (*key, type(part).__name__), whole=True) for part in steps)
    return parts if not parts or unit.plain else (Unit(node, operator, own, parts, key),)


def _has_its_map(job: FrameJob, operator: Step, path: str) -> bool:
    """Whether a coupling has the map it needs; where it has not, that is said."""
    if not operator.needs_map:
        return True
    map = job.shot.map(operator.map_read())
    if map is None:
        if operator.map_read():
            job.path = path
            job.report_problem("its map is not there", "choose another map")
        return False
    return any(step.on for step in map.recipe)


def _key(now: FrameJob, job: FrameJob, owner: Map | Plate, operator: Step, node: Node) -> tuple[Hashable, ...]:
    """What a step's result depends on. job: the shot when its numbers are taken; what lies beneath is that of now."""
    refers = references(job, operator)
    key: tuple[Hashable, ...] = (operator.key(), job.depends(operator, operator.timed()), refers)
    if operator.sees_other_times:
        key = (*key, Same(owner))
    if goes_on(job, node, operator):
        key = (*key, Same(node), *((Same(job.shot),) if job.moment.services is not None else ()))
    if job.moment.services is not None and (operator.sees_other_times or operator.looks_back()):
        key = (*key, Same(job.shot))  # values elsewhere may be what moves it at those times
    if operator.sees_beneath and isinstance(owner, Plate):
        key = (*key, beneath_key(now, owner))
    if operator.looks_back():
        key = (*key, Same(node), *((Same(job.shot.maps), Same(job.shot.plates)) if refers else ()))
    return key


def references(job: FrameJob, operator: Operator, without: Container[str] = ()) -> tuple[Hashable, ...]:
    """Return what the maps and plates depend on that an operator refers to; `without`: parameters passed over.

    Derived from its declaration, so that nobody can forget one. What closes a loop is refused when it is computed.
    """
    found: list[Hashable] = [faces.edition()] if type(operator).set_in_type else []
    for name, param in type(operator).reference_params:
        value = operator.values[name]
        if not value or name in without:
            continue
        if isinstance(param, BandRef):
            stamps = tuple(job.engine.recordings.stamp(file) for file in sound_files(job.shot))
            clips = any(own_sound(plate) for plate in job.shot.plates)  # then bars, groups and crossings count
            rows = (job.shot.bands, job.shot.sounds, *((job.shot.plates,) if clips else ()))
            found.append((value, *(Same(row) for row in rows), stamps))
        elif isinstance(param, MapRef):
            other = operator.values[param.exceptions_by] if param.exceptions_by else ()
            there = job.differing(other) if other else job
            found.append(_found_once(there, map_path(value), partial(map_key, there, value)))
        elif isinstance(param, PlateRef):
            if param.tracked:
                found.append(job.engine.tracks.stamp())
            effects = param.as_shown or bool(param.effects_by and operator.values[param.effects_by])
            path = plate_path(value) + ("/effects" if effects else "")
            found.append(_found_once(job, path, partial(plate_key, job, value, with_effects=effects)))
            other = job.shot.plate(value) if param.as_shown else None
            if other is not None:
                found.append(is_there(other, job.moment.frame))
    return tuple(found)


def _found_once(job: FrameJob, path: str, find: Callable[[], tuple[Hashable, ...]]) -> tuple[Hashable, ...]:
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


def reads_plates(job: FrameJob, owner: Map | Plate, units: tuple[Unit, ...]) -> bool:
    """Return whether what a chain makes may depend on other plates than its own."""
    operator = job.operator("plate", owner, plate_path(owner.id)) if isinstance(owner, Plate) else None
    gathers = isinstance(operator, PlateKind) and operator.gathers
    if gathers or any(unit.operator.sees_beneath for unit in units):
        return True
    steps = [step for map in job.shot.maps for step in map.recipe]
    kinds = ((step, job.engine.operators.get("step", step.kind)) for step in steps)
    return any(
        step.values.get(name)
        for step, kind in kinds
        if kind is not None
        for name, param in kind.reference_params
        if isinstance(param, PlateRef)
    )


def map_key(job: FrameJob, id: str) -> tuple[Hashable, ...]:
    """Return what a map's finished values depend on; nothing where there is no such map."""
    map = job.shot.map(id)
    return () if map is None else key_of(units_of(job, map))


def plate_key(job: FrameJob, id: str, *, with_effects: bool) -> tuple[Hashable, ...]:
    """Return what a plate's finished picture depends on: its numbers, its file and time, its effects."""
    plate = job.shot.plate(id)
    operator = job.operator("plate", plate, plate_path(id)) if plate is not None else None
    if plate is None or not isinstance(operator, PlateKind):
        return ()
    found: tuple[Hashable, ...] = (operator.key(), job.depends(operator, operator.timed()), plate.start)
    found = (*found, references(job, operator), *_camera_key(job))
    if operator.looks_back():
        found = (*found, Same(job.shot.plates), Same(job.shot.maps))
    if operator.beneath:
        found = (*found, beneath_key(job, plate))
    if operator.holds:
        found = (*found, members_key(job, plate))
    return (*found, *key_of(units_of(job, plate))) if with_effects else found


def _camera_key(job: FrameJob) -> tuple[Hashable, ...]:
    """What places seen by a camera plate depend on; found once for a frame."""
    if job.cameras is None:
        job.cameras = _cameras(job)
    return job.cameras


def _cameras(job: FrameJob) -> tuple[Hashable, ...]:
    cameras = ((plate, job.operator("plate", plate, plate_path(plate.id))) for plate in eyes(job))
    seeing = ((is_there(plate, job.moment.frame), camera) for plate, camera in cameras)
    return tuple((on, camera.key()) for on, camera in seeing if camera is not None)


def beneath_key(job: FrameJob, lens: Plate) -> tuple[Hashable, ...]:
    """Return what the picture beneath a plate depends on: every plate below it, in order, and the ground."""
    return (job.shot.ground, job.look.key(), *_row_key(job, below(job, lens)))


def frame_key(job: FrameJob) -> tuple[Hashable, ...]:
    """Return what a whole frame depends on: the same for two frames between which nothing moves."""
    shot = job.shot
    measures = (shot.width, shot.height, shot.linear, shot.ground, job.exaggerated, job.look.key())
    return (measures, *_row_key(job, stacked(job)))


def members_key(job: FrameJob, group: Plate) -> tuple[Hashable, ...]:
    """Return what the plates in a group make together depends on."""
    return (job.look.key(), *_row_key(job, stacked(job, group.id)))


def _row_key(job: FrameJob, plates: tuple[Plate, ...]) -> tuple[Hashable, ...]:
    there = ((plate, job.when_asked(plate)) for plate in plates)
    shown = ((plate, then) for plate, then in there if is_there(plate, then.moment.frame))
    return tuple((plate.id, plate_key(then, plate.id, with_effects=True)) for plate, then in shown)


def neighbours(units: tuple[Unit, ...]) -> tuple[Unit, ...]:
    """Return the steps at the end that can be done in one go: all point shapers, or all coordinate steps."""
    kind = PointShaper if isinstance(units[-1].operator, PointShaper) else Coordinate
    count, parted = 0, False
    for unit in reversed(units):
        if not isinstance(unit.operator, kind) or not unit.plain or unit.inner or _runs_itself(unit.operator, kind):
            break
        parts = isinstance(unit.operator, Coordinate) and unit.operator.spread() is not None
        if parts and parted:  # the colours of one sampling part once: what parts them again is sampled by itself
            break
        parted = parted or parts
        count += 1
    return units[len(units) - count :]


def _runs_itself(operator: Shaper, kind: type[Coordinate] | type[PointShaper]) -> bool:
    """A step that answers `run` itself may read what is beneath it, so it stands alone."""
    return operator.alone or type(operator).run is not kind.run


def ops_of(units: tuple[Unit, ...], rest: float) -> tuple[Op, ...]:
    """Return the simple operations that neighbouring point shapers are made of."""
    steps = (unit.operator for unit in units if isinstance(unit.operator, PointShaper))
    return tuple(op for step in steps for op in step.ops(rest))


def edge_of(units: tuple[Unit, ...], otherwise: str) -> str:
    """Return what is pulled in from beyond a picture's border: what the last unit says that says anything."""
    steps = (unit.operator for unit in reversed(units) if isinstance(unit.operator, Coordinate))
    return next((step.edge_beyond() for step in steps if step.edge_beyond()), otherwise)


def key_of(units: tuple[Unit, ...]) -> tuple[Hashable, ...]:
    """Return what the result of units depends on."""
    return tuple(unit.key for unit in units)


def rest_of(job: FrameJob, units: tuple[Unit, ...], otherwise: float) -> float:
    """Return the rest level after units: that of the last source, or `otherwise` where there is none."""
    for number in reversed(range(len(units))):
        unit = units[number]
        if unit.bracket:
            return rest_of(job, unit.inner, rest_of(job, units[:number], otherwise))
        if isinstance(unit.operator, Source):
            return unit.operator.rest(job.context(unit.operator, unit.node, unit.path))
    return otherwise
