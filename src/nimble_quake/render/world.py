"""What moving values may ask of the shot they lie in: other values, beats, the levels of bands, tracked points."""

from __future__ import annotations

import math
import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.analysis.bands import HOP_RATE, followed
from nimble_quake.conventions import Frames, Seconds
from nimble_quake.errors import MotionError, NimbleQuakeError
from nimble_quake.media.sound import Recording
from nimble_quake.motion.kinds import asks_shot
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Tracked
from nimble_quake.operators.registry import registry
from nimble_quake.render.resolving import resolved, shown_value
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import all_nodes, find, kind_of, real_path, value_name

if TYPE_CHECKING:
    from nimble_quake.render.state import Engine

MOST_KEPT = 20_000
Seen: TypeAlias = Callable[[str, Frames], Tracked | None]
"""Finds the points of a plate's clip that are seen at a frame."""


class ShotWorld:
    """A shot that can be asked. waits: it decodes a sound that is not decoded yet; else that is silent until it is."""

    def __init__(self, engine: Engine, shot: Shot, seen: Seen, *, waits: bool = True) -> None:
        self.engine, self.shot, self.waits, self._seen = engine, shot, waits, seen
        self.sums: dict[Any, Any] = {}
        self._values: dict[tuple[str, Frames], tuple[float, ...]] = {}
        self._levels: dict[tuple[object, ...], NDArray[np.float32]] = {}
        self._asking = threading.local()
        self.asked = bool(shot.bands or shot.beats or shot.markers) or any(
            asks_shot(value) for _, node in all_nodes(shot) for value in node.values.values()
        )
        """Whether any value of the shot, or a step that listens to a band, asks it."""

    def other_value(self, path: str, moment: Moment) -> tuple[float, ...]:
        """See motion.timing.World. Raises MotionError with the path that closes a loop."""
        path = real_path(self.shot, path)
        key = (path, moment.frame)
        known = self._values.get(key)
        if known is not None:
            return known
        under_way: list[str] = getattr(self._asking, "paths", [])
        if path in under_way:
            loop = " -> ".join([*under_way[under_way.index(path) :], path])
            raise MotionError(f"it follows itself: {loop}", cure="let one of them stand by itself")
        self._asking.paths = [*under_way, path]
        try:
            found = self._found(path, moment)
        finally:
            self._asking.paths = under_way
        if len(self._values) > MOST_KEPT:
            self._values.clear()
        self._values[key] = found
        return found

    def _found(self, path: str, moment: Moment) -> tuple[float, ...]:
        node, name = find(self.shot, path), value_name(path)
        operator = registry().get(kind_of(path), node.kind) if isinstance(node, Node) else None
        param = operator.declared.get(name) if operator is not None else None
        if not isinstance(node, Node) or param is None:
            raise MotionError(f'there is no value "{path[:80]}"', cure="pick another one to follow")
        value = shown_value(param, node, moment)
        if isinstance(value, bool | int | float):
            return (float(value),)
        if param.size and isinstance(value, tuple):
            return tuple(float(n) for n in value)
        raise MotionError(f'"{path[:80]}" is no number', cure="pick another one to follow")

    def beat_frames(self) -> tuple[float, ...]:
        """See motion.timing.World."""
        return self.shot.beats

    def marker_frames(self) -> tuple[float, ...]:
        """See motion.timing.World."""
        return tuple(float(marker.frame) for marker in self.shot.markers)

    def level(self, band: str, seconds: Seconds, attack: float, release: float) -> float:
        """See motion.timing.World."""
        levels = self.levels(band, attack, release)
        at = seconds * HOP_RATE
        if not len(levels) or at < 0 or at > len(levels) - 1:
            return 0.0
        n, share = int(at), at - int(at)
        return float(levels[n] + (levels[min(n + 1, len(levels) - 1)] - levels[n]) * share)

    def levels(self, band: str, attack: float = 0.0, release: float = 0.0) -> NDArray[np.float32]:
        """Return a band's levels over the shot, `analysis.bands.HOP_RATE` a second."""
        node = next((node for node in self.shot.bands if node.id == band), None)
        if node is None:
            raise MotionError(f'there is no band "{band[:40]}"' if band else "it listens to no band",
                              cure="choose a band of the sound")  # fmt: skip
        kind = registry().get("sound", node.kind)
        if kind is None:
            raise MotionError(f'the band "{band[:40]}" is of a newer version', cure="open it with a newer Nimble Quake")
        key = (band, attack, release)
        if key not in self._levels:
            n = resolved(kind, node, Moment(0, self.shot.rate, self.shot.length, self.shot.width, self.shot.height))
            found = self.engine.levels.of(self.shot, n.of, n.low, n.high, self.recording)  # type: ignore[attr-defined]
            self._levels[key] = followed(found, attack, release)
        return self._levels[key]

    def recording(self, file: str) -> Recording | None:
        """Return the recording of a file; None where it cannot be read, or is not decoded and this does not wait."""
        if not self.waits:
            return self.engine.recordings.known(file)
        try:
            return self.engine.recordings.read(file)
        except NimbleQuakeError:
            return None

    def tracked_motion(
        self, plate: str, points: tuple[int, ...], frame: Frames, since: Frames
    ) -> tuple[float, float, float, float]:
        """See motion.timing.World."""
        places = []
        for at in (since, frame):
            seen = self._seen(plate, at)
            known = {} if seen is None else dict(zip(seen.ids.tolist(), seen.places.tolist(), strict=True))
            if not all(point in known for point in points):
                return (0.0, 0.0, 0.0, 0.0)
            places.append([known[point] for point in points])
        (x0, y0), (x1, y1) = places[0][0], places[1][0]
        if len(points) < 2 or points[0] == points[1]:
            return (x1 - x0, y1 - y0, 0.0, 0.0)
        before, after = (np.subtract(pair[1], pair[0]) for pair in places)
        turn = math.degrees(math.atan2(after[1], after[0]) - math.atan2(before[1], before[0]))
        size = math.hypot(*after) / max(math.hypot(*before), 1e-6)
        return (x1 - x0, y1 - y0, (turn + 180) % 360 - 180, size - 1)
