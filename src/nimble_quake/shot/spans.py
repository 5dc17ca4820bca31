"""When an effect acts, and how much of it while it comes in and goes."""

from __future__ import annotations

from nimble_quake.conventions import Frames
from nimble_quake.shot.model import Node


def faded(node: Node, frame: Frames) -> float:
    """Return how much of an effect acts at a frame, 0...1: nothing outside its span, less in its fades.

    With a fade of n frames it comes in over its first n frames: the first one acts by 1 / (n + 1), the n-th by
    n / (n + 1); it goes in the same way.
    """
    if node.span is None:
        return 1.0
    first, end = node.span
    if not first <= frame < end:
        return 0.0
    come, go = node.fades
    into, left = float(frame) - first + 1, end - float(frame)
    return max(0.0, min(1.0, into / (come + 1), left / (go + 1)))
