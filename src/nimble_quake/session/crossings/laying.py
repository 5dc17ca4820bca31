"""Crossings made, and laid from starters where two plates meet: each is one undoable step."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from nimble_quake.operators.registry import registry
from nimble_quake.params.drives import Drive, drives_in
from nimble_quake.session.crossings.meetings import SECONDS, Sides, can_cross, crossed_by, meeting, sides
from nimble_quake.session.state import Session
from nimble_quake.shot.crossings import CROSSING, effects_of, span_of, with_courses, with_strongest
from nimble_quake.shot.edits.add import add_plate
from nimble_quake.shot.edits.remove import remove
from nimble_quake.shot.fragment import needed, renamed_node
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import fresh_id, id_of, kind_of, map_path, nested_path, node_path, plate_path
from nimble_quake.shot.refit import Change, refitted


def new_crossing(session: Session, pair: Sides | None = None) -> str:
    """Cross two plates by a dissolve, as a step, and select it. Returns its path; empty where nothing meets."""
    shot, path = with_crossing(session.shot, pair or sides(session), {})
    return _taken(session, shot, path, "Crossing")


def with_crossing(shot: Shot, pair: Sides, values: Mapping[str, object], name: str = "Crossing") -> tuple[Shot, str]:
    """Return the shot with a crossing above the plates it crosses, and its path; empty where there is no plate."""
    if not can_cross(shot, pair):
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
    """Put a starter's crossing between two plates, with its maps, its effects and its dials, as a step.

    One that lies between them already gives way.
    """
    pair = pair or sides(session)
    there = crossed_by(session.shot).get(pair)
    shot = without_crossing(session.shot, there) if there is not None else session.shot
    shot, path = with_laid(shot, starter, pair, title)
    return _taken(session, shot, path, title)


def without_crossing(shot: Shot, crossing: Plate) -> Shot:
    """Return a shot without a crossing, its sides' effects, its dials, and the maps that nothing else reads."""
    path, kinds = plate_path(crossing.id), registry().get
    own = [nested_path(plate_path(plate.id), effect.id) for plate, effect in effects_of(shot, crossing.id)]
    after = shot
    for each in (path, *own):
        after = remove(after, each)
    after = msgspec.structs.replace(after, front=tuple(node for node in after.front if node.inside != crossing.id))
    kept = needed(after, [plate_path(plate.id) for plate in after.plates], kinds)
    for each in needed(shot, [path, *own], kinds) - kept:
        after = remove(after, each) if kind_of(each) == "map" else after
    return after


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
    if origin is None or not can_cross(shot, pair):
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
