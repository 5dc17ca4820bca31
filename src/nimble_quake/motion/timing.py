"""The moment at which a shot is looked at."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Hashable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Frames, Seconds, Values
from nimble_quake.errors import MotionError


class ShotServices(Protocol):
    """What a moving value may ask of the shot it lies in. All raise MotionError where there is no answer."""

    sums: dict[Hashable, Any]
    """Sums over time that were found once, by whoever needs them."""

    def other_value(self, path: str, moment: Moment) -> tuple[float, ...]:
        """Return the numbers of another value at a moment."""

    def beat_frames(self) -> tuple[float, ...]:
        """Return the frames of the shot's beats, in order."""

    def marker_frames(self, named: str = "") -> tuple[float, ...]:
        """Return the frames of the shot's markers, in order. named: only of these names, commas between them."""

    def level(self, band: str, seconds: Seconds, attack: float, release: float) -> float:
        """Return how loud a band is, 0...1. attack, release: milliseconds it takes to rise and fall."""

    def tracked_motion(
        self, plate: str, points: tuple[int, ...], frame: Frames, since: Frames
    ) -> tuple[float, float, float, float]:
        """Return how far tracked points of a clip have moved since a frame: x, y (px), turn (degrees), scale (-1)."""


@dataclass(frozen=True, slots=True)
class Moment:
    """A frame of a shot, with what an operator may want to know of the shot."""

    frame: Frames
    rate: Fraction
    length: int
    width: float
    height: float
    loops: bool = False
    """The shot closes over its length: what swings or trembles does so a whole number of times."""
    services: ShotServices | None = None
    """The shot itself, for what asks it."""

    @property
    def seconds(self) -> Seconds:
        """Seconds since the shot's start."""
        return float(self.frame / self.rate)

    def names(self) -> dict[str, float]:
        """Return what a formula may use."""
        return {
            "t": self.seconds,
            "frame": float(self.frame),
            "progress": float(self.frame) / max(1, self.length - 1),
            "fps": float(self.rate),
            "width": float(self.width),
            "height": float(self.height),
        }

    def names_at(self, frames: NDArray[np.float64]) -> Values:
        """Return what a formula may use, at many frames at once."""
        return self.names() | {
            "t": frames / float(self.rate),
            "frame": frames,
            "progress": frames / max(1, self.length - 1),
        }

    def at(self, frame: Frames) -> Moment:
        """Return another moment of the same shot."""
        return Moment(frame, self.rate, self.length, self.width, self.height, self.loops, self.services)

    def alone(self) -> Moment:
        """Return the moment without the shot, for what does not ask it."""
        return replace(self, services=None)

    def whole_in_loop(self, hertz: float) -> float:
        """Return the pace nearest to `hertz` that comes round a whole number of times (at least once) in the shot."""
        seconds = self.length / float(self.rate)
        return max(1, round(hertz * seconds)) / seconds

    # What is asked of the shot

    def _asked(self) -> ShotServices:
        if self.services is None:
            raise MotionError("there is no shot to ask here", cure="use it for a value in a shot")
        return self.services

    def other_value(self, path: str, frame: Frames) -> tuple[float, ...]:
        """Return the numbers of another value at a frame."""
        return self._asked().other_value(path, self.at(frame))

    def beat_frames(self) -> tuple[float, ...]:
        """Return the frames of the shot's beats, in order."""
        return self.services.beat_frames() if self.services is not None else ()

    def marker_frames(self, named: str = "") -> tuple[float, ...]:
        """Return the frames of the shot's markers, in order. named: only of these names, commas between them."""
        return self.services.marker_frames(named) if self.services is not None else ()

    def beats_gone(self) -> float:
        """Return how many beats are gone by now, with the share of the one under way; 0 without beats."""
        beats, here = self.beat_frames(), float(self.frame)
        if len(beats) < 2:
            return 0.0
        n = min(max(bisect_right(beats, here) - 1, 0), len(beats) - 2)
        return n + (here - beats[n]) / (beats[n + 1] - beats[n])

    def since_beat(self) -> Seconds:
        """Return the seconds since the last beat; a day before the first."""
        beats = self.beat_frames()
        n = bisect_right(beats, float(self.frame)) - 1
        return (float(self.frame) - beats[n]) / float(self.rate) if n >= 0 else 86_400.0

    def level(self, band: str, attack: float = 0.0, release: float = 0.0) -> float:
        """Return how loud a band is now, 0...1."""
        return self._asked().level(band, self.seconds, attack, release)

    def tracked_motion(self, plate: str, points: tuple[int, ...], since: Frames) -> tuple[float, float, float, float]:
        """Return how far tracked points have moved since a frame: x, y, turn, scale."""
        return self._asked().tracked_motion(plate, points, self.frame, since)

    def timeless(self) -> Moment:
        """Return the shot's measures without a moment: asking it for one raises."""
        return Timeless(self)


class Timeless(Moment):
    """What a step is given that has not said that it depends on the moment."""

    __slots__ = ()

    def __init__(self, moment: Moment) -> None:
        for name in ("rate", "length", "width", "height", "loops"):
            object.__setattr__(self, name, getattr(moment, name))
        object.__setattr__(self, "services", None)

    @property
    def frame(self) -> Frames:  # type: ignore[override]  # it refuses
        raise RuntimeError("a step asks for the moment without saying so: `timed` must tell it")

    def at(self, frame: Frames) -> Moment:
        """Return a moment of the same shot."""
        return Moment(frame, self.rate, self.length, self.width, self.height, self.loops)
