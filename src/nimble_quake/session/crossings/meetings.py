"""Where plates meet in time: which two would be crossed, and over how many frames."""

from __future__ import annotations

from nimble_quake.conventions import Frames
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING, row_of
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import id_of, kind_of, plate_path
from nimble_quake.shot.spans import bar_of

SECONDS = 1.0
"""How long a new crossing is, where the bars do not say it."""
Sides = tuple[str, str]
"""The ids of the plate that goes and of the one that comes; empty for none."""


def sides(session: Session) -> Sides:
    """Return which plates meet: the two that are selected, or the selected one and the next in time. Empty for none.

    A plate that meets no other arrives or leaves. A crossing stands for the plate it leads to: the next one goes on.
    """
    shot = session.shot
    marked = [id_of(path) for path in session.selection.marked if kind_of(path) == "plate"]
    chosen = _led_to(shot, id_of(session.selection.plate))
    ids = list(dict.fromkeys([*marked, chosen])) if len(marked) > 1 else [chosen]
    plates = [plate for plate in shot.plates if plate.id in ids and plate.kind != CROSSING]
    if len(plates) == 2:
        first, second = sorted(plates, key=lambda plate: (plate.start or 0, shot.plates.index(plate) * -1))
        return first.id, second.id
    if not plates:
        return "", ""
    mine = plates[0]
    later, earlier = _next_in_time(shot, mine), _before_in_time(shot, mine)
    if not later and not earlier:
        return ("", mine.id) if _arrives(session, mine) else (mine.id, "")
    return (earlier, mine.id) if earlier and not later else (mine.id, later)


def _led_to(shot: Shot, id: str) -> str:
    """A plate itself; of a crossing the plate that comes, or the one that goes where none does."""
    plate = shot.plate(id)
    if plate is None or plate.kind != CROSSING:
        return id
    return str(plate.values.get("after") or plate.values.get("before") or "")


def _arrives(session: Session, plate: Plate) -> bool:
    """Whether a plate alone would arrive: what it does not do yet, else by the half of its bar the playhead is in."""
    crossed = crossed_by(session.shot)
    arrives = any(after == plate.id and not before for before, after in crossed)
    leaves = any(before == plate.id and not after for before, after in crossed)
    if arrives != leaves:
        return leaves
    start, end = bar_of(plate, session.shot.length)
    return session.frame <= (start + end) / 2  # where it would arrive it is in the first half, however short its bar is


def _next_in_time(shot: Shot, plate: Plate) -> str:
    """The plate that begins next after another; empty where none does."""
    row = row_of(shot, plate.inside)
    later = [each for each in row if each.start is not None and each.start > (plate.start or 0)]
    found = min(later, key=lambda each: each.start or 0, default=None)
    return found.id if found is not None else ""


def _before_in_time(shot: Shot, plate: Plate) -> str:
    """The plate that a later one follows: of those that begin before it the last; empty where none does."""
    start = plate.start or 0
    earlier = [
        each
        for each in row_of(shot, plate.inside)
        if (each.start or 0) < start and (each.end is None or each.end >= start - 1)
    ]
    found = max(earlier, key=lambda each: each.start or 0, default=None)
    return found.id if found is not None else ""


def moment_of_meeting(session: Session) -> int:
    """Return the frame in the middle of where the plates that would be crossed meet."""
    _shot, start, end = meeting(session.shot, sides(session), SECONDS * float(session.shot.rate))
    return (start + end) // 2


def can_cross(shot: Shot, pair: Sides) -> bool:
    """Whether there is a plate, and not one and the same on both sides."""
    return any(shot.plate(id) is not None for id in pair) and pair[0] != pair[1]


def meeting(shot: Shot, pair: Sides, frames: Frames) -> tuple[Shot, int, int]:
    """Return the shot with two plates overlapping, and the overlap: theirs, or so many frames round where they meet.

    The first goes on beyond its end with what its media have; where it has none it shows what its end says.
    """
    first, second = shot.plate(pair[0]), shot.plate(pair[1])
    count = max(1, round(frames))
    if first is None or second is None:
        return _alone(shot, first, second, count)
    start = second.start if second.start is not None else max(0, (first.end or shot.length) - count)
    end = first.end if first.end is not None else min(start + count, second.end or shot.length)
    if end <= start:
        end = start + count
    shot = set_field(shot, plate_path(first.id), end=end)
    return set_field(shot, plate_path(second.id), start=start), start, end


def _alone(shot: Shot, first: Plate | None, second: Plate | None, count: int) -> tuple[Shot, int, int]:
    """A plate that arrives at its beginning, or leaves at its end."""
    if second is not None:
        start = second.start or 0
        return shot, start, min(start + count, second.end or shot.length)
    end = first.end if first is not None and first.end is not None else shot.length
    return shot, max((first.start or 0) if first is not None else 0, end - count), end


def crossed_by(shot: Shot) -> dict[Sides, Plate]:
    """Return the crossings of a shot by the plates they cross."""
    crossings = (plate for plate in shot.plates if plate.kind == CROSSING)
    return {(str(each.values.get("before", "")), str(each.values.get("after", ""))): each for each in crossings}


def pairs(shot: Shot, inside: str = "") -> list[Sides]:
    """Return the plates that follow each other and meet, in time, crossed or not."""
    found = []
    for plate in row_of(shot, inside):
        after = _next_in_time(shot, plate)
        second = shot.plate(after) if after else None
        if second is not None and plate.end is not None and (second.start or 0) <= plate.end:
            found.append((plate.id, after))
    return found


def cuts(shot: Shot, inside: str = "") -> list[Sides]:
    """Return the pairs of plates that follow each other and meet, in time, where no crossing lies yet."""
    crossed = crossed_by(shot)
    return [pair for pair in pairs(shot, inside) if pair not in crossed]


def nearest(shot: Shot, frame: Frames, id: str = "") -> Sides:
    """Return which plates would be crossed at a frame: those whose cut is nearest, or one that arrives or leaves there.

    id: of the plate that is meant; empty: any. Where a crossing is meant it is the two that it crosses. Empty for none.
    """
    for sides_of, crossing in crossed_by(shot).items():
        if crossing.id == id:
            return sides_of
    plates = [plate for plate in shot.plates if plate.kind != CROSSING and id in ("", plate.id)]
    places: dict[Sides, Frames] = {}
    for inside in dict.fromkeys(plate.inside for plate in plates):
        for pair in pairs(shot, inside):
            second = shot.plate(pair[1])
            if id in ("", *pair) and second is not None:
                places[pair] = second.start or 0
    comes, goes = {pair[1] for pair in places}, {pair[0] for pair in places}
    for plate in plates:
        start, end = bar_of(plate, shot.length)
        places |= {("", plate.id): start} if plate.id not in comes else {}
        places |= {(plate.id, ""): end} if plate.id not in goes else {}
    return min(places, key=lambda pair: abs(places[pair] - frame), default=("", ""))
