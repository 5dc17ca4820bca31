"""Change the shot itself: size, rate, length, ground, markers, loop."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.shot.model import Marker, Shot


def set_shot(shot: Shot, **fields: Value) -> Shot:
    """Set fields of the shot. A loop outside a new length is dropped."""
    changed = msgspec.structs.replace(shot, **fields)
    if changed.loop and changed.loop[1] > changed.length:
        changed = msgspec.structs.replace(changed, loop=None)
    return changed


def put_marker(shot: Shot, frame: int, name: str) -> Shot:
    """Set or rename the marker on a frame."""
    others = [marker for marker in shot.markers if marker.frame != frame]
    return _with_markers(shot, [*others, Marker(frame=frame, name=name)])


def move_marker(shot: Shot, frame: int, to: int) -> Shot:
    """Move the marker on a frame to another."""
    return _with_markers(shot, [_moved(m, to) if m.frame == frame else m for m in shot.markers if m.frame != to])


def remove_marker(shot: Shot, frame: int) -> Shot:
    """Take the marker on a frame away."""
    return _with_markers(shot, [marker for marker in shot.markers if marker.frame != frame])


def _moved(marker: Marker, to: int) -> Marker:
    return msgspec.structs.replace(marker, frame=to)


def _with_markers(shot: Shot, markers: list[Marker]) -> Shot:
    return msgspec.structs.replace(shot, markers=tuple(sorted(markers, key=lambda marker: marker.frame)))
