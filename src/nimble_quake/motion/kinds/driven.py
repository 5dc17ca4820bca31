"""A value moved by a driver: base + amount x its course."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Json, Value
from nimble_quake.errors import MotionError, ShotError
from nimble_quake.motion.driver import Driver, drivers
from nimble_quake.motion.motion import Motion, column, moved_by
from nimble_quake.motion.reading import Reading, as_json, nearest, nothing, numbers
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.kinds import Param, shown
from nimble_quake.params.refit import Refit, Scaling


class Driven(Motion, frozen=True):
    """A motion by a driver. base, amount: a number each, or one for each number of the value."""

    base: Value
    amount: Value
    driver: Driver

    word = "driver"

    @property
    def kind(self) -> str:
        return self.driver.kind

    def at(self, moment: Moment, size: int) -> Value:
        return self.over(self.base, moment, size)

    def over(self, base: Value, moment: Moment, size: int) -> Value:
        """Return what it makes of another base at a moment."""
        if not isinstance(base, tuple):
            return base + self.amount * self.driver.course(moment, 0, 1)
        amounts = self.amount if isinstance(self.amount, tuple) else (self.amount,) * size
        both = enumerate(zip(base, amounts, strict=True))
        return tuple(start + amount * self.driver.course(moment, n, size) for n, (start, amount) in both)

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        return column(self.base, size) + self.swings(moment, frames, size)

    def swings(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        """Return amount x course of each number, (size, frames)."""
        courses = [self.driver.courses(moment, frames, n, size) for n in range(size)]
        return column(self.amount, size) * np.stack(courses)

    def drivers(self) -> tuple[Driver, ...]:
        return (self.driver,)

    def how_to_close(self) -> str:
        return f"its {self.driver.title.lower()} is not the same at the end"

    def with_value(self, value: Value, moment: Moment, size: int) -> Driven:
        """What is seen now goes to the value asked for: its base is shifted; or set, without a number."""
        try:
            base = moved_by(self.base, value, self.at(moment, size))
        except MotionError:
            base = value
        return Driven(base, self.amount, self.driver)

    def clamped(self, param: Param) -> Driven | None:
        if not param.animatable or not param.size:
            return None
        settings = {name: declared.clamped(self.driver.values[name]) for name, declared in self.driver.declared.items()}
        driver = type(self.driver)({name: kept for name, kept in settings.items() if kept is not None})
        return Driven(_sized(param, self.base), _sized(param, self.amount), driver)

    def like(self) -> Value:
        return self.base

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Driven:
        """With value = base + amount x course, and the course scaled by itself where it is another value."""
        course = self.driver.refit_course(by)
        amounts = self.amount if isinstance(self.amount, tuple) else (self.amount,)
        bases = self.base if isinstance(self.base, tuple) else (self.base,)
        amount = tuple(scaling.factor(n) * each / course.factor(n) for n, each in enumerate(amounts))
        base = tuple(
            scaling.factor(n) * each + scaling.offset(n) - amount[n % len(amount)] * course.offset(n)
            for n, each in enumerate(bases)
        )
        return Driven(
            base if isinstance(self.base, tuple) else base[0],
            amount if isinstance(self.amount, tuple) else amount[0],
            self.driver.refitted(by),
        )

    def renamed(self, rename: Rename) -> Driven:
        return Driven(self.base, self.amount, self.driver.renamed(rename))

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Driven:
        return cls(numbers(param, raw.get("base")), *_amount_and_driver(param, raw, reading))

    @classmethod
    def decoded_over(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Driven:
        """Return one that is laid over another value, so it has no base of its own. Raises ShotError."""
        return cls(nothing(param.size), *_amount_and_driver(param, raw, reading))

    def encoded(self, param: Param) -> Json:
        return {**self._encoded_driver(), "base": as_json(self.base), "amount": as_json(self.amount)}

    def encoded_over(self) -> Json:
        """Return it as JSON holds it where it is laid over another value."""
        return {**self._encoded_driver(), "amount": as_json(self.amount)}

    def _encoded_driver(self) -> dict[str, Json]:
        declared = type(self.driver).declared
        settings = {n: declared[n].encode(v) for n, v in self.driver.values.items() if v != declared[n].default}
        return {"driver": self.driver.kind} | ({"settings": settings} if settings else {})


def _amount_and_driver(param: Param, raw: dict[str, Json], reading: Reading) -> tuple[Value, Driver]:
    kind = drivers().get(str(raw.get("driver")))
    if kind is None:
        raise ShotError(f"{shown(raw.get('driver'))} drives nothing here", cure="use one of " + ", ".join(drivers()))
    given = raw.get("settings", {})
    if not isinstance(given, dict):
        raise ShotError(f"expected the settings of {kind.kind}, got {shown(given)}")
    settings = {}
    for name, declared in kind.declared.items():
        if name in given:
            try:
                settings[name] = reading.still(declared, given[name])
            except ShotError as wrong:
                raise ShotError(f"{name} of its {kind.kind}: {wrong.what}", cure=wrong.cure) from wrong
    return numbers(param, raw.get("amount")), kind(settings)


def _sized(param: Param, value: Value) -> Value:
    """Numbers for a value, one for each of its numbers."""
    found = nearest(value if isinstance(value, tuple) else (value,))
    whole = tuple(found[min(n, len(found) - 1)] for n in range(param.size))
    return whole if param.size > 1 else whole[0]
