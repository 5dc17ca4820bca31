"""What a person does with the bars of plates: cut at the playhead, laid one after the other, gaps closed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import msgspec

from nimble_quake.conventions import Frames, Seconds
from nimble_quake.errors import NimbleQuakeError
from nimble_quake.media.clips import announced
from nimble_quake.motion.motion import Motion
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.operators.registry import registry
from nimble_quake.render.services import seen_moment
from nimble_quake.render.values.resolving import resolved
from nimble_quake.session.state import Session
from nimble_quake.session.verbs.shot_size import source_of
from nimble_quake.shot.crossings import CROSSING, row_of, strongest
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.bars import slid
from nimble_quake.shot.edits.set_value import set_field, set_value
from nimble_quake.shot.edits.settings import set_shot
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find, id_of, value_path
from nimble_quake.shot.spans import bar_of

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
    start, end = bar_of(plate, session.shot.length)
    if not start < frame < end:
        session.message.emit(f"Put the playhead inside the bar of {session.name_of(path)}")
        return ""
    shot, second = with_cut(session, session.shot, path, frame)
    session.edit(f"Cut {session.name_of(path)}", shot)
    session.select(plate=second)
    return second


def with_cut(session: Session, shot: Shot, path: str, frame: int) -> tuple[Shot, str]:
    """Return a shot with a plate cut at a frame inside its bar, and the path of the later part; see `cut_here`."""
    plate = find(shot, path)
    if not isinstance(plate, Plate):
        return shot, path
    at = shot.plates.index(plate)
    later = msgspec.structs.replace(plate, start=frame, values=_going_on(session, shot, path, plate, frame))
    cut = tuple(msgspec.structs.replace(p, end=frame) if p is plate else p for p in shot.plates)
    shot, second = add_plate(msgspec.structs.replace(shot, plates=cut), later, at)
    for other in shot.plates:
        if other.kind == CROSSING and other.values.get("before") == plate.id and (other.start or 0) >= frame:
            shot = set_value(shot, value_path(f"plates/{other.id}", "before"), id_of(second))
    return shot, second


def _going_on(session: Session, shot: Shot, path: str, plate: Plate, frame: int) -> dict[str, object]:
    """The values of the later part: a clip begins in its media where it is at that frame."""
    kind = registry().get("plate", plate.kind)
    if kind is None or not issubclass(kind, PlateKind) or not kind.plays:
        return dict(plate.values)
    try:
        gone = resolved(kind, plate, seen_moment(session.engine, shot, frame), path).values
    except NimbleQuakeError:
        return dict(plate.values)
    return {**plate.values, "trim": float(gone["trim"]) + float(gone["speed"])}  # its speed is the way gone in its bar


def set_length(session: Session, path: str, frames: int) -> None:
    """Let a bar last so many frames, as one step: it ends later or earlier; a crossing's strongest moment stays."""
    plate = find(session.shot, path) if path else None
    if not isinstance(plate, Plate):
        return
    start, length = plate.start or 0, max(1, frames)
    peak = strongest(session.shot, path)
    if peak is not None and plate.end is not None:
        start = round(peak - (peak - start) / (plate.end - start) * length)
    session.edit(f"Length of {session.name_of(path)}", set_field(session.shot, path, start=start, end=start + length))


# A clip's media in its bar


@dataclass(frozen=True)
class _Media:
    """How a clip lies in its bar. trim, seconds: of its media; speed: seconds of them a second; rate: of the shot."""

    trim: Seconds
    speed: float
    rate: float
    seconds: Seconds


def _media(session: Session, shot: Shot, path: str) -> _Media | None:
    """What is known of a clip's media; None while its file is not open, and where its trim or speed moves or is 0."""
    plate, kind, source = find(shot, path), session.operator(path), source_of(session, path)
    if not isinstance(plate, Plate) or kind is None or not issubclass(kind, PlateKind) or not kind.plays:
        return None
    trim, speed = (kind.given(plate.values, name) for name in ("trim", "speed"))
    if source is None or source.seconds <= 0 or isinstance(trim, Motion) or isinstance(speed, Motion) or speed <= 0:
        return None
    return _Media(trim, speed, float(shot.rate), source.seconds)


def media_span(session: Session, path: str) -> tuple[Frames, Frames] | None:
    """Return the frames where a clip's media begin and end, whatever its bar shows; None where that is not known."""
    plate, media = find(session.shot, path), _media(session, session.shot, path)
    if media is None or not isinstance(plate, Plate):
        return None
    begins = (plate.start or 0) - media.trim / media.speed * media.rate
    return begins, begins + media.seconds / media.speed * media.rate


def trimmed_start(session: Session, shot: Shot, path: str, to: int) -> Shot:
    """Return a shot with a bar that begins at another frame; a clip's media stay where they are, as far as they go."""
    plate, media = find(shot, path), _media(session, shot, path)
    if media is None or not isinstance(plate, Plate):
        return set_field(shot, path, start=to)
    trim = media.trim + (to - (plate.start or 0)) / media.rate * media.speed
    if trim < 0:
        to, trim = to + math.ceil(-trim / media.speed * media.rate - ROUNDED), 0.0
    return set_value(set_field(shot, path, start=to), value_path(path, "trim"), trim)


def slipped(session: Session, shot: Shot, path: str, way: Frames) -> Shot:
    """Return a shot with a clip's media moved by so many frames inside its bar, as far as there are any."""
    media = _media(session, shot, path)
    if media is None:
        return shot
    trim = media.trim - round(way) / media.rate * media.speed
    return set_value(shot, value_path(path, "trim"), min(max(trim, 0.0), media.seconds - media.speed / media.rate))


def in_a_row(session: Session, files: Sequence[Path]) -> list[str]:
    """Add clips one after the other from the playhead, as one step, each as long as its file says, with its sound.

    Each holds its last frame, for a crossing that goes on beyond its end. The shot becomes as long as they need.
    Returns the paths of the plates.
    """
    shot, at, paths = session.shot, session.frame, []
    for file in files:
        says = announced(file)
        end = at + max(1, int(says.seconds * float(shot.rate) + ROUNDED))
        values = {"file": str(file.absolute()), "beyond": "hold"} | ({"heard": True} if says.sound else {})
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
    """Move a plate's bar, and all that begin later, to the end of what goes before it, with their pins. One step."""
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
    later = {each.id for each in session.shot.plates if each.inside == plate.inside and (each.start or 0) >= start}
    shot = slid(session.shot, later, -gap, session.engine.operators.get, pins=True)
    session.edit(f"Close the gap before {session.name_of(path)}", shot)
