"""Bringing a value of a shot to the front: as a dial, as a slot, or behind a dial that is there."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.motion.kinds import pins_of
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.front.base import Front
from nimble_quake.operators.front.turning import drive_of, front_kind, param_behind, value_behind, with_drives
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import drives_in
from nimble_quake.params.kinds import Drive, Param
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find, fresh_id, node_path, owner_path, path_in, real_path


def kind_for(param: Param) -> type[Front] | None:
    """Return the dial or slot that can stand for a value; None where there is none."""
    kinds = sorted(registry().all("front"), key=lambda kind: kind.rank)
    return next((kind for kind in kinds if issubclass(kind, Front) and kind.takes(param)), None)


def with_front(shot: Shot, path: str, name: str, inside: str, like: Value = None) -> tuple[Shot, str]:
    """Return the shot with a value brought to the front, and the dial's path; empty where it cannot be.

    like: what the dial says at first, of a value that moves.
    """
    path = real_path(shot, path)
    param = param_behind(shot, path)
    kind = kind_for(param) if param is not None else None
    if param is None or kind is None:
        return shot, ""
    if kind.fills_plate:
        return with_slot(shot, owner_path(node_path(path)), name, inside)
    value = value_behind(shot, path)
    own = like if like is not None else _greatest(value) if isinstance(value, Motion) else value
    values = kind.begun(param, own, shot.width, shot.height)
    made = Node(id=_free(shot, name or param.label), kind=kind.kind, name=name or param.label, inside=inside)
    node = with_drives(msgspec.structs.replace(made, values=values), (drive_of(shot, path, True, own),))
    return msgspec.structs.replace(shot, front=(*shot.front, node)), path_in("front", node.id)


def with_slot(shot: Shot, plate: str, name: str, inside: str, fit: str = "inside") -> tuple[Shot, str]:
    """Return the shot with a plate as a slot that takes a picture, a clip or words, and the slot's path."""
    found = find(shot, plate)
    if not isinstance(found, Plate):
        return shot, ""
    values = {"drives": (Drive(plate),)} | ({"fit": fit} if fit != "inside" else {})
    node = Node(id=_free(shot, name), kind="picture", name=name, inside=inside, values=values)
    return msgspec.structs.replace(shot, front=(*shot.front, node)), path_in("front", node.id)


def with_behind(shot: Shot, dial: str, path: str) -> Shot | None:
    """Return the shot with another value behind a dial, from where it is now; None where it is of another sort."""
    node, path = find(shot, dial), real_path(shot, path)
    param = param_behind(shot, path)
    kind = front_kind(node) if isinstance(node, Node) else None
    if not isinstance(node, Node) or kind is None or param is None or kind_for(param) is not kind:
        return None
    drives = tuple(each for each in drives_in(node.values) if each.path != path)
    drive, now = drive_of(shot, path, False, kind.now(node.values)), kind.now(node.values)
    values = {**node.values, "drives": (*drives, drive)}
    if drive.own and not isinstance(now, Motion):
        values["standard"] = now  # it goes along from where it is
    return set_field(shot, dial, values=values)


def _free(shot: Shot, name: str) -> str:
    return fresh_id(name, {node.id for node in shot.front})


def _greatest(value: Motion) -> Value:
    """The pin that is farthest from nothing: what a dial of a moving value says."""
    numbers = [key.value for key in pins_of(value) if isinstance(key.value, int | float)]
    return max(numbers, key=abs, default=value.like())
