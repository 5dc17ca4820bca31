"""Bars of plates: moved with or without what is pinned, and faded at their corners."""

from __future__ import annotations

from collections.abc import Container

import msgspec

from nimble_quake.conventions import Frames
from nimble_quake.params.refit import Refit
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.refit import Kinds, moved_in_time


def slid(shot: Shot, ids: Container[str], way: Frames, kinds: Kinds, *, pins: bool) -> Shot:
    """Return a shot with the bars of some plates moved by so many frames; `pins`: pins and spans in them go along."""
    if not way:
        return shot
    chosen = tuple(plate for plate in shot.plates if plate.id in ids)
    if pins:
        small = msgspec.structs.replace(shot, plates=chosen, maps=(), front=())
        moved = moved_in_time(small, Refit((1, 1), (1, 1), later=way), kinds).plates
    else:
        moved = chosen
    bars = {
        plate.id: msgspec.structs.replace(after, **_later(plate, way))
        for plate, after in zip(chosen, moved, strict=True)
    }
    return msgspec.structs.replace(shot, plates=tuple(bars.get(plate.id, plate) for plate in shot.plates))


def _later(plate: Plate, way: Frames) -> dict[str, int | None]:
    """Where a bar begins and ends then; one that begins with the shot begins later, one to its end ends there still."""
    return {"start": (plate.start or 0) + round(way), "end": None if plate.end is None else plate.end + round(way)}
