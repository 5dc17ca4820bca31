"""Set, move, take away and shape the keys of a value."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from nimble_quake.conventions import Value
from nimble_quake.motion.kinds import Key, Keys, keys_of, pins_of, with_keys_of
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import found_node, value_name


def keys_at(shot: Shot, path: str) -> tuple[Key, ...]:
    """Return the keys of the value at a path; none where it does not move by keys."""
    return pins_of(found_node(shot, path).values.get(value_name(path)))


def with_keys(shot: Shot, path: str, keys: Iterable[Key]) -> Shot:
    """Give a value these keys; of two on one frame the later given stays. Without keys it holds its last value."""
    by_frame = {key.frame: key for key in keys}
    ordered = tuple(by_frame[frame] for frame in sorted(by_frame))
    raw, old = found_node(shot, path).values.get(value_name(path)), keys_at(shot, path)
    if ordered:
        return set_value(shot, path, with_keys_of(raw, (keys_of(raw) or Keys(())).of(ordered)))
    return set_value(shot, path, with_keys_of(raw, old[0].value) if old else None)


def set_key(shot: Shot, path: str, frame: float, value: Value) -> Shot:
    """Set the value at a frame: change the key there, or add one that goes on like the one before it."""
    keys = keys_at(shot, path)
    before = [key for key in keys if key.frame <= frame]
    like = before[-1] if before else Key(frame=frame, value=value)
    return with_keys(shot, path, (*keys, msgspec.structs.replace(like, frame=float(frame), value=value)))


def change_keys(shot: Shot, path: str, frames: set[float], change: Callable[[Key], Key | None]) -> Shot:
    """Replace the keys on some frames by `change(key)`, or take them away where it gives None."""
    kept = [key for key in keys_at(shot, path) if key.frame not in frames]
    changed = [change(key) for key in keys_at(shot, path) if key.frame in frames]
    return with_keys(shot, path, [*kept, *(key for key in changed if key is not None)])
