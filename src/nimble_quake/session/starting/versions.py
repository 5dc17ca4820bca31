"""A starter that has become better since: what was made with it stays as it is until the newer one is taken."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec

from nimble_quake.errors import NimbleQuakeError
from nimble_quake.operators.front.turning import front_kind
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import drives_in
from nimble_quake.session.fronts.filling import with_dial
from nimble_quake.session.starting.finding import find_starter
from nimble_quake.session.starting.starters import Starter, laid_as_group, version_of, with_origin
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.carry import is_read
from nimble_quake.session.verbs.front import owner_in_front
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.fragment import Landing, fragment_of, laid
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find, map_path, owner_path, path_in, plate_path
from nimble_quake.shot.refit import Change, refitted


@dataclass(frozen=True)
class Newer:
    """What something was made with, and the newer starter that is there."""

    starter: Starter
    made_with: int
    origin: Node

    @property
    def version(self) -> int:
        """The version that can be taken."""
        return version_of(self.starter)


def newer(session: Session) -> Newer | None:
    """Return the newer starter of what is shown at the front; None where there is none, or it was left alone."""
    owner = owner_in_front(session)
    origins = [node for node in session.shot.front if node.kind == "origin" and node.inside == owner]
    if not origins:
        return None
    (origin, *_), values = origins, origins[0].values
    try:
        starter = find_starter(str(values.get("starter", "")))
    except NimbleQuakeError:
        return None
    found, made_with = version_of(starter), int(values.get("made_with", 1))
    if found <= max(made_with, int(values.get("stays", 0))):
        return None
    return Newer(starter, made_with, origin)


def stay(session: Session, found: Newer) -> None:
    """Leave what was made as it is, and say no more of this version."""
    values = {**found.origin.values, "stays": float(found.version)}
    shot = set_field(session.shot, path_in("front", found.origin.id), values=values)
    session.edit(f"Stay with version {found.made_with}", shot)


def take(session: Session, found: Newer) -> bool:
    """Lay the newer starter in the place of the older one, with its dials and slots as they are, as one step."""
    owner, before = owner_in_front(session), session.shot
    old = [node for node in before.front if node.inside == owner]
    try:
        if owner and before.plate(owner) is not None:
            shot, group = _group_anew(session, found, owner)
        else:
            shot, group = _shot_anew(session, found), ""
    except NimbleQuakeError as wrong:
        session.message.emit(wrong.line())
        return False
    session.edit(f"Take version {found.version} of {found.starter.title}", _as_before(before, shot, old, group))
    if group:
        session.select(plate=plate_path(group))
    return True


def _group_anew(session: Session, found: Newer, owner: str) -> tuple[Shot, str]:
    shot = session.shot
    at = next(n for n, plate in enumerate(shot.plates) if plate.id == owner)
    shot = remove(shot, plate_path(owner))
    shot = msgspec.structs.replace(shot, front=tuple(node for node in shot.front if node.inside != owner))
    for map in session.shot.maps:
        if is_read(session, session.shot, map) and not is_read(session, shot, map):
            shot = remove(shot, map_path(map.id))
    return laid_as_group(shot, found.starter, min(at, len(shot.plates)), 0)


def _shot_anew(session: Session, found: Newer) -> Shot:
    """The whole shot made anew, in the size, rate and length it has."""
    now, new = session.shot, found.starter.shot
    change = Change(now.width, now.height, now.rate, now.length, stretches=True)
    shaped = refitted(new, change, registry().get)
    piece = fragment_of(shaped, [plate_path(plate.id) for plate in shaped.plates], registry().get)
    empty = msgspec.structs.replace(now, plates=(), maps=(), sounds=(), bands=(), front=(), beats=(), markers=())
    shot = laid(empty, piece, Landing(), registry().get)[0]
    front = tuple(msgspec.structs.replace(node, inside="") for node in shot.front)
    return with_origin(msgspec.structs.replace(shot, front=front, name=now.name), found.starter, "")


def _as_before(before: Shot, shot: Shot, old: list[Node], group: str) -> Shot:
    """The newer starter with the dials turned and the slots filled as they were, by their names."""
    for node in old:
        kind = front_kind(node)
        same = (
            each for each in shot.front if each.inside == group and (each.kind, each.name) == (node.kind, node.name)
        )
        new = next(same, None)
        if kind is None or kind.apart or new is None:
            continue
        if kind.fills_plate:
            shot = _filled_as(before, shot, node, new)
        elif kind.kind != "map" and kind.now(node.values) != kind.at_standard(node.values):
            shot = with_dial(shot, new, kind.now(node.values))
    return shot


def _filled_as(before: Shot, shot: Shot, node: Node, new: Node) -> Shot:
    """What was put into a slot, in the newer one's: its kind and its own values, where it lay."""
    ours, theirs = drives_in(node.values), drives_in(new.values)
    plate = find(before, owner_path(ours[0].path)) if ours else None
    if not node.values.get("filled") or not isinstance(plate, Plate) or not theirs:
        return shot
    fields = {"kind": plate.kind, "version": plate.version, "values": plate.values, "name": plate.name}
    shot = set_field(shot, owner_path(theirs[0].path), **fields)
    kept = {name: node.values[name] for name in ("value", "filled") if name in node.values}
    return set_field(shot, path_in("front", new.id), values={**new.values, **kept})
