"""Turning a dial, filling a slot: the values behind it are written, in the shot itself.

A value that differs from what its dial says has been changed by hand: it has left its dial, and stays as it is.
"""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.motion.files import as_text, from_text
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.front.base import Front
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import drives_in
from nimble_quake.params.kinds import Drive, Param, Toggle
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find, kind_of, path_in, real_path, value_name

ON = "on"
"""Stands in a path for whether a plate, an effect or a step acts."""
ACTS = Toggle(label="On", help="Whether it acts at all", default=True, name=ON)
NEAR = 1e-9
"""Numbers that differ by less of themselves are the same: they were scaled with the shot."""


def front_kind(node: Node | None) -> type[Front] | None:
    """Return what a dial or slot is; None for what is none that we know."""
    kind = registry().get("front", node.kind) if node is not None else None
    return kind if kind is not None and issubclass(kind, Front) else None


def param_behind(shot: Shot, path: str) -> Param | None:
    """Return the declaration of a value by its path, or of whether something acts; None where there is none."""
    node = find(shot, path)
    if not isinstance(node, Node):
        return None
    if value_name(path) == ON:
        return ACTS
    operator = registry().get(kind_of(path), node.kind)
    return operator.declared.get(value_name(path)) if operator is not None else None


def value_behind(shot: Shot, path: str) -> Value:
    """Return a value, still or moving; its default where nothing is set."""
    path, param = real_path(shot, path), param_behind(shot, path)
    node = find(shot, path)
    if not isinstance(node, Node) or param is None:
        return None
    if value_name(path) == ON:
        return node.on
    found = node.values.get(value_name(path))
    return param.start(shot.width, shot.height) if found is None else found


def with_value_behind(shot: Shot, path: str, value: Value) -> Shot:
    """Return the shot with a value set, or something switched."""
    if value_name(path) == ON:
        node = find(shot, path)
        return set_field(shot, path.rpartition("/")[0], on=bool(value)) if isinstance(node, Node) else shot
    return set_value(shot, real_path(shot, path), value)


def said(shot: Shot, node: Node, drive: Drive) -> Value:
    """Return what a dial says that a value behind it is; None where the value is gone."""
    kind, param = front_kind(node), param_behind(shot, drive.path)
    if kind is None or param is None or kind.fills_plate:
        return None
    own = from_text(param, drive.own) if drive.own else None
    found = kind.behind(node.values, drive, own)
    if isinstance(found, Motion) and not param.animatable:  # a seed cannot move: it stays where the dial usually stands
        found = kind.behind({**node.values, "value": kind.at_standard(node.values)}, drive, own)
    clean = found.clamped(param) if isinstance(found, Motion) else param.clamped(found)
    return param.start(shot.width, shot.height) if clean is None else clean


def follows(shot: Shot, node: Node, drive: Drive) -> bool:
    """Return whether a value behind a dial is what the dial says: nobody has changed it by hand."""
    wanted = said(shot, node, drive)
    return wanted is not None and _same(value_behind(shot, drive.path), wanted)


def left(shot: Shot, node: Node) -> tuple[Drive, ...]:
    """Return the values that have left their dial, and those that are gone."""
    kind = front_kind(node)
    if kind is None or kind.fills_plate:
        return ()
    return tuple(drive for drive in drives_in(node.values) if not follows(shot, node, drive))


def followed(before: Shot, after: Shot) -> Shot:
    """Return `after` with the values behind every dial that was turned as the dial says now."""
    if after.front is before.front:
        return after
    for node in after.front:
        old = find(before, path_in("front", node.id))
        if isinstance(old, Node) and old.values is not node.values:
            after = _turned(before, after, old, node)
    return after


def _turned(before: Shot, after: Shot, old: Node, node: Node) -> Shot:
    """What followed its dial goes on following it; a value that has just come behind it stays as it is."""
    known = {drive.path: drive for drive in drives_in(old.values)}
    for drive in drives_in(node.values):
        was = known.get(drive.path)
        if was is not None and follows(before, old, was):
            wanted = said(after, node, drive)
            if wanted is not None and not _same(value_behind(after, drive.path), wanted):
                after = with_value_behind(after, drive.path, wanted)
    return after


def written(shot: Shot, node: Node, drives: tuple[Drive, ...]) -> Shot:
    """Return the shot with these values as their dial says: back on it."""
    for drive in drives:
        wanted = said(shot, node, drive)
        if wanted is not None:
            shot = with_value_behind(shot, drive.path, wanted)
    return shot


def drive_of(shot: Shot, path: str, first: bool, standard: Value) -> Drive:
    """Return how a value goes along with a dial: scaled or shifted with it; the first of it is what the dial is."""
    param, value = param_behind(shot, path), value_behind(shot, path)
    if param is None or (first and not isinstance(value, Motion)) or not param.size or _same(value, standard):
        return Drive(path)
    return Drive(path, own=as_text(param, value))


def with_drives(node: Node, drives: tuple[Drive, ...]) -> Node:
    """Return a dial with other values behind it."""
    return msgspec.structs.replace(node, values={**node.values, "drives": drives})


def _same(one: Value, other: Value) -> bool:
    """Whether two values are the same, but for the last digits of numbers."""
    if isinstance(one, Motion) or isinstance(other, Motion):
        return type(one) is type(other) and _alike(one, other)
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(_same(a, b) for a, b in zip(one, other, strict=True))
    numbers = all(isinstance(each, int | float) and not isinstance(each, bool) for each in (one, other))
    return bool(abs(one - other) <= NEAR * max(1.0, abs(one)) if numbers else one == other)


def _alike(one: Value, other: Value) -> bool:
    """Whether two motions hold the same, field by field."""
    if isinstance(one, msgspec.Struct) and type(one) is type(other):
        return all(map(_alike, msgspec.structs.astuple(one), msgspec.structs.astuple(other)))
    if isinstance(one, tuple) and isinstance(other, tuple):
        return len(one) == len(other) and all(map(_alike, one, other))
    return _same(one, other)
