"""What differs between two shots, found by identity of the shared parts."""

from __future__ import annotations

import msgspec

from nimble_quake.shot.fields import fields_of
from nimble_quake.shot.model import Map, Node, Shot
from nimble_quake.shot.paths import CHAINS, all_nodes

SHAPE = "shape"
"""Plates, maps, effects or steps came, went, moved, or were renamed or switched."""
SETTINGS = "settings"
"""The shot's own size, rate, length, ground, beats, loop or markers."""


def changes(old: Shot, new: Shot) -> set[str]:
    """Return the paths of changed operators, with SHAPE and SETTINGS where those changed."""
    if old is new:
        return set()
    before, after = dict(all_nodes(old)), dict(all_nodes(new))
    changed = {path for path, node in after.items() if before.get(path) is not node}
    before_own, after_own = _own(old), _own(new)
    if before_own != after_own:
        changed.add(SETTINGS)
    if _outline(old) != _outline(new):
        changed.add(SHAPE)
    return changed


def _own(shot: Shot) -> list[object]:
    """What is the shot's own: all but its items with ids, and the playhead."""
    now = msgspec.structs.asdict(shot)
    with_ids = {chain.owners for chain in CHAINS}
    return [now[name] for name, field in fields_of(Shot).items() if field.edited and name not in with_ids]


def _outline(shot: Shot) -> list[object]:
    """What lists show: order, names, switches, kinds, spans, and what refers to what."""
    nodes = [(path, _listed(node), node.values.get("map"), node.values.get("mask")) for path, node in all_nodes(shot)]
    return [nodes, [_listed(map) for map in shot.maps]]


def _listed(item: Node | Map) -> list[object]:
    now = msgspec.structs.asdict(item)
    return [now[name] for name, field in fields_of(type(item)).items() if field.listed]
