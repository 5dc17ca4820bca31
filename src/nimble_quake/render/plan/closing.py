"""Seamless shots: a source that goes on by itself is faded, at even spread, into its own beginning."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from nimble_quake.conventions import Field, Seconds
from nimble_quake.operators.base import Operator
from nimble_quake.operators.steps import Made
from nimble_quake.render.job import FrameJob
from nimble_quake.shot.model import Node


def goes_on(job: FrameJob, node: Node, operator: Operator) -> bool:
    """Return whether a source must be closed: it goes on by itself in a seamless shot, and cannot repeat by itself."""
    if not job.moment.loops or "loop" in operator.declared:
        return False
    speeds = (operator.given(node.values, name) for name in operator.speed_names)
    return operator.timed() or any(speed not in (0, 0.0, (0.0, 0.0)) for speed in speeds)


def closed(job: FrameJob, rest: float, make: Callable[[Seconds], Made]) -> Made:
    """Return a source's values now, such that those at the end of the shot are those at its beginning.

    make: its values at a time, which may lie before the beginning. The two are weighted by cosine and sine, so that
    what has nothing to do with each other keeps its spread about the rest level.
    """
    length = job.moment.length / float(job.moment.rate)
    seconds = job.moment.seconds % length
    fraction = seconds / length
    fresh = make(seconds)
    if fraction == 0:
        return fresh
    old = make(seconds - length)
    if isinstance(fresh, tuple) and isinstance(old, tuple):
        cover = fresh[1] * np.float32(1 - fraction) + old[1] * np.float32(fraction)
        return _faded(fresh[0], old[0], fraction, rest), cover
    assert not isinstance(fresh, tuple)
    assert not isinstance(old, tuple)
    return _faded(fresh, old, fraction, rest)


def _faded(fresh: Field, old: Field, fraction: float, rest: float) -> Field:
    a, b = np.float32(math.cos(fraction * math.pi / 2)), np.float32(math.sin(fraction * math.pi / 2))
    out = (fresh - np.float32(rest)) * a + (old - np.float32(rest)) * b + np.float32(rest)
    if fresh.shape[2] == 4:
        out[..., 3] = fresh[..., 3] * np.float32(1 - fraction) + old[..., 3] * np.float32(fraction)
    return np.asarray(out, np.float32)
