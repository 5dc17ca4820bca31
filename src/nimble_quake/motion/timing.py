"""The moment at which a shot is looked at."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Frames, Seconds


@dataclass(frozen=True, slots=True)
class Moment:
    """A frame of a shot, with what an operator may want to know of the shot."""

    frame: Frames
    rate: Fraction
    length: int
    width: float
    height: float

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

    def names_at(self, frames: NDArray[np.float64]) -> dict[str, Any]:
        """Return what a formula may use, at many frames at once."""
        return self.names() | {
            "t": frames / float(self.rate),
            "frame": frames,
            "progress": frames / max(1, self.length - 1),
        }

    def at(self, frame: Frames) -> Moment:
        """Return another moment of the same shot."""
        return Moment(frame, self.rate, self.length, self.width, self.height)

    def timeless(self) -> Moment:
        """Return the shot's measures without a moment: asking it for one raises."""
        return Timeless(self.rate, self.length, self.width, self.height)


class Timeless(Moment):
    """What a step is given that has not said that it depends on the moment."""

    __slots__ = ()

    def __init__(self, rate: Fraction, length: int, width: float, height: float) -> None:
        for name, value in (("rate", rate), ("length", length), ("width", width), ("height", height)):
            object.__setattr__(self, name, value)

    @property
    def frame(self) -> Frames:  # type: ignore[override]
        raise RuntimeError("a step asks for the moment without saying so: `timed` must tell it")
