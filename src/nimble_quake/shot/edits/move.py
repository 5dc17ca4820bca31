"""Change the order of plates, maps, effects or steps."""

from __future__ import annotations

from nimble_quake.shot import groups
from nimble_quake.shot.edits.brackets import landed
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import Row, id_of, kind_of, with_row


def move(shot: Shot, path: str, to: int) -> Shot:
    """Move what a path names to place `to` among its own kind (0: first)."""

    def change(row: Row) -> Row:
        order = _reordered(row, id_of(path), to)
        if kind_of(path) == "plate":
            return groups.landed(order, id_of(path))
        return landed(order, id_of(path)) if kind_of(path) == "step" else order

    return with_row(shot, path, change)


def _reordered(items: Row, id: str, to: int) -> Row:
    moved = [item for item in items if item.id == id]
    rest = [item for item in items if item.id != id]
    return (*rest[:to], *moved, *rest[to:])
