"""Paths: the names of things in a shot, such as `plates/title/effects/push/reach_x`.

plates/ID                      a plate            maps/ID                 a map
plates/ID/NAME                 a plate's value    maps/ID/steps/ID        a step of its recipe
plates/ID/effects/ID           an effect          maps/ID/steps/ID/NAME   a step's value
plates/ID/effects/ID/NAME      an effect's value
sounds/ID                      a sound            bands/ID                a band of the sounds
sounds/ID/NAME                 a sound's value    bands/ID/NAME           a band's value
front/ID                       a dial or slot     front/ID/NAME           its value

This is the only module that takes them apart: others ask it for the owner, the id, the kind or the value's name.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from typing import Any, NamedTuple, TypeAlias, TypeVar

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.motion.kinds import said_by
from nimble_quake.shot.model import Map, Node, Plate, Shot

Owner: TypeAlias = Plate | Map | Node
Row: TypeAlias = tuple[Any, ...]
"""Plates, maps, effects, steps or sounds, in order."""
Holder = TypeVar("Holder", bound=Owner)


SHORT = 12
"""Rows of so many items are gone through; longer ones are looked up."""
MOST_INDEXES = 64


class Chained(NamedTuple):
    """What has a chain of operators: the shot's field that lists it, and its own field and word for the chain."""

    owners: str
    field: str
    word: str
    owner_kind: str
    kind: str


CHAINS = (
    Chained("plates", "effects", "effects", "plate", "effect"),
    Chained("maps", "recipe", "steps", "map", "step"),
    Chained("sounds", "", "", "sound", ""),
    Chained("bands", "", "", "sound", ""),
    Chained("front", "", "", "front", ""),
)
"""All of them; a walk over these is a walk over every operator of a shot. Sounds, bands and dials have no chain."""


class Parts(NamedTuple):
    """A path taken apart; what it does not name is empty."""

    chain: Chained
    owner: str
    id: str = ""
    value: str = ""


@lru_cache(maxsize=16_384)
def parts_of(path: str) -> Parts | None:
    """Return a path taken apart; None where it is none."""
    words = path.split("/")
    chain = next((chain for chain in CHAINS if chain.owners == words[0]), None)
    if chain is None or len(words) < 2:
        return None
    if len(words) > 3 and chain.word and words[2] == chain.word:
        return Parts(chain, words[1], words[3], "/".join(words[4:]))
    return Parts(chain, words[1], "", "/".join(words[2:]))


def plate_path(id: str) -> str:
    """Return the path of the plate of this id."""
    return f"plates/{id}"


def map_path(id: str) -> str:
    """Return the path of the map of this id."""
    return f"maps/{id}"


def path_in(row: str, id: str) -> str:
    """Return the path of what has this id in a row of the shot: plates, maps, sounds or bands."""
    return f"{row}/{id}"


def nested_path(owner: str, id: str) -> str:
    """Return the path of an effect of the plate, or a step of the map, at a path."""
    found = parts_of(owner)
    if found is None or not found.chain.word:
        raise ShotError("there is nothing here", where=owner)
    return f"{owner_path(owner)}/{found.chain.word}/{id}"


def path_beside(path: str, id: str) -> str:
    """Return the path of what has this id in the row of what a path names: a plate, a map, a sound, a dial."""
    found = parts_of(path)
    return path if found is None else f"{found.chain.owners}/{id}"


def value_path(node: str, name: str) -> str:
    """Return the path of an operator's value."""
    return f"{node_path(node)}/{name}"


def node_path(path: str) -> str:
    """Return the path of the node a path names or lies in."""
    found = parts_of(path)
    if found is None:
        return path
    return owner_path(path) + (f"/{found.chain.word}/{found.id}" if found.id else "")


def value_name(path: str) -> str:
    """Return the parameter name at a path's end, or an empty text for a node's own path."""
    found = parts_of(path)
    return found.value if found else ""


def owner_path(path: str) -> str:
    """Return the path of the plate or map that a path lies in."""
    found = parts_of(path)
    return f"{found.chain.owners}/{found.owner}" if found else path


def owner_id(path: str) -> str:
    """Return the id of the plate or map that a path lies in; empty for no path."""
    found = parts_of(path)
    return found.owner if found else ""


def id_of(path: str) -> str:
    """Return the id of the plate, map, effect or step a path names or lies in."""
    found = parts_of(path)
    return (found.id or found.owner) if found else ""


def kind_of(path: str) -> str:
    """Return what a path names or lies in: "plate", "effect", "map", "step", "sound" or "front"; empty for no path."""
    found = parts_of(path)
    if found is None:
        return ""
    return found.chain.kind if found.id else found.chain.owner_kind


def chain_of(owner: Owner) -> tuple[Node, ...]:
    """Return the effects of a plate, or the steps of a map."""
    if isinstance(owner, Plate):
        return owner.effects
    return owner.recipe if isinstance(owner, Map) else ()


def with_chain(owner: Holder, nodes: tuple[Node, ...]) -> Holder:
    """Return a plate with these effects, or a map with these steps."""
    return msgspec.structs.replace(owner, **{"effects" if isinstance(owner, Plate) else "recipe": nodes})


