"""A value times another moving number: what has pins of its own behind a dial that moves too."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import ShotError
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.motion import Motion, asks_shot, drivers_of, value_at, values_at
from nimble_quake.motion.reading import Reading
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.kinds import Number, Param, shown
from nimble_quake.params.refit import PLAIN, Refit, Scaling

FACTOR = Number(label="Factor", hard=(-1e9, 1e9))


class Scaled(Motion, frozen=True):
    """first: a value, still or moving. by: a moving number it is multiplied with."""

    first: Value
    by: Value

    word = "times"

    @property
    def kind(self) -> str:
        return self.first.kind if isinstance(self.first, Motion) else "still"

    def at(self, moment: Moment, size: int) -> Value:
        found, factor = value_at(self.first, moment, size), float(value_at(self.by, moment))
        return tuple(each * factor for each in found) if isinstance(found, tuple) else found * factor

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        return values_at(self.first, moment, frames, size) * values_at(self.by, moment, frames)

    def asks_shot(self) -> bool:
        return asks_shot(self.first) or asks_shot(self.by)

    def drivers(self) -> tuple[Driver, ...]:
        return (*drivers_of(self.first), *drivers_of(self.by))

    def with_value(self, value: Value, moment: Moment, size: int) -> Value:
        """Its own part is changed, so that it is the value now; where it is multiplied by nothing, it stands alone."""
        factor = float(value_at(self.by, moment))
        if factor == 0:
            return value
        own = tuple(each / factor for each in value) if isinstance(value, tuple) else value / factor
        return Scaled(self.first.with_value(own, moment, size) if isinstance(self.first, Motion) else own, self.by)

    def clamped(self, param: Param) -> Value:
        if not param.animatable or not param.size:
            return None
        first = self.first.clamped(param) if isinstance(self.first, Motion) else param.clamped(self.first)
        by = self.by.clamped(FACTOR) if isinstance(self.by, Motion) else FACTOR.clamped(self.by)
        return first if first is None or by is None else Scaled(first, by)

    def like(self) -> Value:
        return self.first.like() if isinstance(self.first, Motion) else self.first

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Scaled:
        """Lengths are scaled in its own part; an offset of places is not known to a product, so it is left out."""
        ways = Scaling(scaling.factors)
        first = self.first.refitted(ways, by, size) if isinstance(self.first, Motion) else ways.of(self.first)
        if by.span is not None:  # the factor is a dial's, which is there as long as the shot
            by = replace(by, span=(0, by.lengths[0]))
        factor = self.by.refitted(PLAIN, by, 1) if isinstance(self.by, Motion) else self.by
        return Scaled(first, factor)

    def renamed(self, rename: Rename) -> Scaled:
        first = self.first.renamed(rename) if isinstance(self.first, Motion) else self.first
        return Scaled(first, self.by.renamed(rename) if isinstance(self.by, Motion) else self.by)

    def how_to_close(self) -> str:
        return self.by.how_to_close() if isinstance(self.by, Motion) else super().how_to_close()

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Scaled:
        inner = raw.get("first")
        if (isinstance(inner, dict) and "times" in inner) or (
            isinstance(raw["times"], dict) and "times" in raw["times"]
        ):
            raise ShotError("a product is of one value and one factor", cure="multiply one of them first")
        if "first" not in raw:
            raise ShotError(f"expected what is multiplied, got {shown(raw)}", cure='give it as "first"')
        return cls(reading.value(param, inner), reading.value(FACTOR, raw["times"]))

    def encoded(self, param: Param) -> Json:
        first = self.first.encoded(param) if isinstance(self.first, Motion) else param.encode(self.first)
        by = self.by.encoded(FACTOR) if isinstance(self.by, Motion) else FACTOR.encode(self.by)
        return {"first": first, "times": by}
