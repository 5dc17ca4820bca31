"""Crossings made, laid from starters, and put where two plates meet: each is one undoable step."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from nimble_quake.conventions import Frames
from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import Drive, drives_in
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING, effects_of, row_of, span_of, with_courses, with_strongest
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.fragment import fragment_of, renamed_node
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import fresh_id, id_of, kind_of, map_path, nested_path, node_path, plate_path
from nimble_quake.shot.refit import Change, refitted
from nimble_quake.shot.spans import bar_of

SECONDS = 1.0
"""How long a new crossing is, where the bars do not say it."""
Sides = tuple[str, str]
"""The ids of the plate that goes and of the one that comes; empty for none."""


def sides(session: Session) -> Sides:
    """Return which plates meet: the two that are selected, or the selected one and the next in time. Empty for none.

    A plate that meets no other arrives or leaves.
    """
    shot = session.shot
    marked = [id_of(path) for path in session.selection.marked if kind_of(path) == "plate"]
    chosen = id_of(session.selection.plate)
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


def _arrives(session: Session, plate: Plate) -> bool:
    """Whether a plate alone would arrive: what it does not do yet, else by the half of its bar the playhead is in."""
    crossed = {(p.values.get("before"), p.values.get("after")) for p in session.shot.plates if p.kind == CROSSING}
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


def _can_cross(shot: Shot, pair: Sides) -> bool:
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


def new_crossing(session: Session, pair: Sides | None = None) -> str:
    """Cross two plates by a dissolve, as a step, and select it. Returns its path; empty where nothing meets."""
    shot, path = with_crossing(session.shot, pair or sides(session), {})
    return _taken(session, shot, path, "Crossing")


def with_crossing(shot: Shot, pair: Sides, values: Mapping[str, object], name: str = "Crossing") -> tuple[Shot, str]:
    """Return the shot with a crossing above the plates it crosses, and its path; empty where there is no plate."""
    if not _can_cross(shot, pair):
        return shot, ""
    shot, start, end = meeting(shot, pair, SECONDS * float(shot.rate))
    known = [n for n, plate in enumerate(shot.plates) if plate.id in pair]
    inside = shot.plates[known[0]].inside
    plate = Plate(
        id="crossing",
        name=name,
        kind=CROSSING,
        start=start,
        end=end,
        inside=inside,
        values={**values, "before": pair[0], "after": pair[1]},
    )
    shot, path = add_plate(shot, with_courses(plate), known[0])
    return shot, path


def lay_crossing(session: Session, starter: Shot, title: str, pair: Sides | None = None) -> str:
    """Put a starter's crossing between two plates, with its maps, its effects and its dials, as a step."""
    shot, path = with_laid(session.shot, starter, pair or sides(session), title)
    return _taken(session, shot, path, title)


def cuts(shot: Shot, inside: str = "") -> list[Sides]:
    """Return the pairs of plates that follow each other and meet, in time, where no crossing lies yet."""
    crossed = {(p.values.get("before"), p.values.get("after")) for p in shot.plates if p.kind == CROSSING}
    found = []
    for plate in row_of(shot, inside):
        after = _next_in_time(shot, plate)
        second = shot.plate(after) if after else None
        meets = second is not None and plate.end is not None and (second.start or 0) <= plate.end
        if meets and (plate.id, after) not in crossed:
            found.append((plate.id, after))
    return found


def at_every_cut(session: Session) -> int:
    """Lay the selected crossing at every other cut too, as one step. Returns how many were laid."""
    crossing = session.shot.plate(id_of(session.selection.plate))
    if crossing is None or crossing.kind != CROSSING:
        session.message.emit("Select a crossing first")
        return 0
    starter, shot, count = _alone_with(session, crossing), session.shot, 0
    for pair in cuts(shot, crossing.inside):
        made, path = with_laid(shot, starter, pair, crossing.name)
        shot, count = (made, count + 1) if path else (shot, count)
    if not count:
        session.message.emit("No other plates meet: let their bars overlap or touch")
        return 0
    session.edit(f"{crossing.name} at {count} more {'cut' if count == 1 else 'cuts'}", shot)
    return count


def _alone_with(session: Session, crossing: Plate) -> Shot:
    """A shot of a crossing and its two plates, with the maps that it and its sides' effects read."""
    shot = session.shot
    own = [nested_path(plate_path(plate.id), effect.id) for plate, effect in effects_of(shot, crossing.id)]
    kinds = session.engine.operators.get
    pieces = [fragment_of(shot, [plate_path(crossing.id)], kinds), *(fragment_of(shot, [path], kinds) for path in own)]
    read = {map.id for piece in pieces for map in piece.shot.maps}
    sides = (crossing.values.get("before"), crossing.values.get("after"))
    plates = (crossing, *(plate for plate in shot.plates if plate.id in sides))
    maps = tuple(map for map in shot.maps if map.id in read)
    front = tuple(node for node in shot.front if node.inside == crossing.id)
    return msgspec.structs.replace(shot, plates=plates, maps=maps, front=front)


def strongest_here(session: Session) -> None:
    """Let the selected crossing be strongest at the playhead."""
    crossing = session.shot.plate(id_of(session.selection.plate))
    if crossing is None or crossing.kind != CROSSING:
        session.message.emit("Select a crossing first")
        return
    path = plate_path(crossing.id)
    session.edit(f"{session.name_of(path)} strongest here", with_strongest(session.shot, path, session.frame))


