"""Groups: plates taken together. A group is a plate that others name in `inside`; they follow it in the stack.

Groups may lie in groups. What names no group, or closes a loop, stands free.
"""

from __future__ import annotations

import msgspec

from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import fresh_id, plate_path

GROUP, COPY = "group", "copy"


def holder_of(plates: tuple[Plate, ...], plate: Plate) -> Plate | None:
    """Return the group a plate lies in; None where it stands free."""
    first = holder = _named(plates, plate)
    passed = {plate.id}
    while holder is not None:
        if holder.id in passed:
            return None
        passed.add(holder.id)
        holder = _named(plates, holder)
    return first


def _named(plates: tuple[Plate, ...], plate: Plate) -> Plate | None:
    if not plate.inside:
        return None
    return next((other for other in plates if other.id == plate.inside and other.kind == GROUP), None)


def members_of(plates: tuple[Plate, ...], id: str) -> tuple[Plate, ...]:
    """Return the plates that lie in a group, the top one first; with an empty id, those that stand free."""
    found = []
    for plate in plates:
        holder = holder_of(plates, plate) if plate.inside else None
        if (holder.id if holder is not None else "") == id:
            found.append(plate)
    return tuple(found)


def holders_of(plates: tuple[Plate, ...], plate: Plate) -> list[Plate]:
    """Return the groups a plate lies in, the innermost first."""
    holder = holder_of(plates, plate)
    return [] if holder is None else [holder, *holders_of(plates, holder)]


def within(plates: tuple[Plate, ...], id: str) -> tuple[Plate, ...]:
    """Return all plates in a group, those of groups inside it too, in order."""
    if not any(plate.inside for plate in plates):
        return () if id else plates
    found: list[Plate] = []
    for member in members_of(plates, id):
        found += [member, *within(plates, member.id)]
    return tuple(found)


def in_order(plates: tuple[Plate, ...]) -> tuple[Plate, ...]:
    """Return plates in which the members of every group follow it; what names no group stands free."""
    out = within(plates, "")
    return tuple(
        msgspec.structs.replace(plate, inside="") if plate.inside and holder_of(plates, plate) is None else plate
        for plate in out
    )


def landed(plates: tuple[Plate, ...], id: str) -> tuple[Plate, ...]:
    """Return plates after one was moved: among a group's members it belongs to it, elsewhere it stands free.

    Right behind a group's head it lies in the group; right behind the last member it stays in only if it was there.
    """
    at = next((n for n, plate in enumerate(plates) if plate.id == id), -1)
    if at < 0:
        return in_order(plates)
    own = {id, *(plate.id for plate in within(plates, id))}
    rest = [plate for plate in plates if plate.id not in own or plate.id == id]
    at = next(n for n, plate in enumerate(rest) if plate.id == id)
    above = rest[at - 1] if at else None
    below = rest[at + 1] if at + 1 < len(rest) else None
    head = "" if above is None else above.id if above.kind == GROUP else above.inside
    first = above is not None and above.kind == GROUP
    between = below is not None and below.inside == head
    within_it = bool(head) and (first or between or rest[at].inside == head)
    outer = next((plate.inside for plate in rest if plate.id == head), "")
    moved = msgspec.structs.replace(rest[at], inside=head if within_it else outer)
    return in_order((*rest[:at], moved, *rest[at + 1 :], *(plate for plate in plates if plate.id in own - {id})))


def grouped(shot: Shot, ids: list[str]) -> tuple[Shot, str]:
    """Put plates into a new group, where the top one of them was. Returns the shot and the group's path."""
    plates = shot.plates
    taken = [plate for plate in plates if plate.id in ids]
    if not taken:
        return shot, ""
    top = taken[0]
    id = fresh_id(GROUP, {plate.id for plate in plates})
    moved = {plate.id for plate in taken if plate.inside not in ids}  # what lies in a group that goes along stays there
    head = Plate(id=id, name="Group", kind=GROUP, inside=top.inside)
    out: list[Plate] = []
    for plate in plates:
        if plate is top:
            out.append(head)
        out.append(msgspec.structs.replace(plate, inside=id) if plate.id in moved else plate)
    return msgspec.structs.replace(shot, plates=in_order(tuple(out))), plate_path(id)


def ungrouped(shot: Shot, id: str) -> Shot:
    """Take a group away; its members stand where it stood."""
    head = shot.plate(id)
    if head is None or head.kind != GROUP:
        return shot
    freed = tuple(
        msgspec.structs.replace(plate, inside=head.inside) if plate.inside == id else plate
        for plate in shot.plates
        if plate.id != id
    )
    return msgspec.structs.replace(shot, plates=in_order(freed))


def taken_out(shot: Shot, id: str) -> Shot:
    """Take a plate out of its group: it stands right above it."""
    plate = shot.plate(id)
    holder = holder_of(shot.plates, plate) if plate is not None else None
    if plate is None or holder is None:
        return shot
    out: list[Plate] = []
    for other in shot.plates:
        if other is holder:
            out.append(msgspec.structs.replace(plate, inside=holder.inside))
        if other is not plate:
            out.append(other)
    return msgspec.structs.replace(shot, plates=in_order(tuple(out)))
