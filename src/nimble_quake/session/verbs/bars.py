"""What a person does with the bars of plates: cut at the playhead."""

from __future__ import annotations

import msgspec

from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, id_of, value_path


def cut_here(session: Session, path: str) -> str:
    """Cut a plate at the playhead, as one step: its end becomes a plate of its own, which is selected.

    A clip goes on where it was; a crossing at its end belongs to the later part. Returns the path of that; empty where
    the playhead is not inside its bar.
    """
    plate, frame = find(session.shot, path) if path else None, session.frame
    if not isinstance(plate, Plate) or plate.kind == CROSSING:
        session.message.emit("Select a plate to cut first")
        return ""
    start, end = plate.start or 0, plate.end if plate.end is not None else session.shot.length
    if not start < frame < end:
        session.message.emit(f"Put the playhead inside the bar of {session.name_of(path)}")
        return ""
    at = session.shot.plates.index(plate)
    later = msgspec.structs.replace(plate, start=frame, values=_going_on(session, path, plate))
    shot = msgspec.structs.replace(
        session.shot,
        plates=tuple(msgspec.structs.replace(p, end=frame) if p is plate else p for p in session.shot.plates),
    )
    shot, second = add_plate(shot, later, at)
    for other in shot.plates:
        if other.kind == CROSSING and other.values.get("before") == plate.id and (other.start or 0) >= frame:
            shot = set_value(shot, value_path(f"plates/{other.id}", "before"), id_of(second))
    session.edit(f"Cut {session.name_of(path)}", shot)
    session.select(plate=second)
    return second


def _going_on(session: Session, path: str, plate: Plate) -> dict[str, object]:
    """The values of the later part: a clip begins in its media where it is at the playhead."""
    operator = session.operator_now(path)
    if not isinstance(operator, PlateKind) or not operator.plays:
        return dict(plate.values)
    gone = operator.values  # its speed is the way gone since its bar began
    return {**plate.values, "trim": float(gone["trim"]) + float(gone["speed"])}
