"""Values brought to the front: dials and slots made, turned, filled, and taken back."""

from __future__ import annotations

from dataclasses import replace

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.motion.files import as_text
from nimble_quake.motion.kinds import pins_of
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.front.bringing import with_behind, with_front, with_slot
from nimble_quake.operators.front.turning import ON, front_kind, left, param_behind, said, value_behind, written
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import MOST_DRIVES, drives_in
from nimble_quake.params.kinds import Drive, MapRef, MediaFile
from nimble_quake.session.fronts.filling import filled, front_path, with_plate
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import find, fresh_id, id_of, kind_of, node_path, owner_path, real_path, value_name


def owner_in_front(session: Session) -> str:
    """Return the id of the plate or group whose front is shown: the nearest one round what is selected, else "" """
    shot, chosen = session.shot, session.selection.plate
    having = {node.inside for node in shot.front}
    plate = find(shot, chosen) if chosen else None
    while isinstance(plate, Plate):
        if plate.id in having:
            return plate.id
        plate = shot.plate(plate.inside) if plate.inside else None
    if "" in having or not having:
        return ""
    return next(node.inside for node in shot.front)


def in_front(session: Session) -> tuple[Node, ...]:
    """Return the dials and slots that are shown now, slots first."""
    owner = owner_in_front(session)
    mine = [node for node in session.shot.front if node.inside == owner and not _is_apart(node)]
    return tuple(sorted(mine, key=lambda node: not _is_slot(node)))


def _is_apart(node: Node) -> bool:
    kind = front_kind(node)
    return kind is not None and kind.apart


def _is_slot(node: Node) -> bool:
    kind = front_kind(node)
    return kind is not None and kind.slot


def dials_of(session: Session, path: str) -> list[Node]:
    """Return the dials and slots that a value stands behind."""
    path = real_path(session.shot, path)
    return [node for node in session.shot.front if any(each.path == path for each in drives_in(node.values))]


def bring(session: Session, path: str, name: str = "") -> str:
    """Bring a value to the front, as a step. Returns the dial's path; empty where it cannot be."""
    if dials_of(session, path):
        session.message.emit(f"{session.label_of(path)} is at the front already")
        return front_path(dials_of(session, path)[0])
    said_name = name or _name_for(session, path)
    like = session.shown(path) if kind_of(path) and value_name(path) != ON else None
    raw = value_behind(session.shot, path)
    known = None if isinstance(raw, Motion) and pins_of(raw) else like
    shot, dial = with_front(session.shot, path, said_name, owner_in_front(session), known)
    if not dial:
        session.message.emit("This value cannot be a dial: points, nets and exceptions stay behind")
        return ""
    session.edit(f"Bring {session.label_of(path)} to the front", shot)
    return dial


def bring_switch(session: Session, path: str) -> str:
    """Bring to the front whether an effect acts. Returns the dial's path; empty for nothing."""
    return bring(session, f"{node_path(path)}/{ON}") if kind_of(path) == "effect" else ""


def bring_slot(session: Session, path: str) -> str:
    """Make a plate a slot that takes a picture, a clip or words; a title's words are its slot. Returns its path."""
    plate = find(session.shot, path)
    if not isinstance(plate, Plate):
        return ""
    kind = registry().get("plate", plate.kind)
    if kind is not None and issubclass(kind, PlateKind) and kind.asks_for:
        return bring(session, f"{path}/{kind.asks_for}")
    there = dials_of(session, path)
    if there:
        session.message.emit(f"{session.name_of(path)} is a slot already")
        return front_path(there[0])
    name = session.name_of(path)
    shot, slot = with_slot(session.shot, path, name, owner_in_front(session))
    session.edit(f"Make {name} a slot", shot)
    return slot


def bring_view(session: Session) -> str:
    """Bring to the front what is seen: the result, or a map in its place. Returns the dial's path; empty for no map."""
    shot = session.shot
    if not shot.maps:
        session.message.emit("There is no map to be shown")
        return ""
    first = id_of(session.selection.map) or shot.maps[0].id
    seen, path = add_plate(shot, Plate(id="view", name="Map shown", kind="pattern", on=False, values={"map": first}))
    own = as_text(MapRef(), first)
    drives = (Drive(f"{path}/{ON}"), Drive(f"{path}/map", own=own))
    id = fresh_id("show", {node.id for node in shot.front})
    node = Node(id=id, kind="view", name="Show", inside=owner_in_front(session), values={"drives": drives})
    session.edit("Bring to the front what is seen", msgspec.structs.replace(seen, front=(*seen.front, node)))
    return front_path(node)


