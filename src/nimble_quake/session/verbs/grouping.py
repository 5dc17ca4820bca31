"""What a person does with groups and live copies, by name: each is one undoable step."""

from __future__ import annotations

import msgspec

from nimble_quake.operators.registry import registry
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.effects import draw_mask
from nimble_quake.session.verbs.items import chosen_with
from nimble_quake.shot import groups
from nimble_quake.shot.edits.add import add_effect, add_plate
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, id_of, kind_of, nested_path, real_path, value_path, with_node


def group(session: Session, path: str) -> str:
    """Put a plate, and the plates selected with it, into a new group. Returns its path."""
    ids = [id_of(each) for each in chosen_with(session, path) if kind_of(each) == "plate"]
    shot, made = groups.grouped(session.shot, ids)
    if made:
        session.edit(f"Group {session.name_of(path)}" if len(ids) == 1 else f"Group {len(ids)} plates", shot)
        session.select(plate=made, quake="")
    elif ids:
        session.message.emit(f"Groups lie in groups up to {groups.MOST_DEEP} deep: take one apart first")
    return made


def ungroup(session: Session, path: str) -> None:
    """Take a group away; what is in it stays."""
    members = groups.members_of(session.shot.plates, id_of(path))
    if not members:
        session.message.emit(f"{session.name_of(path)} holds nothing: only groups can be taken apart")
        return
    session.edit(f"Take {session.name_of(path)} apart", groups.ungrouped(session.shot, id_of(path)))


def take_out(session: Session, path: str) -> None:
    """Take a plate out of its group."""
    shot = groups.taken_out(session.shot, id_of(path))
    if shot is not session.shot:
        session.edit(f"Take {session.name_of(path)} out of its group", shot)


PLANE = "Plane"
"""The name of the effect that plates lie on one plane by."""
LAID = ((0.3, 0.52), (0.7, 0.52), (1.15, 1.0), (-0.15, 1.0))
"""Where the corners of a new plane lie, shares of the frame: like water or ground before a horizon."""


def lay_on_plane(session: Session, path: str) -> str:
    """Lay a plate, and those selected with it, on one plane, whose corners are then dragged in the picture.

    They share one effect, which stands before their couplings: water bends what lies on it. Where one of them lies on
    a plane already, the others come to lie on that. Returns the path of the effect.
    """
    paths = [each for each in chosen_with(session, path) if isinstance(find(session.shot, each), Plate)]
    if not paths:
        session.message.emit("Choose the plates that shall lie on a plane first")
        return ""
    shot, plane = session.shot, next((found for each in paths if (found := _plane_of(session, each))), "")
    for each in paths:
        if _plane_of(session, each):
            continue
        node = Node(id="plane", kind="perspective", name=PLANE, shared=plane)
        if not plane:
            places = (((x * shot.width), (y * shot.height)) for x, y in LAID)
            node = msgspec.structs.replace(node, values=dict(zip(CORNERS, places, strict=True)))
        shot, found = add_effect(shot, each, node, _before_couplings(session, each))
        plane = plane or found
    name = session.name_of(paths[0]) if len(paths) == 1 else f"{len(paths)} plates"
    session.edit(f"Lay {name} on a plane", shot)
    session.select(effect=plane)
    return plane


CORNERS = ("top_left", "top_right", "bottom_right", "bottom_left")


def _plane_of(session: Session, path: str) -> str:
    """The effect that a plate lies on a plane by, where its numbers are; empty where it lies on none."""
    plate = find(session.shot, path)
    effects = plate.effects if isinstance(plate, Plate) else ()
    laid = next((effect for effect in effects if effect.name == PLANE and _has_corners(effect)), None)
    return real_path(session.shot, nested_path(path, laid.id)) if laid is not None else ""


def _has_corners(effect: Node) -> bool:
    kind = registry().get("effect", effect.kind)
    return kind is not None and set(CORNERS) <= set(kind.declared)


def _before_couplings(session: Session, path: str) -> int:
    """Where among its effects the first coupling of a plate stands."""
    plate = find(session.shot, path)
    effects = plate.effects if isinstance(plate, Plate) else ()
    first = (n for n, effect in enumerate(effects) if session.is_quake(nested_path(path, effect.id)))
    return next(first, len(effects))


def split(session: Session, path: str) -> str:
    """Make two plates of one by its mask, subject and rest, that add up to it; without a mask one is drawn first.

    They lie in a group of their own and are added there, so that not even the mask's soft edge shows.
    """
    plate = find(session.shot, path)
    if not isinstance(plate, Plate):
        return ""
    shot, mask = session.shot, str(session.shown(f"{path}/mask") or "")
    if not mask:
        draw_mask(session, of=path)
        session.message.emit("Shape the mask, then split by it")
        return ""
    name = session.name_of(path)
    rest = msgspec.structs.replace(plate, name=f"{name}, rest", values={**plate.values, "mask_invert": True})
    subject = msgspec.structs.replace(
        plate, id="", name=f"{name}, subject", values={**plate.values, "mask_invert": False, "blend": "plus-lighter"}
    )
    shot = with_node(shot, path, lambda _: rest)
    shot, above = add_plate(shot, subject, shot.plates.index(rest))
    shot, made = groups.grouped(shot, [id_of(above), plate.id])
    shot = set_field(set_value(shot, value_path(made, "isolated"), True), made, name=name)
    session.edit(f"Split {name} by its mask", shot)
    session.select(plate=above, quake="")
    return made


def live_copy(session: Session, path: str) -> str:
    """Show a plate or group once more, above it. Returns the copy's path."""
    plate = find(session.shot, path)
    if not isinstance(plate, Plate):
        return ""
    name = f"{session.name_of(path)} again"
    copy = Plate(id="", name=name, kind=groups.COPY, inside=plate.inside, values={"of": plate.id})
    shot, made = add_plate(session.shot, copy, session.shot.plates.index(plate))
    session.edit(f"Live copy of {session.name_of(path)}", shot)
    session.select(plate=made, quake="")
    return made
