"""What a person does with the bars of plates: cut at the playhead, laid one after the other, gaps closed."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import msgspec

from nimble_quake.media.clips import announced_seconds
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING, row_of
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import find, id_of, plate_path, value_path

ROUNDED = 0.01
"""Frames: a length written in a file's header misses a whole number of frames by less."""


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


def in_a_row(session: Session, files: Sequence[Path]) -> list[str]:
    """Add clips one after the other from the playhead, as one step, each as long as its file says.

    Each holds its last frame, for a crossing that goes on beyond its end. The shot becomes as long as they need.
    Returns the paths of the plates.
    """
    shot, at, paths = session.shot, session.frame, []
    for file in files:
        end = at + max(1, int(announced_seconds(file) * float(shot.rate) + ROUNDED))
        values = {"file": str(file.absolute()), "beyond": "hold"}
        shot, path = add_plate(shot, Plate(id="", name=file.stem, kind="clip", start=at, end=end, values=dict(values)))
        paths.append(path)
        at = end
    if at > shot.length:
        shot = set_shot(shot, length=at)
        session.message.emit(f"The shot is now {at / float(shot.rate):.4g} s long, as the clips are")
    session.edit(f"{len(paths)} clips one after the other", shot)
    session.select(plate=paths[0], quake="")
    return paths


def close_gap(session: Session, path: str) -> None:
    """Move a plate's bar, and all that begin later, to the end of what goes before it. One step."""
    plate = find(session.shot, path) if path else None
    if not isinstance(plate, Plate) or plate.kind == CROSSING:
        session.message.emit("Select the plate after the gap first")
        return
    start = plate.start or 0
    row = row_of(session.shot, plate.inside)
    ends = [each.end for each in row if each.end is not None and each.end <= start]
    gap = start - max(ends, default=0)
    if not gap:
        session.message.emit(f"There is no gap before {session.name_of(path)}")
        return
    shot = session.shot
    for each in session.shot.plates:
        if each.inside == plate.inside and (each.start or 0) >= start:
            bar = {"start": (each.start or 0) - gap, "end": None if each.end is None else each.end - gap}
            shot = set_field(shot, plate_path(each.id), **bar)
    session.edit(f"Close the gap before {session.name_of(path)}", shot)
