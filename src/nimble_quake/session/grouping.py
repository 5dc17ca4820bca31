"""What a person does with groups and live copies, by name: each is one undoable step."""

from __future__ import annotations

from nimble_quake.session.state import Session
from nimble_quake.session.verbs import chosen_with
from nimble_quake.shot import groups
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, id_of, kind_of


def group(session: Session, path: str) -> str:
    """Put a plate, and the plates selected with it, into a new group. Returns its path."""
    ids = [id_of(each) for each in chosen_with(session, path) if kind_of(each) == "plate"]
    shot, made = groups.grouped(session.shot, ids)
    if made:
        session.edit(f"Group {session.name_of(path)}" if len(ids) == 1 else f"Group {len(ids)} plates", shot)
        session.select(plate=made, quake="")
    return made


def ungroup(session: Session, path: str) -> None:
    """Take a group away; what is in it stays."""
    members = groups.members_of(session.shot.plates, id_of(path))
    if not members:
        session.told.emit(f"{session.name_of(path)} holds nothing: only groups can be taken apart")
        return
    session.edit(f"Take {session.name_of(path)} apart", groups.ungrouped(session.shot, id_of(path)))


def take_out(session: Session, path: str) -> None:
    """Take a plate out of its group."""
    shot = groups.taken_out(session.shot, id_of(path))
    if shot is not session.shot:
        session.edit(f"Take {session.name_of(path)} out of its group", shot)


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
