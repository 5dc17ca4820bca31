"""Groups: plates taken together. A group is a plate that others name in `inside`; they follow it in the stack.

Groups may lie in groups. What names no group, or closes a loop, stands free.
"""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import fresh_id, plate_path

GROUP, COPY = "group", "copy"
MASTER = "master"
"""The value of a group that scales what all effects in it do."""


MOST_DEEP = 32
"""Groups may lie in groups so deep; what lies deeper stands free."""
LOOP = -2


class Holding:
    """Which group each of some plates lies in, and what lies in each group: found in one pass over them."""

    def __init__(self, plates: tuple[Plate, ...]) -> None:
        self.plates = plates
        self.holders: dict[str, Plate] = {}
        """The group that a plate lies in, by the plate's id; who stands free is not in it."""
        self.members: dict[str, list[Plate]] = {}
        """The plates in a group by its id, the top one first; those that stand free under an empty id."""
        self._groups = {plate.id: plate for plate in reversed(plates) if plate.kind == GROUP}
        self._depths: dict[str, int] = {}
        for plate in plates:
            if plate.inside and self._depth(plate) > 0:
                self.holders[plate.id] = self._groups[plate.inside]
        for plate in plates:
            holder = self.holders.get(plate.id)
            self.members.setdefault("" if holder is None else holder.id, []).append(plate)

    def _depth(self, plate: Plate) -> int:
        """In how many groups a plate lies; 0 where that is too deep, LOOP where they close a loop."""
        row: list[Plate] = []
        passed: set[str] = set()
        now: Plate | None = plate
        while now is not None and now.id not in self._depths:
            if now.id in passed:  # a loop: all that leads into it stands free
                self._depths |= dict.fromkeys(passed, LOOP)
                return LOOP
            passed.add(now.id)
            row.append(now)
            now = self._groups.get(now.inside) if now.inside else None
        depth = -1 if now is None else self._depths[now.id]
        for each in reversed(row):
            depth = LOOP if depth == LOOP else depth + 1 if depth < MOST_DEEP else 0
            self._depths[each.id] = depth
        return self._depths[plate.id]

    def refused(self) -> list[Plate]:
        """Return the plates that name a group and do not lie in it: in a loop, or too deep."""
        return [plate for plate in self.plates if plate.inside in self._groups and plate.id not in self.holders]


_known: tuple[Holding, ...] = ()
"""What was found of the plates that were asked for last."""


def holding(plates: tuple[Plate, ...]) -> Holding:
    """Return which plates lie in which; found once for the same plates."""
    global _known
    for found in _known:
        if found.plates is plates:
            return found
    found = Holding(plates)
    _known = (found, *_known[:7])
    return found


def holder_of(plates: tuple[Plate, ...], plate: Plate) -> Plate | None:
    """Return the group a plate lies in; None where it stands free."""
    return holding(plates).holders.get(plate.id) if plate.inside else None


def members_of(plates: tuple[Plate, ...], id: str) -> tuple[Plate, ...]:
    """Return the plates that lie in a group, the top one first; with an empty id, those that stand free."""
    return tuple(holding(plates).members.get(id, ()))


def holders_of(plates: tuple[Plate, ...], plate: Plate) -> list[Plate]:
    """Return the groups a plate lies in, the innermost first."""
    found: list[Plate] = []
    holder = holder_of(plates, plate)
    while holder is not None:
        found.append(holder)
        holder = holder_of(plates, holder)
    return found


def within(plates: tuple[Plate, ...], id: str) -> tuple[Plate, ...]:
    """Return all plates in a group, those of groups inside it too, in order."""
    members = holding(plates).members
    found: list[Plate] = []
    waiting = list(reversed(members.get(id, ())))
    while waiting:
        plate = waiting.pop()
        found.append(plate)
        waiting += reversed(members.get(plate.id, ()) if plate.kind == GROUP else ())
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
    """Put plates into a new group, where the top one of them was. Returns the shot and the group's path.

    Where groups would lie too deep the shot stays as it is, and the path is empty.
    """
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
    if Holding(tuple(out)).refused():
        return shot, ""
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


def mastered(plates: tuple[Plate, ...], factor_of: Callable[[Plate], float]) -> dict[str, float]:
    """Return by how much the effects of plates are scaled by the groups they lie in, by a plate's id.

    factor_of: what a group's own number is now. Plates that nothing scales are not in it.
    """
    factors = {plate.id: factor_of(plate) for plate in plates if plate.kind == GROUP and MASTER in plate.values}
    if not factors:
        return {}
    holders, found = Holding(plates).holders, {}
    for plate in plates:
        factor, now = 1.0, plate
        for _ in range(MOST_DEEP + 1):
            factor *= factors.get(now.id, 1.0)
            if now.id not in holders:
                break
            now = holders[now.id]
        found[plate.id] = factor
    return {id: factor for id, factor in found.items() if factor != 1}
