"""Which plates are stacked together: the members of a group that only holds them stand among its own neighbours."""

from __future__ import annotations

from nimble_quake.conventions import Frames
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.render.job import FrameJob
from nimble_quake.shot.groups import holder_of, holders_of, members_of
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import plate_path
from nimble_quake.shot.spans import acts_at


def in_time(plate: Plate, frame: Frames) -> bool:
    """Return whether a frame lies in a plate's bar; as a matte or a picture it may serve others though switched off."""
    return (plate.start is None or frame >= plate.start) and (plate.end is None or frame < plate.end)


def is_there(plate: Plate, frame: Frames) -> bool:
    """Return whether a plate is there at a frame: in its bar, and switched on."""
    return in_time(plate, frame) and acts_at(plate, frame)


def plate_operator(job: FrameJob, plate: Plate) -> PlateKind | None:
    """Return a plate's operator with its numbers."""
    found = job.operator("plate", plate, plate_path(plate.id))
    return found if isinstance(found, PlateKind) else None


def stacked(job: FrameJob, id: str = "") -> tuple[Plate, ...]:
    """Return what is blended in a group (or in the shot), the top one first; groups that pass through are opened."""
    found: list[Plate] = []
    for plate in members_of(job.shot.plates, id):
        if plate.id in taken_in(job):
            continue
        if not _passes(job, plate):
            found.append(plate)
        elif is_there(plate, job.moment.frame):
            found += stacked(job, plate.id)
    return tuple(found)


def opened(job: FrameJob, plate: Plate) -> tuple[Plate, ...]:
    """Return a plate by itself; of a group that passes through what is in it."""
    if not _passes(job, plate):
        return (plate,)
    return stacked(job, plate.id) if is_there(plate, job.moment.frame) else ()


def seen_beneath(job: FrameJob, plate: Plate) -> int | None:
    """Return how many plates there are now beneath a plate that acts on all of them; None for one that does not."""
    operator = plate_operator(job, plate)
    if operator is None or not operator.beneath:
        return None
    holder = next((each.id for each in holders_of(job.shot.plates, plate) if not _passes(job, each)), "")
    row = stacked(job, holder)
    at = next((n for n, each in enumerate(row) if each.id == plate.id), len(row))
    return sum(is_there(each, job.moment.frame) for each in row[at + 1 :])


def taken_in(job: FrameJob) -> frozenset[str]:
    """Return the ids of plates that are not seen by themselves now: a crossing shows them in their place."""
    if job.taken_in is None:
        job.taken_in = frozenset()  # a crossing that is asked for while this is found out is none
        found: set[str] = set()
        for plate in job.shot.plates:
            kind = job.engine.operators.get("plate", plate.kind)
            if kind is None or not issubclass(kind, PlateKind) or not kind.takes_plates:
                continue
            operator = plate_operator(job, plate) if is_there(plate, job.moment.frame) else None
            found |= set(operator.takes_in()) if operator is not None else set()
        job.taken_in = frozenset(found - {""})
    return job.taken_in


def _passes(job: FrameJob, plate: Plate) -> bool:
    """Whether a plate is a group that does nothing but hold its members."""
    operator = plate_operator(job, plate)
    return (
        operator is not None
        and operator.holds
        and operator.passes((job.moment.width, job.moment.height))
        and not any(e.on for e in plate.effects)
    )


def _holder(job: FrameJob, plate: Plate) -> Plate | None:
    """The innermost group that is blended by itself and holds a plate."""
    holder = holder_of(job.shot.plates, plate)
    while holder is not None and _passes(job, holder):
        holder = holder_of(job.shot.plates, holder)
    return holder


def blended_apart(job: FrameJob, plate: Plate) -> bool:
    """Return whether a plate lies in a group that is blended by itself, over nothing."""
    return _holder(job, plate) is not None


def eyes(job: FrameJob) -> list[Plate]:
    """Return the plates that others are seen by, the topmost first."""
    kinds = ((plate, job.engine.operators.get("plate", plate.kind)) for plate in job.shot.plates)
    return [plate for plate, kind in kinds if kind is not None and issubclass(kind, PlateKind) and kind.is_eye]


def below(job: FrameJob, plate: Plate) -> tuple[Plate, ...]:
    """Return what lies beneath a plate, in the innermost group that is blended by itself."""
    holder = _holder(job, plate)
    row = stacked(job, holder.id if holder is not None else "")
    return row[row.index(plate) + 1 :] if plate in row else ()
