"""Paths: the names of things in a shot, such as `plates/title/quakes/push/reach_x`.

plates/ID                      a plate            maps/ID                 a map
plates/ID/NAME                 a plate's value    maps/ID/steps/ID        a step of its recipe
plates/ID/quakes/ID            a quake            maps/ID/steps/ID/NAME   a step's value
plates/ID/quakes/ID/NAME       a quake's value
"""

from __future__ import annotations

import re
from typing import Any

import msgspec

from nimble_quake.errors import ShotError
from nimble_quake.shot.model import Map, Node, Plate, Shot


def node_path(path: str) -> str:
    """Return the path of the node a path names or lies in."""
    parts = path.split("/")
    deep = len(parts) > 2 and parts[2] in ("quakes", "steps")
    return "/".join(parts[: 4 if deep else 2])


def value_name(path: str) -> str:
    """Return the parameter name at a path's end, or an empty text for a node's own path."""
    rest = path[len(node_path(path)) :]
    return rest.lstrip("/")


def owner_path(path: str) -> str:
    """Return the path of the plate or map that a path lies in."""
    return "/".join(path.split("/")[:2])


def kind_of(path: str) -> str:
    """Return what a path names or lies in: "plate", "quake", "map" or "step"."""
    parts = node_path(path).split("/")
    deep = len(parts) > 2
    return ("quake" if deep else "plate") if parts[0] == "plates" else ("step" if deep else "map")


def find(shot: Shot, path: str) -> Plate | Map | Node | None:
    """Return the plate, map, quake or step a path names or lies in; None where there is none."""
    parts = node_path(path).split("/")
    if len(parts) < 2 or parts[0] not in ("plates", "maps"):
        return None
    owner: Plate | Map | None = shot.plate(parts[1]) if parts[0] == "plates" else shot.map(parts[1])
    if owner is None or len(parts) == 2:
        return owner
    nested = owner.quakes if isinstance(owner, Plate) else owner.recipe
    return next((node for node in nested if node.id == parts[3]), None)


def siblings(shot: Shot, path: str) -> list[str]:
    """Return the paths of all that stand in one row with what a path names, itself among them."""
    own, kind = node_path(path), kind_of(path)
    if kind in ("plate", "map"):
        return [f"{kind}s/{item.id}" for item in (shot.plates if kind == "plate" else shot.maps)]
    head = own.rsplit("/", 1)[0]
    owner = find(shot, owner_path(path))
    nested = owner.quakes if isinstance(owner, Plate) else owner.recipe if isinstance(owner, Map) else ()
    return [f"{head}/{node.id}" for node in nested]


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


def with_node(shot: Shot, path: str, change: Any) -> Shot:
    """Return the shot with the node at a path replaced by `change(node)`; all else is shared."""
    parts = node_path(path).split("/")
    field = parts[0]
    owners = list(getattr(shot, field))
    for index, owner in enumerate(owners):
        if owner.id == parts[1]:
            owners[index] = change(owner) if len(parts) == 2 else _with_nested(owner, parts[3], change)
            return msgspec.structs.replace(shot, **{field: tuple(owners)})
    raise ShotError("there is nothing here", where=path)


def _with_nested(owner: Plate | Map, id: str, change: Any) -> Plate | Map:
    field = "quakes" if isinstance(owner, Plate) else "recipe"
    nested = tuple(change(node) if node.id == id else node for node in getattr(owner, field))
    return msgspec.structs.replace(owner, **{field: nested})


def all_nodes(shot: Shot) -> list[tuple[str, Node]]:
    """Return every operator of a shot with its path, plates first."""
    found: list[tuple[str, Node]] = []
    for plate in shot.plates:
        found.append((f"plates/{plate.id}", plate))
        found += [(f"plates/{plate.id}/quakes/{quake.id}", quake) for quake in plate.quakes]
    for map in shot.maps:
        found += [(f"maps/{map.id}/steps/{step.id}", step) for step in map.recipe]
    return found


def fresh_id(wanted: str, taken: set[str]) -> str:
    """Return an id made from a name, not yet taken: `title`, `title-2`, ..."""
    base = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-")[:40] or "item"
    number, id = 2, base
    while id in taken:
        id, number = f"{base}-{number}", number + 1
    return id