def _taken(session: Session, shot: Shot, path: str, title: str) -> str:
    if not path:
        session.message.emit("Select two plates, or one that another follows, first")
        return ""
    session.edit(f"{title} between two plates", shot)
    session.select(plate=path)
    return path


def crossing_in(shot: Shot) -> Plate | None:
    """Return the crossing of a starter."""
    return next((plate for plate in shot.plates if plate.kind == CROSSING), None)


def with_laid(shot: Shot, starter: Shot, pair: Sides, title: str) -> tuple[Shot, str]:
    """Return the shot with a starter's crossing between two plates; see `lay_crossing`."""
    origin = crossing_in(starter)
    if origin is None or not _can_cross(shot, pair):
        return shot, ""
    length = round(starter.length * float(shot.rate / starter.rate))
    piece = refitted(starter, Change(shot.width, shot.height, shot.rate, length), registry().get)
    crossing = piece.plate(origin.id)
    assert crossing is not None
    first, second = span_of(crossing)
    shot, start, end = meeting(shot, pair, second - first)
    names = _Names(shot, piece, crossing, pair)
    known = [n for n, plate in enumerate(shot.plates) if plate.id in pair]
    values = {**names.renamed("plate", crossing).values, "before": pair[0], "after": pair[1]}
    laid = msgspec.structs.replace(
        crossing,
        id=names.id,
        name=title,
        start=start,
        end=end,
        inside=shot.plates[known[0]].inside,
        values=values,
        effects=tuple(names.renamed("effect", effect) for effect in crossing.effects),
    )
    laid = with_courses(msgspec.structs.replace(laid, values={n: v for n, v in values.items() if n not in OWN_COURSES}))
    plates = [names.sided(plate, (start, end)) for plate in shot.plates]
    plates.insert(known[0], laid)
    maps = tuple(names.map(map) for map in piece.maps)
    found = msgspec.structs.replace(shot, plates=tuple(plates), maps=(*shot.maps, *maps))
    return msgspec.structs.replace(found, front=(*shot.front, *names.fronts(shot))), plate_path(names.id)


OWN_COURSES = ("progress", "strength", "mix")


class _Names:
    """New names for what comes with a crossing, and its sides' effects on the plates it crosses."""

    def __init__(self, shot: Shot, piece: Shot, crossing: Plate, pair: Sides) -> None:
        self.piece = piece
        self._plates = {plate_path(id) for id in pair}
        self.id = fresh_id(crossing.name or CROSSING, {plate.id for plate in shot.plates})
        self._known = {plate_path(crossing.id): plate_path(self.id)}
        taken = {map.id for map in shot.maps}
        for map in piece.maps:
            new = fresh_id(map.id, taken)
            taken.add(new)
            self._known[map_path(map.id)] = map_path(new)
        self._sides: dict[str, list[tuple[str, Node]]] = {}
        for name, id in zip(("before", "after"), pair, strict=True):
            mine = str(crossing.values.get(name, ""))
            if mine and id:
                self._known[plate_path(mine)] = plate_path(id)
                self._side(shot, crossing.id, mine, id)

    def _side(self, shot: Shot, crossing: str, mine: str, id: str) -> None:
        plate = shot.plate(id)
        taken = {effect.id for effect in plate.effects} if plate is not None else set()
        for owner, effect in effects_of(self.piece, crossing):
            if owner.id == mine:
                new = fresh_id(effect.id, taken)
                taken.add(new)
                self._known[nested_path(plate_path(mine), effect.id)] = nested_path(plate_path(id), new)
                self._sides.setdefault(id, []).append((new, effect))

    def of(self, path: str) -> str:
        """The path that a path has in the shot; the longest name that is known counts."""
        known = [old for old in self._known if path == old or path.startswith(old + "/")]
        best = max(known, key=len, default="")
        return self._known[best] + path[len(best) :] if best else path

    def renamed(self, role: str, node: Node) -> Node:
        """An operator that refers to what is in the shot."""
        kind = registry().get(role, node.kind)
        return node if kind is None else renamed_node(kind, node, self.of)

    def map(self, map: Map) -> Map:
        """A map of the crossing in the shot."""
        recipe = tuple(self.renamed("step", step) for step in map.recipe)
        return msgspec.structs.replace(map, id=id_of(self._known[map_path(map.id)]), recipe=recipe)

    def sided(self, plate: Plate, span: tuple[int, int]) -> Plate:
        """A plate with what the crossing does to it after its own effects."""
        new = tuple(
            msgspec.structs.replace(self.renamed("effect", effect), id=id, inside=self.id, span=span)
            for id, effect in self._sides.get(plate.id, ())
        )
        return msgspec.structs.replace(plate, effects=(*plate.effects, *new)) if new else plate

    def fronts(self, shot: Shot) -> list[Node]:
        """The dials of the crossing; slots for its plates stay behind: they are filled."""
        taken, found = {node.id for node in shot.front}, []
        for node in self.piece.front:
            drives = tuple(drive for drive in drives_in(node.values) if self._comes(drive))
            if drives:
                made = self.renamed("front", msgspec.structs.replace(node, values={**node.values, "drives": drives}))
                id = fresh_id(node.id, taken)
                taken.add(id)
                found.append(msgspec.structs.replace(made, id=id, inside=self.id))
        return found

    def _comes(self, drive: Drive) -> bool:
        path = self.of(drive.path)
        return path != drive.path and node_path(path) not in self._plates
