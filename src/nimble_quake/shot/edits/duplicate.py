"""Make a copy beside the original."""

from __future__ import annotations

from typing import TypeVar

import msgspec

from nimble_quake.shot.edits.add import add_effect, add_map, add_plate, add_step
from nimble_quake.shot.edits.brackets import BRACKET, members
from nimble_quake.shot.groups import members_of
from nimble_quake.shot.model import Map, Plate, Shot
from nimble_quake.shot.paths import find, fresh_id, id_of, owner_path, path_beside, siblings, with_row

Owner = TypeVar("Owner", Plate, Map)


def duplicate(shot: Shot, path: str) -> tuple[Shot, str]:
    """Copy what a path names. Returns the shot and the copy's path."""
    item = find(shot, path)
    if isinstance(item, Plate):
        return _with_members(shot, item, _renamed(item), shot.plates.index(item))
    if isinstance(item, Map):
        return add_map(shot, _renamed(item))
    if item is None:
        return shot, path
    owner = find(shot, owner_path(path))
    if owner is item:  # a sound, a dial: it stands in a row of its own
        taken = {id_of(each) for each in siblings(shot, path)}
        twin = msgspec.structs.replace(item, id=fresh_id(item.id, taken))
        return with_row(shot, path, lambda row: (*row, twin)), path_beside(path, twin.id)
    if isinstance(owner, Plate):
        return add_effect(shot, owner_path(path), item, owner.effects.index(item) + 1)
    at = owner.recipe.index(item) + 1 if isinstance(owner, Map) else None
    inner = members(owner, item.id) if isinstance(owner, Map) and item.kind == BRACKET else ()
    if at is not None:
        at += len(inner)
    shot, copy = add_step(shot, owner_path(path), item, at)
    for number, step in enumerate(inner, 1):
        within = msgspec.structs.replace(step, inside=id_of(copy))
        shot, _ = add_step(shot, owner_path(path), within, None if at is None else at + number)
    return shot, copy


def _with_members(shot: Shot, plate: Plate, copy: Plate, at: int) -> tuple[Shot, str]:
    """Add a copy of a plate; of a group, with copies of all that is in it."""
    inner = members_of(shot.plates, plate.id)
    shot, path = add_plate(shot, copy, at)
    for member in reversed(inner):
        within = msgspec.structs.replace(member, inside=id_of(path))
        shot, _ = _with_members(shot, member, within, at + 1)
    return shot, path


def _renamed(item: Owner) -> Owner:
    name = f"{item.name} copy" if item.name else ""
    return msgspec.structs.replace(item, id="", name=name)
