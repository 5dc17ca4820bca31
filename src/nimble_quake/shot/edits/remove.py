"""Take a plate, map, quake or step out of a shot."""

from __future__ import annotations

from typing import Any

import msgspec

from nimble_quake.shot.edits.brackets import regrouped
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import with_node


def remove(shot: Shot, path: str) -> Shot:
    """Take out what a path names. Quakes that read a removed map keep its name and move nothing."""
    parts = path.split("/")
    if len(parts) == 2:
        kept = tuple(item for item in getattr(shot, parts[0]) if item.id != parts[1])
        return msgspec.structs.replace(shot, **{parts[0]: kept})

    def change(owner: Any) -> Any:
        field = "quakes" if isinstance(owner, Plate) else "recipe"
        kept = tuple(node for node in getattr(owner, field) if node.id != parts[3])
        if field == "recipe":
            kept = regrouped(kept)
        return msgspec.structs.replace(owner, **{field: kept})

    return with_node(shot, "/".join(parts[:2]), change)
