"""Take a plate, map, effect or step out of a shot."""

from __future__ import annotations

from nimble_quake.shot import groups
from nimble_quake.shot.edits.brackets import regrouped
from nimble_quake.shot.edits.share import without_original
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import Row, id_of, kind_of, plate_path, with_row


def remove(shot: Shot, path: str) -> Shot:
    """Take out what a path names; with a group goes all that is in it. Quakes that read a removed map keep its name
    and move nothing."""
    if kind_of(path) == "plate":
        for member in groups.within(shot.plates, id_of(path)):
            shot = without_original(shot, plate_path(member.id))
    shot = without_original(shot, path)

    def change(row: Row) -> Row:
        gone = {id_of(path)}
        if kind_of(path) == "plate":
            gone |= {member.id for member in groups.within(row, id_of(path))}
        kept = tuple(item for item in row if item.id not in gone)
        return regrouped(kept) if kind_of(path) == "step" else kept

    return with_row(shot, path, change)
