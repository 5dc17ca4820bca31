"""What differs between two shots, found by identity of the shared parts."""

from __future__ import annotations

from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes

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
    own = ("name", "width", "height", "rate", "length", "ground", "linear", "seamless", "beats", "markers", "loop")
    if any(getattr(old, field) != getattr(new, field) for field in own):
        changed.add(SETTINGS)
    if _outline(old) != _outline(new):
        changed.add(SHAPE)
    return changed


def _outline(shot: Shot) -> list[object]:
    """What lists show: order, names, switches, kinds, spans, and what refers to what."""
    nodes = [
        (
            path,
            node.kind,
            node.name,
            node.on,
            node.inside,
            node.values.get("map"),
            node.values.get("mask"),
            node.shared,
            node.side,
            node.span,
            node.fades,
        )
        for path, node in all_nodes(shot)
    ]
    plates = [(p.id, p.locked, p.start, p.end) for p in shot.plates]
    return [nodes, plates, [(m.id, m.name) for m in shot.maps]]
