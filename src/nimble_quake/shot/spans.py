"""When an effect acts or a plate is there, and how much of it while it comes in and goes."""

from __future__ import annotations

from nimble_quake.conventions import Frames
from nimble_quake.motion.kinds import keys_of
from nimble_quake.motion.kinds.keys import keyed_value
from nimble_quake.shot.model import Node, Plate

ACTS = "acts"
"""The value that pins switch over time."""


def bar_of(plate: Plate, length: int) -> tuple[int, int]:
    """Return a plate's first frame, and the one after its last, in a shot of so many frames."""
    return plate.start or 0, length if plate.end is None else plate.end


def acts_at(node: Node, frame: Frames) -> bool:
    """Return whether an item is switched on at a frame: by itself, and by the pins that switch it over time."""
    if not node.on:
        return False
    value = node.values.get(ACTS)
    keys = keys_of(value)
    return bool(keyed_value(keys, frame)) if keys is not None else value is not False


def faded(node: Node, frame: Frames, length: int) -> float:
    """Return how much of an effect or a plate is there at a frame, 0...1: nothing outside its span, less in its fades.

    The span of a plate is its bar, which may end with the shot, of so many frames.

    With a fade of n frames it comes in over its first n frames: the first one acts by 1 / (n + 1), the n-th by
    n / (n + 1); it goes in the same way.
    """
    span = bar_of(node, length) if isinstance(node, Plate) and any(node.fades) else node.span
    if span is None:
        return 1.0
    first, end = span
    if not first <= frame < end:
        return 0.0
    come, go = node.fades
    into, left = float(frame) - first + 1, end - float(frame)
    return max(0.0, min(1.0, into / (come + 1), left / (go + 1)))
