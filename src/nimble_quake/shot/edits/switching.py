"""Switch items of a shot from a frame on, by pins that hold."""

from __future__ import annotations

from nimble_quake.shot.edits.keys import keys_at, set_key
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import find, real_path, with_shared
from nimble_quake.shot.spans import ACTS, acts_at


def acts(shot: Shot, path: str, frame: float) -> bool:
    """Return whether a plate, effect or step is switched on at a frame: by its eye, and by its pins."""
    node = find(shot, path)
    return isinstance(node, Node) and acts_at(with_shared(shot, node), frame)


def switched_from(shot: Shot, path: str, frame: float, on: bool) -> Shot:
    """Return the shot with a pin that switches an item, where its values are.

    The first one has another at the start, which keeps what was before.
    """
    before, value = acts(shot, path, 0.0), real_path(shot, f"{path}/{ACTS}")
    shot = set_field(shot, path, on=True)
    if not keys_at(shot, value) and frame > 0:
        shot = set_key(shot, value, 0.0, before)
    return set_key(shot, value, float(frame), on)