def bring_moment(session: Session) -> str:
    """Bring the playhead's moment to the front: pins of the selected plate and its maps go along with it.

    Returns the slot's path; empty where nothing of it has pins.
    """
    shot, plate = session.shot, session.selection.plate
    paths = [path for path in _moving_paths(session, plate) if pins_of(value_behind(shot, path))]
    drives = []
    for path in paths:
        param = param_behind(shot, path)
        if param is not None:
            drives.append(Drive(path, own=as_text(param, value_behind(shot, path))))
    if not drives:
        session.message.emit("Select a plate with pins first: they go along with the moment")
        return ""
    id = fresh_id("moment", {node.id for node in shot.front})
    now = float(session.frame)
    values = {"value": now, "standard": now, "drives": tuple(drives[:MOST_DRIVES])}
    node = Node(id=id, kind="moment", name="Moment", inside=owner_in_front(session), values=values)
    session.edit("Bring this moment to the front", msgspec.structs.replace(shot, front=(*shot.front, node)))
    return front_path(node)


def _moving_paths(session: Session, plate_at: str) -> list[str]:
    """The values that can move of a plate, its effects, and the maps these read."""
    plate = find(session.shot, plate_at) if plate_at else None
    if not isinstance(plate, Plate):
        return []
    nodes: list[tuple[str, Node]] = [
        (plate_at, plate),
        *((f"{plate_at}/effects/{effect.id}", effect) for effect in plate.effects),
    ]
    maps = {effect.values.get(name) for effect in plate.effects for name in ("map", "mask")}
    for map in session.shot.maps:
        if map.id in maps:
            nodes += [(f"maps/{map.id}/steps/{step.id}", step) for step in map.recipe]
    return [f"{path}/{name}" for path, node in nodes for name in node.values]


def _name_for(session: Session, path: str) -> str:
    """What a dial is called at first: the value, and whose it is where that is not plain."""
    node, param = node_path(path), param_behind(session.shot, path)
    label = param.label if param is not None else value_name(path)
    whose = session.name_of(node)
    if value_name(path) == ON:
        return f"{whose} on"
    found = find(session.shot, node)
    kind = registry().get("plate", found.kind) if isinstance(found, Node) else None
    asked = kind.asks_for if kind is not None and issubclass(kind, PlateKind) else ""
    if isinstance(param, MediaFile) or value_name(path) == asked:
        return whose or label
    if label.lower() in (each.name.lower() for each in session.shot.front):
        return f"{whose} {label.lower()}"
    return label


def put_behind(session: Session, dial: str, path: str) -> None:
    """Let another value go along with a dial, scaled or shifted from where it is now."""
    shot = with_behind(session.shot, dial, path)
    if shot is None:
        session.message.emit(f"{session.label_of(path)} is of another sort than {session.name_of(dial)}")
        return
    session.edit(f"{session.label_of(path)} goes along with {session.name_of(dial)}", shot)


def let_go(session: Session, dial: str, path: str) -> None:
    """Take a value from behind a dial; it stays as it is. A dial with nothing behind it goes."""
    node = find(session.shot, dial)
    if not isinstance(node, Node):
        return
    rest = tuple(drive for drive in drives_in(node.values) if drive.path != path)
    if rest:
        shot = set_field(session.shot, dial, values={**node.values, "drives": rest})
        session.edit(f"{session.label_of(path)} stands by itself", shot)
    else:
        take_back(session, dial)


def take_back(session: Session, dial: str) -> None:
    """Take a dial or slot from the front; the values behind it stay as they are."""
    rest = tuple(node for node in session.shot.front if front_path(node) != dial)
    shot = msgspec.structs.replace(session.shot, front=rest)
    session.edit(f"Take {session.name_of(dial)} from the front", shot)


def put_back_on(session: Session, dial: str) -> None:
    """Let what has left a dial, since it was changed by hand, be what the dial says again."""
    node = find(session.shot, dial)
    if isinstance(node, Node):
        session.edit(f"Back on {session.name_of(dial)}", written(session.shot, node, left(session.shot, node)))


