"""A piece of a shot that can be laid into another one, with all that it needs.

A fragment is a small shot: what was picked, and the maps, plates, bands and sounds that are read by it, each whole. The
plate or the map that picked effects or steps stood in is there too, as their carrier: it is not laid, and what refers
to it refers to the place they are laid into.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import TypeVar

import msgspec

from nimble_quake.conventions import Frames, Value
from nimble_quake.declared.declared import Declared
from nimble_quake.motion.files import renamed_text
from nimble_quake.motion.kinds import keys_of, with_keys_of
from nimble_quake.motion.motion import Motion
from nimble_quake.params.base import Param, Rename
from nimble_quake.params.drives import Drives, drives_in
from nimble_quake.params.refit import Refit
from nimble_quake.shot import groups
from nimble_quake.shot.edits.brackets import members
from nimble_quake.shot.model import Map, Node, Plate, Shot
from nimble_quake.shot.paths import (
    all_nodes,
    chain_of,
    find,
    fresh_id,
    id_of,
    kind_of,
    map_path,
    nested_path,
    node_path,
    owner_path,
    path_in,
    plate_path,
    with_node,
    with_shared,
)
from nimble_quake.shot.refit import Change, Kinds, moved_in_time, refitted

Operated = TypeVar("Operated", bound=Node)
ROWS = ("maps", "plates", "bands", "sounds", "front")
"""What others refer to."""


@dataclass(frozen=True)
class Fragment:
    """A small shot; the paths of what was picked of it, in their order; and the frame the playhead stood on then."""

    shot: Shot
    picked: tuple[str, ...]
    frame: int = 0

    @property
    def sort(self) -> str:
        """What was picked: plate, effect, step or map; empty for nothing."""
        return kind_of(self.picked[0]) if self.picked else ""


@dataclass(frozen=True)
class Landing:
    """Where a fragment is laid: effects on a plate, steps into a map, each before the item of this number."""

    plate: str = ""
    map: str = ""
    at: int | None = None
    links: bool = False
    """Maps and plates that are in the shot already are shared, not copied."""
    later: Frames = 0
    """Frames that pins and spans are moved by."""


def rows_of(shot: Shot) -> Mapping[str, tuple[Node | Map, ...]]:
    """Return what can be referred to, by row."""
    rows: dict[str, tuple[Node | Map, ...]] = {"maps": shot.maps, "plates": shot.plates, "front": shot.front}
    return {**rows, "bands": shot.bands, "sounds": shot.sounds}


def fragment_of(shot: Shot, paths: Iterable[str], kinds: Kinds, frame: int = 0) -> Fragment:
    """Return what some paths name, all of one sort, with what it needs. Groups bring what is in them."""
    wanted = _with_inner(shot, paths)
    owners = {owner_path(path) for path in wanted if kind_of(path) in ("effect", "step")}
    whole = {path for path in wanted if kind_of(path) in ("plate", "map")}
    referred = needed(shot, wanted, kinds)
    plates = tuple(
        _carrier(shot, plate, wanted) if path in owners and path not in referred | whole else _unshared(shot, plate)
        for plate in shot.plates
        if (path := plate_path(plate.id)) in owners | whole | referred
    )
    maps = tuple(
        _carrier(shot, map, wanted) if path in owners and path not in referred | whole else map
        for map in shot.maps
        if (path := map_path(map.id)) in owners | whole | referred
    )
    bands = tuple(band for band in shot.bands if path_in("bands", band.id) in referred)
    sounds = tuple(sound for sound in shot.sounds if path_in("sounds", sound.id) in referred)
    rows = {"plates": plates, "maps": maps, "bands": bands, "sounds": sounds}
    small = msgspec.structs.replace(shot, **rows, front=(), loop=None, playhead=0, extra={})
    carriers = owners - referred - whole
    return Fragment(msgspec.structs.replace(small, front=_fronts(shot.front, small, carriers)), tuple(wanted), frame)


def _fronts(front: tuple[Node, ...], small: Shot, carriers: set[str]) -> tuple[Node, ...]:
    """The dials and slots that have a value behind them in a smaller shot, with those values alone."""

    def comes(path: str) -> bool:
        return find(small, path) is not None and node_path(path) not in carriers

    found = []
    for node in front:
        drives = tuple(drive for drive in drives_in(node.values) if comes(drive.path))
        if drives:
            found.append(msgspec.structs.replace(node, values={**node.values, "drives": drives}))
    return tuple(found)


def _with_inner(shot: Shot, paths: Iterable[str]) -> list[str]:
    """Paths in the order of the shot, with what lies in groups and brackets."""
    wanted = set(paths)
    for path in tuple(wanted):
        if kind_of(path) == "plate":
            wanted |= {plate_path(plate.id) for plate in groups.within(shot.plates, id_of(path))}
        if kind_of(path) == "step" and isinstance(map := find(shot, owner_path(path)), Map):
            wanted |= {nested_path(owner_path(path), step.id) for step in members(map, id_of(path))}
    nodes = [path for path, _ in all_nodes(shot)] + [map_path(map.id) for map in shot.maps]
    return [path for path in nodes if path in wanted]


def _carrier(shot: Shot, owner: Plate | Map, wanted: list[str]) -> Plate | Map:
    """What effects or steps stood in, with nothing but those."""
    if isinstance(owner, Map):
        path = map_path(owner.id)
        return msgspec.structs.replace(
            owner, recipe=tuple(s for s in owner.recipe if nested_path(path, s.id) in wanted)
        )
    path = plate_path(owner.id)
    effects = tuple(with_shared(shot, e) for e in owner.effects if nested_path(path, e.id) in wanted)
    bare = tuple(msgspec.structs.replace(effect, shared="") for effect in effects)
    return Plate(id=owner.id, name=owner.name, kind="fill", effects=bare)


def _unshared(shot: Shot, plate: Plate) -> Plate:
    """A plate whose effects have values of their own, where the ones they share are not sure to come along."""
    effects = tuple(msgspec.structs.replace(with_shared(shot, e), shared="") if e.shared else e for e in plate.effects)
    return plate if effects == plate.effects else msgspec.structs.replace(plate, effects=effects)


def needed(shot: Shot, wanted: list[str], kinds: Kinds) -> set[str]:
    """Return the paths of all that these refer to, and of what that refers to."""
    found: set[str] = set()
    own = {owner_path(path) for path in wanted if kind_of(path) in ("effect", "step")}
    todo = list(wanted)

    def note(path: str) -> str:
        owner = owner_path(node_path(path))
        if owner not in found | own and find(shot, owner) is not None:
            found.add(owner)
            todo.append(owner)
        return path

    while todo:
        path = todo.pop()
        for role, node in _nodes_at(shot, path):
            kind = kinds(role, node.kind)
            if kind is not None:
                renamed_node(kind, with_shared(shot, node), note)
    return found


def _nodes_at(shot: Shot, path: str) -> list[tuple[str, Node]]:
    """The operators that come along with a path, each with its role."""
    item = find(shot, path)
    if isinstance(item, Map):
        return [("step", step) for step in item.recipe]
    if isinstance(item, Plate):
        plates = (item, *(plate for plate in groups.within(shot.plates, item.id) if plate is not item))
        effects = [("effect", effect) for plate in plates for effect in plate.effects]
        return [*(("plate", plate) for plate in plates), *effects]
    return [(kind_of(path), item)] if isinstance(item, Node) else []


def renamed_node(kind: type[Declared], node: Operated, rename: Rename) -> Operated:
    """Return an operator with what its values refer to under new names."""
    values, aside = (
        {name: _renamed(kind.declared.get(name), value, rename) for name, value in values.items()}
        for values in (node.values, node.aside)
    )
    if (values, aside) == (node.values, node.aside):
        return node
    return msgspec.structs.replace(node, values=values, aside=aside)


def _renamed(param: Param | None, value: Value, rename: Rename) -> Value:
    if param is None:
        return value
    if isinstance(param, Drives):
        value = tuple(replace(d, own=renamed_text(d.own, rename)) if d.own else d for d in value)
    keys = keys_of(value)
    if keys is not None:
        named = keys.of(msgspec.structs.replace(key, value=param.renamed(key.value, rename)) for key in keys.keys)
        value = with_keys_of(value, named) if named != keys else value
    return value.renamed(rename) if isinstance(value, Motion) else param.renamed(value, rename)


def hears_beats(shot: Shot, kinds: Kinds) -> bool:
    """Return whether anything in a shot asks for its beats or markers."""
    for path, node in all_nodes(shot):
        kind = kinds(kind_of(path), node.kind)
        moving = any(value.hears_beats() for value in node.values.values() if isinstance(value, Motion))
        still = {name: node.values.get(name, param.default) for name, param in (kind.declared if kind else {}).items()}
        if moving or (kind is not None and kind(still).hears_beats()):
            return True
    return False


# Laying


def laid(shot: Shot, fragment: Fragment, landing: Landing, kinds: Kinds) -> tuple[Shot, tuple[str, ...]]:
    """Return a shot with a fragment laid into it, and the paths of what was laid.

    It is scaled to the shot's size and keeps its seconds; ids and names are made free. Into an empty shot, or where it
    asks for them, its markers and beats come along, where the shot has none.
    """
    if not fragment.picked:
        return shot, ()
    piece = _fitted(fragment, shot, landing, kinds)
    names = _Names(shot, fragment, landing)

    def renamed(role: str, node: Operated) -> Operated:
        kind = kinds(role, node.kind)
        return node if kind is None else renamed_node(kind, node, names.of)

    def whole_map(map: Map) -> Map:
        recipe = tuple(renamed("step", step) for step in map.recipe)
        return msgspec.structs.replace(map, id=names.id("maps", map.id), recipe=recipe)

    def whole_plate(plate: Plate) -> Plate:
        own, effects = renamed("plate", plate), tuple(renamed("effect", effect) for effect in plate.effects)
        inside = names.id("plates", plate.inside) if plate.inside else ""
        return msgspec.structs.replace(own, id=names.id("plates", plate.id), inside=inside, effects=effects)

    plates = tuple(whole_plate(plate) for plate in piece.plates if plate_path(plate.id) in names.added)
    maps = tuple(whole_map(map) for map in piece.maps if map_path(map.id) in names.added)

    def coming(row: str, nodes: tuple[Node, ...]) -> tuple[Node, ...]:
        ids = {node.id: names.id(row, node.id) for node in nodes if path_in(row, node.id) in names.added}
        role = "front" if row == "front" else "sound"
        return tuple(msgspec.structs.replace(renamed(role, n), id=ids[n.id]) for n in nodes if n.id in ids)

    def belonging(node: Node) -> Node:
        """A dial or slot, with what it belongs to now."""
        known = plate_path(node.inside) in names.known
        alone = names.of(fragment.picked[0]) if role == "plate" and len(fragment.picked) == 1 else ""
        holder = id_of(landing.plate if role == "effect" else alone)
        inside = names.id("plates", node.inside) if known else holder
        return msgspec.structs.replace(node, inside=inside)

    role = fragment.sort
    sounds, bands = coming("sounds", piece.sounds), coming("bands", piece.bands)
    front = tuple(belonging(node) for node in coming("front", piece.front))
    empty = not (shot.plates or shot.maps) or hears_beats(fragment.shot, kinds)
    found = msgspec.structs.replace(
        shot,
        plates=_inserted(shot.plates, plates, fragment, landing, names),
        maps=(*shot.maps, *maps),
        sounds=(*shot.sounds, *sounds),
        bands=(*shot.bands, *bands),
        front=(*shot.front, *front),
        markers=piece.markers if empty and not shot.markers else shot.markers,
        beats=piece.beats if empty and not shot.beats else shot.beats,
    )
    return _with_nodes(found, piece, fragment, landing, names, renamed)


def _fitted(fragment: Fragment, shot: Shot, landing: Landing, kinds: Kinds) -> Shot:
    """A fragment's shot in the size and rate of the one it is laid into, its pins moved."""
    piece = fragment.shot
    if (piece.width, piece.height, piece.rate) != (shot.width, shot.height, shot.rate):
        length = round(piece.length * float(shot.rate / piece.rate))
        piece = refitted(piece, Change(shot.width, shot.height, shot.rate, length), kinds)
    return moved_in_time(piece, Refit((1, 1), (1, 1), later=landing.later), kinds) if landing.later else piece


