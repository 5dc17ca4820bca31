"""What becomes of values where a shot gets another size or rate: each is scaled, and places are shifted too."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from nimble_quake.conventions import Value


@dataclass(frozen=True)
class Scaling:
    """new = factor x old + offset, for each number of a value; a list of points goes round its two numbers."""

    factors: tuple[float, ...] = (1.0,)
    offsets: tuple[float, ...] = (0.0,)

    @property
    def changes(self) -> bool:
        """Whether it changes anything."""
        return any(factor != 1 for factor in self.factors) or any(self.offsets)

    def factor(self, number: int) -> float:
        """Return the factor of one of the numbers."""
        return self.factors[number % len(self.factors)]

    def offset(self, number: int) -> float:
        """Return the offset of one of the numbers."""
        return self.offsets[number % len(self.offsets)]

    def of(self, value: Value) -> Value:
        """Return a value scaled."""
        return self._each(value, self.offset)

    def way(self, value: Value) -> Value:
        """Return a difference of two values, or a speed, scaled."""
        return self._each(value, lambda number: 0.0)

    def _each(self, value: Value, offset: Callable[[int], float]) -> Value:
        if not isinstance(value, tuple):
            return value * self.factor(0) + offset(0)
        return tuple(number * self.factor(n) + offset(n) for n, number in enumerate(value))


PLAIN = Scaling()


def _none(path: str) -> Scaling:
    return PLAIN


def _as_it_is(path: str, text: str) -> str:
    return text


PLACES = ("centre", "edges", "fractions")
"""How places go to another shape of frame: about its centre, kept to the edge they lie at, or as fractions of it."""


@dataclass(frozen=True)
class Refit:
    """From one size, rate and length to another. old, new: width and height in px."""

    old: tuple[float, float]
    new: tuple[float, float]
    scale: float = 1.0
    """What a length in px is multiplied by."""
    frames: float = 1.0
    """What a number of frames is multiplied by."""
    seconds: float = 1.0
    """What a number of frames that keeps its seconds is multiplied by."""
    span: tuple[float, float] | None = None
    """When what the values belong to is there: its first frame and the one after its last, before. None: no matter."""
    later: float = 0.0
    """Frames that pins and spans are moved by."""
    lengths: tuple[int, int] = (-1, -1)
    """Of the shot in frames: what ends at its end, ends there again."""
    places: str = "centre"
    fills: bool = False
    """What was laid wholly inside the frame covers the new one."""
    scaling_of: Callable[[str], Scaling] = field(default=_none, compare=False)
    """What becomes of another value of the shot, by its path."""
    text_of: Callable[[str, str], str] = field(default=_as_it_is, compare=False)
    """What becomes of a value, still or moving, that is held as JSON text for a path."""

    def length(self) -> Scaling:
        """Return what becomes of a length in px, or a speed in px/s."""
        return Scaling((self.scale,))

    def count(self) -> Scaling:
        """Return what becomes of a number of frames."""
        return Scaling((self.frames,))

    def place(self, like: Value) -> Scaling:
        """Return what becomes of a place. like: where it lies, for what is kept to an edge."""
        at = like if isinstance(like, tuple) and len(like) == 2 else (self.old[0] / 2, self.old[1] / 2)
        both = [self._along(axis, at[axis]) for axis in (0, 1)]
        return Scaling((both[0][0], both[1][0]), (both[0][1], both[1][1]))

    def _along(self, axis: int, at: float) -> tuple[float, float]:
        old, new = self.old[axis], self.new[axis]
        if self.places == "fractions":
            return new / old, 0.0
        anchor = 0.5
        if self.places == "edges":
            anchor = 0.0 if at < old / 3 else 1.0 if at > 2 * old / 3 else 0.5
        return self.scale, anchor * (new - self.scale * old)

    def frame(self, frame: float) -> float:
        """Return what becomes of a frame number."""
        if frame == self.lengths[0] > 0:
            return self.lengths[1]
        return self.moved(frame)

    def moved(self, frame: float) -> float:
        """Return what becomes of a pin's frame."""
        return _whole(frame * self.frames + self.later)

    def pins(self, frames: Sequence[float], anchor: str) -> list[float]:
        """Return what becomes of the frames of pins. anchor: "start", "end" or "both", of the span, that they are kept
        from; "": they are stretched with it. In a span too short for them they are pressed together."""
        if not anchor or self.span is None or not frames:
            return [self.moved(frame) for frame in frames]
        (first, end), (new_first, new_end) = self.span, (self.frame(each) for each in self.span)
        middle = {"start": math.inf, "end": -math.inf}.get(anchor, (first + end) / 2)
        extent = max(frame - first if frame <= middle else end - frame for frame in frames)
        most = (new_end - new_first) / (2 if anchor == "both" else 1)
        pace = min(self.seconds, most / extent) if extent > 0 else self.seconds
        return [
            _whole(new_first + (frame - first) * pace if frame <= middle else new_end - (end - frame) * pace)
            for frame in frames
        ]


def _whole(frame: float) -> float:
    """A frame that is whole but for the last digits."""
    return float(round(frame)) if abs(frame - round(frame)) < 1e-6 else frame
