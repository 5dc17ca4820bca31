"""What outlives a frame: operators, open files, remembered results; and the moments of a shot."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass, field, replace
from pathlib import Path

from nimble_quake.analysis.store import TrackStore
from nimble_quake.conventions import Frames
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.sound import Recordings
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.registry import Registry, registry
from nimble_quake.raster.threads.memory import keep_freed_memory
from nimble_quake.render.caches.last_frames import LastFrames
from nimble_quake.render.caches.moments import Moments
from nimble_quake.render.caches.results import ResultCache, Tokens
from nimble_quake.render.mixing import Levels
from nimble_quake.render.values.answers import Seen, ShotAnswers
from nimble_quake.render.values.exceptions import Exceptions, with_exceptions
from nimble_quake.render.values.resolving import Known
from nimble_quake.shot.model import Shot


@dataclass
class Engine:
    """What outlives a frame: operators, open files, remembered results."""

    operators: Registry = field(default_factory=registry)
    media: MediaPool = field(default_factory=MediaPool)
    cache: ResultCache = field(default_factory=ResultCache)
    last_frames: LastFrames = field(default_factory=LastFrames)
    tokens: Tokens = field(default_factory=Tokens)
    moments: Moments = field(default_factory=Moments)
    tracks: TrackStore = field(default_factory=TrackStore)
    recordings: Recordings = field(default_factory=Recordings)
    known: Known = field(default_factory=Known)

    def __post_init__(self) -> None:
        keep_freed_memory()
        self.levels = Levels(self.recordings)
        self._answers: OrderedDict[tuple[int, bool], ShotAnswers] = OrderedDict()
        self._lock = threading.Lock()
        self._heard: tuple[Shot | None, object] = (None, object())
        self._variants: tuple[Shot | None, dict[Exceptions, Shot]] = (None, {})

    def answers(self, shot: Shot, seen: Seen, *, waits: bool = True) -> ShotAnswers:
        """Return what moving values of a shot ask; the last few shots' are kept. seen: finds tracked points."""
        key = (id(shot), waits)
        with self._lock:
            found = self._answers.get(key)
            if found is None or found.shot is not shot:
                found = self._answers[key] = ShotAnswers(self, shot, seen, waits=waits)
                while len(self._answers) > MOST_ANSWERS:
                    self._answers.popitem(last=False)
            return found

    def variant(self, shot: Shot, exceptions: Exceptions) -> Shot:
        """Return a shot with some values that are other ones: the same object while the shot is."""
        with self._lock:
            if self._variants[0] is not shot:
                self._variants = (shot, {})
            found = self._variants[1].get(exceptions)
            if found is None:
                found = self._variants[1][exceptions] = with_exceptions(shot, exceptions)
            return found

    def look_beside(self, *folders: Path) -> None:
        """Look for what was found in media before in these folders, the nearest first, and keep it there."""
        self.tracks.look_in(*folders)
        self.levels.store.look_in(*folders)

    def forget_sounds(self) -> None:
        """Let levels be found anew: a sound was decoded meanwhile."""
        with self._lock:
            self._answers.clear()
            self._heard = (None, object())

    def heard(self, shot: Shot) -> object:
        """Return what is the same object as long as a shot is, and what is known of its sounds."""
        if self._heard[0] is not shot:
            self._heard = (shot, object())
        return self._heard[1]


MOST_ANSWERS = 4


def moment_in(engine: Engine, shot: Shot, frame: Frames, seen: Seen, *, waits: bool = True) -> Moment:
    """Return a shot's moment at a frame, at which its moving values can ask the rest of it."""
    answers = engine.answers(shot, seen, waits=waits)
    return replace(moment_of(shot, frame), services=answers if answers.asked else None)


def moment_of(shot: Shot, frame: Frames) -> Moment:
    """Return a shot's moment at a frame; values that ask the shot find nothing there."""
    return Moment(frame, shot.rate, shot.length, shot.width, shot.height, shot.seamless)