class _Names:
    """New ids for what comes along; what is shared with the shot, and carriers, keep or lend theirs."""

    def __init__(self, shot: Shot, fragment: Fragment, landing: Landing) -> None:
        self.added: dict[str, str] = {}
        self.known: dict[str, str] = {}
        self._fragment, picked = fragment, set(fragment.picked)
        owners = {owner_path(path) for path in picked if kind_of(path) in ("effect", "step")}
        into = landing.plate if fragment.sort == "effect" else landing.map
        mine = rows_of(shot)
        for row in ROWS:
            taken = {item.id for item in mine[row]}
            for item in rows_of(fragment.shot)[row]:
                path = path_in(row, item.id)
                same = find(shot, path) == item
                if path in owners and path not in picked:
                    self.known[path] = into or path
                elif path not in picked and same and (landing.links or row not in ("maps", "front")):
                    self.known[path] = path
                else:
                    new = fresh_id(item.id, taken)
                    taken.add(new)
                    self.known[path] = self.added[path] = path_in(row, new)
        self.nested = self._nested(shot, into)

    def _nested(self, shot: Shot, into: str) -> dict[str, str]:
        """The paths that picked effects or steps get in the chain they are laid into."""
        owner, found = (find(shot, into) if into else None), {}
        taken = {node.id for node in chain_of(owner)} if isinstance(owner, Plate | Map) else set()
        for path in self._fragment.picked if isinstance(owner, Plate | Map) else ():
            if find(self._fragment.shot, path) is not None:
                new = fresh_id(id_of(path), taken)
                taken.add(new)
                found[path] = nested_path(into, new)
        return found

    def id(self, row: str, id: str) -> str:
        """The id that something has in the shot."""
        return id_of(self.known.get(path_in(row, id), path_in(row, id)))

    def of(self, path: str) -> str:
        """The path that a path has in the shot."""
        node = node_path(path)
        for old, new in ((node, self.nested.get(node)), (owner_path(node), self.known.get(owner_path(node)))):
            if new is not None:
                return new + path[len(old) :]
        return path