def take_as_is(session: Session, dial: str) -> None:
    """Let what was changed by hand go along with its dial from where it is now."""
    node = find(session.shot, dial)
    kind = front_kind(node) if isinstance(node, Node) else None
    if not isinstance(node, Node) or kind is None:
        return
    gone, now = {drive.path for drive in left(session.shot, node)}, kind.now(node.values)
    drives = []
    for drive in drives_in(node.values):
        param = param_behind(session.shot, drive.path)
        if drive.path not in gone:
            drives.append(_from_here(session.shot, node, drive))
        elif param is not None and param.size:
            drives.append(Drive(drive.path, own=as_text(param, value_behind(session.shot, drive.path))))
    values = {**node.values, "drives": tuple(drives), "standard": now}
    session.edit(f"{session.name_of(dial)} from here", set_field(session.shot, dial, values=values))


def _from_here(shot: Shot, node: Node, drive: Drive) -> Drive:
    """A value behind a dial whose standard becomes what it is now."""
    param = param_behind(shot, drive.path)
    if not drive.own or param is None:
        return drive
    return replace(drive, own=as_text(param, said(shot, node, drive)))


def to_standard(session: Session, dial: str) -> None:
    """Turn a dial back to its standard; a slot shows its example again."""
    node = find(session.shot, dial)
    kind = front_kind(node) if isinstance(node, Node) else None
    if isinstance(node, Node) and kind is not None and not kind.fills_plate:
        shot = set_value(session.shot, f"{dial}/value", kind.at_standard(node.values))
        session.edit(f"{session.name_of(dial)} to its standard", shot)


def all_to_standard(session: Session) -> None:
    """Turn all dials that are shown back to their standards, as one step."""
    shot = session.shot
    for node in in_front(session):
        kind = front_kind(node)
        if kind is not None and not kind.slot:
            shot = set_value(shot, f"{front_path(node)}/value", kind.at_standard(node.values))
    session.edit("All dials to their standards", shot)


def make_standard(session: Session, dial: str) -> None:
    """Make what a dial is now its standard."""
    node = find(session.shot, dial)
    kind = front_kind(node) if isinstance(node, Node) else None
    if isinstance(node, Node) and kind is not None and not kind.fills_plate:
        drives = tuple(_from_here(session.shot, node, drive) for drive in drives_in(node.values))
        now = kind.now(node.values)
        still = now.like() if isinstance(now, Motion) else now
        shot = set_field(session.shot, dial, values={**node.values, "standard": still, "drives": drives})
        session.edit(f"Standard of {session.name_of(dial)}", shot)


def fill(session: Session, dial: str, what: Value) -> bool:
    """Fill a slot with a file, words, a map's id or a moment; what is wrong with it is said. Returns whether it is."""
    node = find(session.shot, dial)
    if not isinstance(node, Node):
        return False
    try:
        shot = filled(session.shot, node, what, session.engine)
    except NimbleQuakeError as wrong:
        session.message.emit(wrong.line())
        return False
    session.edit(f"Fill {session.name_of(dial)}", shot)
    return True


def fill_with_plate(session: Session, dial: str, plate: str) -> None:
    """Put a plate of the shot into a slot, with what it has; it leaves its own place in the stack."""
    node = find(session.shot, dial)
    if isinstance(node, Node):
        name = session.name_of(plate)
        session.edit(f"{name} into {session.name_of(dial)}", with_plate(session.shot, node, plate))


def examples(session: Session) -> list[str]:
    """Return the names of the slots in front that show their examples."""
    return [session.name_of(front_path(node)) for node in in_front(session) if is_example(session, node)]


def is_example(session: Session, node: Node) -> bool:
    """Return whether a slot shows its example: nobody has filled it."""
    kind = front_kind(node)
    if kind is None or not kind.slot:
        return False
    if not kind.fills_plate:
        return bool(kind.now(node.values) == kind.at_standard(node.values))
    return not node.values.get("filled")


def whole_name(session: Session, path: str) -> str:
    """Return what a value behind a dial is called, with the plate or map it lies in."""
    label, owner = session.label_of(path), session.name_of(owner_path(node_path(path)))
    return label if label.startswith(owner) else f"{owner}: {label[:1].lower()}{label[1:]}"


def holder_of(session: Session) -> str:
    """Return what the front that is shown belongs to, by name: a plate, a group, or the shot."""
    owner = owner_in_front(session)
    plate = session.shot.plate(owner) if owner else None
    return session.name_of(f"plates/{owner}") if plate is not None else session.shot.name
