"""What moving values may ask of the shot they lie in: other values, beats, the levels of bands, tracked points."""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any, Protocol, TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.analysis.bands import HOP_RATE, followed
from nimble_quake.conventions import Frames, Seconds
from nimble_quake.errors import MotionError, NimbleQuakeError
from nimble_quake.media.sound import Recording, Recordings
from nimble_quake.motion.kinds import asks_shot
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Tracked
from nimble_quake.operators.registry import registry
from nimble_quake.render.values.circles import EvaluationStack
from nimble_quake.render.values.resolving import resolved, shown_value
from nimble_quake.shot.model import Node, Shot
from nimble_quake.shot.paths import all_nodes, find, kind_of, real_path, value_name

Asked: TypeAlias = tuple[str, Frames]
"""A value by its path, and a frame."""
MOST_KEPT = 200_000
"""Values that remembered answers name together."""
MOST_ASKED = 2000
"""Values that one value may ask for at a frame, with all that those ask for: more would take a second."""
MOST_A_FRAME = 10_000
"""The same for all values of a shot."""
MOST_DEEP = 48
"""Values may follow values that follow values so deep."""
FOLLOWS_ITSELF, STAND_ALONE = "it follows itself", "let one of them stand by itself"
Seen: TypeAlias = Callable[[str, Frames], Tracked | None]
"""Finds the points of a plate's clip that are seen at a frame."""


@dataclass(frozen=True)
class Answer:
    """What was found of a value at a moment, and all that it asked for."""

    found: tuple[float, ...] | MotionError
    asked: frozenset[Asked]


class Levels(Protocol):
    """Finds how loud ranges of frequencies of the shot's sounds are: see `render.mixing`."""

    def of(
        self, shot: Shot, of: str, low: float, high: float, recording: Callable[[str], Recording | None]
    ) -> NDArray[np.float32]:
        """Return the level of a range at each hop over the shot."""


class Heard(Protocol):
    """What is known of the shot's sounds; the engine of a render is that."""

    @property
    def levels(self) -> Levels: ...
    @property
    def recordings(self) -> Recordings: ...


class _Asking(threading.local):
    """What a thread is asking for, and what that has asked for by now."""

    def __init__(self) -> None:
        self.evaluating = EvaluationStack(MotionError)
        self.asked: set[Asked] = set()
        self.frame: Frames = 0.0


