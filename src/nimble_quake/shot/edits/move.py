"""Change the order of plates, maps, quakes or steps."""

from __future__ import annotations

from typing import Any

import msgspec

from nimble_quake.shot.edits.brackets import landed
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import with_node


def move(shot: Shot, path: str, to: int) -> Shot:
    """Move what a path names to place `to` among its own kind (0: first)."""
    parts = path.split("/")
    if len(parts) == 2:
        return msgspec.structs.replace(shot, **{parts[0]: _reordered(getattr(shot, parts[0]), parts[1], to)})

    def change(owner: Any) -> Any:
        field = "quakes" if isinstance(owner, Plate) else "recipe"
        order = _reordered(getattr(owner, field), parts[3], to)
        return msgspec.structs.replace(owner, **{field: landed(order, parts[3]) if field == "recipe" else order})

    return with_node(shot, "/".join(parts[:2]), change)


def _reordered(items: tuple[Any, ...], id: str, to: int) -> tuple[Any, ...]:
    moved = [item for item in items if item.id == id]
    rest = [item for item in items if item.id != id]
    return (*rest[:to], *moved, *rest[to:])
