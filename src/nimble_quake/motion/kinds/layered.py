"""A value, or a motion, with further motions laid over it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import MotionError, ShotError
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.kinds.driven import Driven
from nimble_quake.motion.motion import Motion, asks_shot, drivers_of, moved_by, value_at, values_at
from nimble_quake.motion.reading import Reading
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.kinds import Param, shown
from nimble_quake.params.refit import Refit, Scaling

MOST_LAYERS = 20


class Layered(Motion, frozen=True):
    """Each that is laid over it adds amount x course."""

    first: Value
    over: tuple[Driven, ...]

    word = "over"

    @property
    def kind(self) -> str:
        return self.first.kind if isinstance(self.first, Motion) else "still"

    def at(self, moment: Moment, size: int) -> Value:
        found = value_at(self.first, moment, size)
        for driven in self.over:
            found = driven.over(found, moment, size)
        return found

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        found = values_at(self.first, moment, frames, size)
        for driven in self.over:
            found = found + driven.swings(moment, frames, size)
        return found

    def asks_shot(self) -> bool:
        return asks_shot(self.first) or super().asks_shot()

    def drivers(self) -> tuple[Driver, ...]:
        return (*drivers_of(self.first), *(driven.driver for driven in self.over))

    def how_to_close(self) -> str:
        return self.first.how_to_close() if isinstance(self.first, Motion) else self.over[0].how_to_close()

    def below(self, value: Value, moment: Moment, size: int) -> Value:
        """The value itself where one of them has no number."""
        try:
            return moved_by(value_at(self.first, moment, size), value, self.at(moment, size))
        except MotionError:
            return value

    def with_value(self, value: Value, moment: Moment, size: int) -> Layered:
        own = self.below(value, moment, size)
        return Layered(self.first.with_value(own, moment, size) if isinstance(self.first, Motion) else own, self.over)

    def clamped(self, param: Param) -> Value:
        if not param.animatable or not param.size:
            return None
        first = self.first.clamped(param) if isinstance(self.first, Motion) else param.clamped(self.first)
        over = tuple(each for each in (driven.clamped(param) for driven in self.over[:MOST_LAYERS]) if each is not None)
        return Layered(first, over) if first is not None and over else first

    def like(self) -> Value:
        return self.first.like() if isinstance(self.first, Motion) else self.first

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Layered:
        first = self.first.refitted(scaling, by, size) if isinstance(self.first, Motion) else scaling.of(self.first)
        ways = Scaling(scaling.factors)
        return Layered(first, tuple(driven.refitted(ways, by, size) for driven in self.over))

    def renamed(self, rename: Rename) -> Layered:
        first = self.first.renamed(rename) if isinstance(self.first, Motion) else self.first
        return Layered(first, tuple(driven.renamed(rename) for driven in self.over))

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Layered:
        over = raw["over"]
        parts = [item for item in over if isinstance(item, dict)] if isinstance(over, list) else []
        if not isinstance(over, list) or not 1 <= len(over) == len(parts) <= MOST_LAYERS:
            raise ShotError(f"expected 1 to {MOST_LAYERS} motions laid over it, got {shown(over)}")
        first = raw.get("first")
        if isinstance(first, dict) and "over" in first:
            raise ShotError("motions are laid over one value, not over one another", cure='list them all in "over"')
        laid = tuple(Driven.decoded_over(param, item, reading) for item in parts)
        return cls(reading.value(param, first), laid)

    def encoded(self, param: Param) -> Json:
        first = self.first.encoded(param) if isinstance(self.first, Motion) else param.encode(self.first)
        return {"first": first, "over": [driven.encoded_over() for driven in self.over]}
