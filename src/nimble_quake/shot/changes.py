"""What differs between two shots, found by identity of the shared parts."""

from __future__ import annotations

from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes

SHAPE = "shape"
"""Plates, maps, quakes or steps came, went, moved, or were renamed or switched."""
SETTINGS = "settings"
"""The shot's own size, rate, length, ground, loop or markers."""


def changes(old: Shot, new: Shot) -> set[str]:
    """Return the paths of changed operators, with SHAPE and SETTINGS where those changed."""
    if old is new:
        return set()
    before, after = dict(all_nodes(old)), dict(all_nodes(new))
    changed = {path for path, node in after.items() if before.get(path) is not node}
    own = ("name", "width", "height", "rate", "length", "ground", "markers", "loop")
    if any(getattr(old, field) != getattr(new, field) for field in own):
        changed.add(SETTINGS)
    if _outline(old) != _outline(new):
        changed.add(SHAPE)
    return changed


def _outline(shot: Shot) -> list[object]:
    """What lists show: order, names, switches, kinds, spans and couplings."""
    maps = [(m.id, m.name, [(s.id, s.kind, s.name, s.on, s.inside) for s in m.recipe]) for m in shot.maps]
    plates = [
        (
            p.id,
            p.name,
            p.kind,
            p.on,
            p.locked,
            p.start,
            p.end,
            [(q.id, q.kind, q.name, q.on, q.values.get("map")) for q in p.quakes],
        )
        for p in shot.plates
    ]
    return [maps, plates]
