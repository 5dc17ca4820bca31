"""Pins: moving, copying, shaping and removing the keys of several values at once."""

from __future__ import annotations

import msgspec

from nimble_quake.conventions import Values
from nimble_quake.motion.kinds import Ease, Key, Keys, keys_of, with_keys_of
from nimble_quake.params.kinds import Number, Param
from nimble_quake.session.state import Session
from nimble_quake.shot.edits.keys import change_keys, keys_at, with_keys
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import all_nodes, find, found_node, node_path, value_name

Chosen = set[tuple[str, float]]


def has_pin(session: Session, path: str, frame: float) -> bool:
    """Return whether a value has a pin on a frame."""
    if find(session.shot, path) is None:
        return False
    return any(key.frame == frame for key in keys_at(session.shot, path))


def middle_of_range(shot: Shot) -> int:
    """Return the frame in the middle of the range that plays: there what goes and comes back turns."""
    first, end = shot.loop or (0, shot.length)
    return (first + end) // 2


def snap_frames(session: Session) -> list[float]:
    """Return what dragged things snap to: pins, markers, spans of plates, the ends of the shot and of the range that
    plays, and its middle."""
    shot = session.shot
    found = {0.0, float(shot.length), *(float(marker.frame) for marker in shot.markers)}
    found |= {float(edge) for edge in shot.loop or ()} | {float(middle_of_range(shot))}
    found |= set(shot.beats)
    found |= {float(edge) for plate in shot.plates for edge in (plate.start, plate.end) if edge is not None}
    for _, node in all_nodes(shot):
        for value in node.values.values():
            keys = keys_of(value)
            found |= {key.frame for key in keys.keys} if keys is not None else set()
    return sorted(found)


def pin_frames(session: Session) -> list[float]:
    """Return the frames of all pins, in order."""
    frames = {
        key.frame
        for _, node in all_nodes(session.shot)
        for value in node.values.values()
        for key in (keys_of(value) or Keys(())).keys
    }
    return sorted(frames)


def by_path(chosen: Chosen) -> dict[str, set[float]]:
    """Return chosen pins as frames by path."""
    found: dict[str, set[float]] = {}
    for path, frame in chosen:
        found.setdefault(path, set()).add(frame)
    return found


def with_motion(shot: Shot, path: str, motion: Keys) -> Shot:
    """Return the shot with a value's keys replaced."""
    return set_value(shot, path, with_keys_of(found_node(shot, path).values.get(value_name(path)), motion))


def moved(shot: Shot, chosen: Chosen, way: int, raised: str, rise: float, param: Param | None) -> Shot:
    """Return the shot with pins moved by frames; those of the value `raised` also by `rise` in value."""
    for path, frames in by_path(chosen).items():

        def change(key: Key, path: str = path) -> Key:
            value = key.value
            if path == raised and isinstance(param, Number):
                value = param.clamp(value + rise)
                value = round(value, 4)
            return msgspec.structs.replace(key, frame=key.frame + way, value=value)

        shot = change_keys(shot, path, frames, change)
    return shot


def remove_pins(session: Session, chosen: Chosen) -> None:
    """Take pins away; a value without pins stays where its first one held it."""
    shot = session.shot
    for path, frames in by_path(chosen).items():
        shot = change_keys(shot, path, frames, lambda key: None)
    session.edit("Remove pins", shot)


def shaped(shot: Shot, chosen: Chosen, after: str, ease: Ease | None = None) -> Shot:
    """Return the shot with how values go on after pins: smooth, straight, eased (by a Bézier curve) or hold."""
    fields: Values = {"after": after} | ({"ease": ease} if ease else {})
    for path, frames in by_path(chosen).items():
        shot = change_keys(shot, path, frames, lambda key: msgspec.structs.replace(key, **fields))
    return shot


def shape_pins(session: Session, chosen: Chosen, after: str, ease: Ease | None = None) -> None:
    """Set how values go on after pins."""
    session.edit(f"Pins: {after}", shaped(session.shot, chosen, after, ease))


def pins_here(session: Session, row: str) -> Chosen:
    """Return the pins an ease button works on where none is chosen: those of the selected row."""
    if not row or find(session.shot, row) is None or row == node_path(row):
        return set()
    return {(row, key.frame) for key in keys_at(session.shot, row)}


def copied(session: Session, chosen: Chosen) -> list[tuple[str, Key]]:
    """Return copies of pins, with their values' paths."""
    return [
        (path, key)
        for path, frames in by_path(chosen).items()
        for key in keys_at(session.shot, path)
        if key.frame in frames
    ]


def paste(session: Session, copied_pins: list[tuple[str, Key]], row: str = "") -> Chosen:
    """Paste pins so that the first stands at the playhead; onto the selected row where they come from one value."""
    if not copied_pins:
        return set()
    first = min(key.frame for _, key in copied_pins)
    one = len({path for path, _ in copied_pins}) == 1
    shot, chosen = session.shot, set()
    for path, key in copied_pins:
        target = row if one and row and _same_size(session, row, path) else path
        if find(shot, target) is None or target == node_path(target):
            continue
        placed = msgspec.structs.replace(key, frame=key.frame - first + session.frame)
        shot = with_keys(shot, target, (*keys_at(shot, target), placed))
        chosen.add((target, placed.frame))
    session.edit("Paste pins", shot)
    return chosen


def _same_size(session: Session, a: str, b: str) -> bool:
    first, second = session.param(a), session.param(b)
    return first is not None and second is not None and first.size == second.size
