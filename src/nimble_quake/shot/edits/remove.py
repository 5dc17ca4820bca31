"""Take a plate, map, effect or step out of a shot."""

from __future__ import annotations

from typing import Any

from nimble_quake.shot.edits.brackets import regrouped
from nimble_quake.shot.edits.share import without_original
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import id_of, kind_of, with_row


def remove(shot: Shot, path: str) -> Shot:
    """Take out what a path names. Quakes that read a removed map keep its name and move nothing."""

    shot = without_original(shot, path)

    def change(row: tuple[Any, ...]) -> tuple[Any, ...]:
        kept = tuple(item for item in row if item.id != id_of(path))
        return regrouped(kept) if kind_of(path) == "step" else kept

    return with_row(shot, path, change)