def find(shot: Shot, path: str) -> Plate | Map | Node | None:
    """Return the plate, map, effect or step a path names or lies in; None where there is none."""
    found = parts_of(path)
    if found is None:
        return None
    owner: Owner | None = _of_id(getattr(shot, found.chain.owners), found.owner)
    if owner is None or not found.id:
        return owner
    nested: Node | None = _of_id(chain_of(owner), found.id)
    return nested


_indexes: dict[int, tuple[Row, dict[str, Any]]] = {}
"""Rows of late, each with its items by id. A row never changes; holding it keeps its number from being used again."""


def _of_id(rows: Row, wanted: str) -> Any:
    """The item of an id; None where there is none. Long rows are looked up, not gone through."""
    if len(rows) <= SHORT:
        return next((item for item in rows if item.id == wanted), None)
    kept = _indexes.get(id(rows))
    if kept is None or kept[0] is not rows:
        if len(_indexes) >= MOST_INDEXES:
            _indexes.clear()
        kept = rows, {item.id: item for item in reversed(rows)}
        _indexes[id(rows)] = kept
    return kept[1].get(wanted)


def real_path(shot: Shot, path: str) -> str:
    """Return the path where a node's values really are: another's, where an effect is shared, else its own."""
    node = find(shot, path)
    if not isinstance(node, Node) or not node.shared or not isinstance(find(shot, node.shared), Node):
        return path
    name = value_name(path)
    return value_path(node.shared, name) if name else node.shared


def with_shared(shot: Shot, node: Node) -> Node:
    """Return a node with the kind and values it shares; one that shares nothing, or nothing that is left, as it is."""
    original = find(shot, node.shared) if node.shared else None
    if not isinstance(original, Node):
        return node
    return msgspec.structs.replace(node, kind=original.kind, version=original.version, values=original.values)


def siblings(shot: Shot, path: str) -> list[str]:
    """Return the paths of all that stand in one row with what a path names, itself among them."""
    found = parts_of(path)
    if found is None:
        return []
    if not found.id:
        return [f"{found.chain.owners}/{item.id}" for item in getattr(shot, found.chain.owners)]
    owner = find(shot, owner_path(path))
    return [nested_path(path, node.id) for node in chain_of(owner)] if isinstance(owner, Plate | Map) else []


def same_row(path: str, other: str) -> bool:
    """Return whether two paths name things of one row: plates, maps, or what stands in one chain."""
    here, there = parts_of(path), parts_of(other)
    if here is None or there is None or here.chain != there.chain or bool(here.id) != bool(there.id):
        return False
    return not here.id or here.owner == there.owner


def neighbour(shot: Shot, path: str) -> str:
    """Return the path of what stands after, else before; empty where it stands alone."""
    row = siblings(shot, path)
    at = row.index(node_path(path)) if node_path(path) in row else -1
    near = row[at + 1 : at + 2] or row[max(0, at - 1) : at]
    return near[0] if at >= 0 and near else ""


def found_node(shot: Shot, path: str) -> Node:
    """Return the operator at a path. Raises ShotError where there is none."""
    node = find(shot, path)
    if not isinstance(node, Node):
        raise ShotError("there is nothing here", where=path)
    return node


def with_node(shot: Shot, path: str, change: Callable[[Any], Any]) -> Shot:
    """Return the shot with the node at a path replaced by `change(node)`; all else is shared."""
    found = parts_of(path)
    if found is not None:
        owners = list(getattr(shot, found.chain.owners))
        for index, owner in enumerate(owners):
            if owner.id == found.owner:
                owners[index] = _with_nested(owner, found.id, change) if found.id else change(owner)
                return msgspec.structs.replace(shot, **{found.chain.owners: tuple(owners)})
    raise ShotError("there is nothing here", where=path)


def with_row(shot: Shot, path: str, change: Callable[[Row], Row]) -> Shot:
    """Return the shot with the row that holds what a path names (plates, maps, effects or steps) changed."""
    found = parts_of(path)
    if found is None:
        raise ShotError("there is nothing here", where=path)
    if not found.id:
        return msgspec.structs.replace(shot, **{found.chain.owners: change(getattr(shot, found.chain.owners))})
    return with_node(shot, owner_path(path), lambda owner: with_chain(owner, change(chain_of(owner))))


def _with_nested(owner: Owner, id: str, change: Callable[[Any], Any]) -> Owner:
    changed: Owner = with_chain(owner, tuple(change(node) if node.id == id else node for node in chain_of(owner)))
    return changed


def all_nodes(shot: Shot) -> list[tuple[str, Node]]:
    """Return every operator of a shot with its path, plates first."""
    found: list[tuple[str, Node]] = []
    for chain in CHAINS:
        for owner in getattr(shot, chain.owners):
            path = f"{chain.owners}/{owner.id}"
            if isinstance(owner, Node):
                found.append((path, owner))
            found += [(nested_path(path, node.id), node) for node in chain_of(owner)]
    return found


def fresh_id(wanted: str, taken: set[str]) -> str:
    """Return an id made from a name, not yet taken: `title`, `title-2`, ..."""
    base = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-")[:40] or "item"
    number, id = 2, base
    while id in taken:
        id, number = f"{base}-{number}", number + 1
    return id


def readers_of(shot: Shot, map_id: str) -> list[str]:
    """Return the paths of the effects that read a map as their map."""
    found = shot.users_of(map_id)
    return [
        f"{plate_path(plate.id)}/effects/{effect.id}"
        for plate, effect in found
        if map_id in said_by(effect.values.get("map"))
    ]