class ShotAnswers:
    """A shot that can be asked. waits: it decodes a sound that is not decoded yet; else that is silent until it is."""

    def __init__(self, sounds: Heard, shot: Shot, seen: Seen, *, waits: bool = True) -> None:
        self.sounds, self.shot, self.waits, self._seen = sounds, shot, waits, seen
        self.sums: dict[Hashable, Any] = {}
        self._answers: dict[Asked, Answer] = {}
        self._kept = 0
        self._counts: dict[Frames, int] = {}
        """How many values were found for a frame."""
        self._levels: dict[tuple[object, ...], NDArray[np.float32]] = {}
        self._asking = _Asking()
        self.asked = bool(shot.bands or shot.beats or shot.markers) or any(
            asks_shot(value) for _, node in all_nodes(shot) for value in node.values.values()
        )
        """Whether any value of the shot, or a step that listens to a band, asks it."""

    def other_value(self, path: str, moment: Moment) -> tuple[float, ...]:
        """See motion.timing.World. Raises MotionError with the path that closes a circle, or where it asks too much."""
        path = real_path(self.shot, path)
        key = (path, moment.frame)
        answer = self._answers.get(key)
        if answer is None:
            answer = self._asked_for(path, moment)
            self._kept += len(answer.asked)
            if self._kept > MOST_KEPT:
                self._answers, self._kept = {}, 0
            self._answers[key] = answer
        self._asking.asked |= answer.asked
        if isinstance(answer.found, MotionError):
            raise answer.found.anew()
        return answer.found

    def _asked_for(self, path: str, moment: Moment) -> Answer:
        """What is found of a value at a moment. Raises MotionError where it waits for itself."""
        asking = self._asking
        if not asking.evaluating.paths:
            asking.frame = moment.frame
        before, asking.asked = asking.asked, {(path, moment.frame)}
        try:
            self._count(asking.frame)
            with asking.evaluating.on(path, FOLLOWS_ITSELF, STAND_ALONE):
                if len(asking.evaluating.paths) > MOST_DEEP:
                    raise MotionError(f"it follows values over {MOST_DEEP} deep", cure="follow the first of them")
                found = self._found(path, moment)
            if len(asking.asked) > MOST_ASKED:
                raise MotionError(f"it asks for over {MOST_ASKED:,} other values", cure="let it ask at fewer moments")
            return Answer(found, frozenset(asking.asked))
        except MotionError as wrong:
            if asking.evaluating.paths and len(asking.asked) <= MOST_ASKED:
                raise  # where a circle was entered counts: only who is asked for first knows all of it
            return Answer(wrong.anew(), frozenset(asking.asked))
        finally:
            asking.asked = before

    def _count(self, frame: Frames) -> None:
        """Count a value that is found for a frame. Raises MotionError where these are too many: a shot made to be slow.

        What is remembered from other frames does not count, so it is known only roughly which value will be refused.
        """
        if len(self._counts) > 64:
            self._counts = {}
        self._counts[frame] = self._counts.get(frame, 0) + 1
        if self._counts[frame] > MOST_A_FRAME:
            raise MotionError(
                f"the shot's values ask for over {MOST_A_FRAME:,} others at one frame",
                cure="let fewer of them follow others",
            )

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

    def marker_frames(self, named: str = "") -> tuple[float, ...]:
        """See motion.timing.World. Small and capital letters are alike."""
        wanted = {name.strip().casefold() for name in named.split(",")} - {""}
        markers = (m for m in self.shot.markers if not wanted or m.name.strip().casefold() in wanted)
        return tuple(float(marker.frame) for marker in markers)

    def level(self, band: str, seconds: Seconds, attack: float, release: float) -> float:
        """See motion.timing.World."""
        levels = self.levels(band, attack, release)
        at = seconds * HOP_RATE
        if not len(levels) or at < 0 or at > len(levels) - 1:
            return 0.0
        n, fraction = int(at), at - int(at)
        return float(levels[n] + (levels[min(n + 1, len(levels) - 1)] - levels[n]) * fraction)

    def levels(self, band: str, attack: float = 0.0, release: float = 0.0) -> NDArray[np.float32]:
        """Return a band's levels over the shot, `analysis.bands.HOP_RATE` a second."""
        node = next((node for node in self.shot.bands if node.id == band), None)
        if node is None:
            raise MotionError(
                f'there is no band "{band[:40]}"' if band else "it listens to no band",
                cure="choose a band of the sound",
            )
        kind = registry().get("sound", node.kind)
        if kind is None:
            raise MotionError(f'the band "{band[:40]}" is of a newer version', cure="open it with a newer Nimble Quake")
        key = (band, attack, release)
        if key not in self._levels:
            n = resolved(kind, node, Moment(0, self.shot.rate, self.shot.length, self.shot.width, self.shot.height))
            found = self.sounds.levels.of(self.shot, n.of, n.low, n.high, self.recording)  # type: ignore[attr-defined]  # of a band
            self._levels[key] = followed(found, attack, release)
        return self._levels[key]

    def recording(self, file: str) -> Recording | None:
        """Return the recording of a file; None where it cannot be read, or is not decoded and this does not wait."""
        if not self.waits:
            return self.sounds.recordings.known(file)
        try:
            return self.sounds.recordings.read(file)
        except NimbleQuakeError:
            return None

    def tracked_motion(
        self, plate: str, points: tuple[int, ...], frame: Frames, since: Frames
    ) -> tuple[float, float, float, float]:
        """See motion.timing.World. Raises MotionError where the plate's own place follows them."""
        places = []
        for at in (since, frame):
            with self._asking.evaluating.on(f"plates/{plate} (its points)", FOLLOWS_ITSELF, STAND_ALONE):
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
