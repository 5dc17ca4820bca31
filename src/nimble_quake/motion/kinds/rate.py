"""A rate: a steady motion that never ends."""

from __future__ import annotations

from typing import Self

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Frames, Json, Value
from nimble_quake.errors import ShotError
from nimble_quake.motion.integral import Clamp, Numbers, as_tuple, untuple
from nimble_quake.motion.motion import Motion, column
from nimble_quake.motion.reading import Reading, as_json, nearest, nothing, numbers
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Param, shown
from nimble_quake.params.refit import Refit, Scaling


class Rate(Motion, frozen=True):
    """start + per_second x seconds."""

    start: Value
    per_second: Value

    word = "rate"
    title = "Rate"
    rank = 20

    def at(self, moment: Moment, size: int) -> Value:
        return self._gone(moment.seconds)

    def _gone(self, seconds: float) -> Value:
        if isinstance(self.start, tuple):
            return tuple(a + speed * seconds for a, speed in zip(self.start, self.per_second, strict=True))
        return self.start + self.per_second * seconds

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        return column(self.start, size) + column(self.per_second, size) * (frames / float(moment.rate))

    def summed(self, moment: Moment, size: int, clamp: Clamp) -> Numbers:
        """A rate that runs into a limit stays there."""
        t, fps = moment.seconds, float(moment.rate)
        starts, speeds = as_tuple(self.start), as_tuple(self.per_second)
        here = tuple(start + speed * t for start, speed in zip(starts, speeds, strict=True))
        inside = as_tuple(clamp(untuple(here, size))) == here and as_tuple(clamp(untuple(starts, size))) == starts
        if inside:
            return tuple((start * t + speed * t * t / 2) * fps for start, speed in zip(starts, speeds, strict=True))
        return tuple(_clamped_ramp(n, starts, speeds, t, size, clamp) * fps for n in range(len(starts)))

    def closing(self, moment: Moment, turns: bool) -> Rate:
        """An angle turns a whole number of times over the shot."""
        if not turns or not self.per_second:
            return self
        seconds = moment.length / float(moment.rate)
        return Rate(self.start, 360 * round(self.per_second * seconds / 360) / seconds)

    def how_to_close(self) -> str:
        return "a rate never comes back: use a wave, or pins"

    @classmethod
    def begun(cls, now: Value, frame: Frames, size: int) -> Self:
        return cls(now, nothing(size))

    def with_value(self, value: Value, moment: Moment, size: int) -> Rate:
        gone = Rate(nothing(size), self.per_second)._gone(moment.seconds)
        if isinstance(value, tuple):
            return Rate(tuple(v - way for v, way in zip(value, gone, strict=True)), self.per_second)
        return Rate(value - gone, self.per_second)

    def clamped(self, param: Param) -> Rate | None:
        start = param.clamped(self.start)
        if start is None or not param.animatable or not param.size:
            return None
        return Rate(start, nearest(self.per_second))

    def like(self) -> Value:
        return self.start

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Rate:
        """Its speed is by seconds: whatever the rate, it stays."""
        return Rate(scaling.of(self.start), scaling.way(self.per_second))

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Rate:
        rate = raw["rate"]
        if not isinstance(rate, dict):
            raise ShotError(f"expected a rate, got {shown(rate)}", cure='give it "start" and "per_second"')
        speed = numbers(param, rate.get("per_second"))
        return cls(reading.still(param, rate.get("start")), speed)

    def encoded(self, param: Param) -> Json:
        return {"rate": {"start": param.encode(self.start), "per_second": as_json(self.per_second)}}


def _clamped_ramp(n: int, starts: Numbers, speeds: Numbers, t: float, size: int, clamp: Clamp) -> float:
    """The integral of one number that runs straight and stops at its limits, value x seconds."""
    start, speed = starts[n], speeds[n]
    low, high = (as_tuple(clamp(untuple((far,) * len(starts), size)))[n] for far in (-1e30, 1e30))
    bounds = sorted({0.0, t, *((edge - start) / speed for edge in (low, high) if speed)})
    cuts = [cut for cut in bounds if min(0.0, t) <= cut <= max(0.0, t)]
    total = 0.0
    for a, b in zip(cuts, cuts[1:], strict=False):
        ends = [min(max(start + speed * at, low), high) for at in (a, b)]
        total += (b - a) * (ends[0] + ends[1]) / 2
    return total if t >= 0 else -total