def _inserted(
    plates: tuple[Plate, ...], new: tuple[Plate, ...], fragment: Fragment, landing: Landing, names: _Names
) -> tuple[Plate, ...]:
    """The stack with picked plates at their place, and those they read, switched off, at its foot."""
    picked = {id_of(names.known[path]) for path in fragment.picked if kind_of(path) == "plate"}
    seen = tuple(plate for plate in new if plate.id in picked)
    read = tuple(msgspec.structs.replace(plate, on=False) for plate in new if plate.id not in picked)
    at = landing.at if fragment.sort == "plate" and landing.at is not None else 0
    return (*plates[:at], *seen, *plates[at:], *read)


def _with_nodes(
    shot: Shot, piece: Shot, fragment: Fragment, landing: Landing, names: _Names, renamed: Callable[[str, Node], Node]
) -> tuple[Shot, tuple[str, ...]]:
    """The shot with picked effects or steps in their place, and the paths of all that was picked."""
    role = fragment.sort
    if role not in ("effect", "step"):
        return shot, tuple(names.of(path) for path in fragment.picked)
    into = landing.plate if role == "effect" else landing.map
    owner = find(shot, into) if into else None
    if not isinstance(owner, Plate | Map):
        return shot, ()
    chain, ids, new = chain_of(owner), {"": ""}, []
    for path in fragment.picked:
        node = find(piece, path)
        if not isinstance(node, Node):
            continue
        ids[node.id] = id_of(names.nested[path])
        made = renamed(role, node)
        new.append(msgspec.structs.replace(made, id=ids[node.id], inside=ids.get(node.inside, "")))
    at = len(chain) if landing.at is None else min(landing.at, len(chain))
    row = (*chain[:at], *new, *chain[at:])
    put = {"effects": row} if isinstance(owner, Plate) else {"recipe": row}
    found = with_node(shot, into, lambda each: msgspec.structs.replace(each, **put))
    return found, tuple(nested_path(into, node.id) for node in new)
