"""The base of drivers: what moves a value by itself. A driver is one file in `motion.drivers`.

A driven value is `base + amount x course`. The base and the amount are in the value's own unit; the course is the
driver's: a number over time, mostly -1...1 or 0...1, one for each number of the value. So a driver is its parameters
and one pure function, and serves every value; panels, files, menus and traces are made from its declaration.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Value, Values
from nimble_quake.declared.declared import Declared
from nimble_quake.declared.discovery import classes_added, classes_in
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.refit import PLAIN, Refit, Scaling


class Driver(Declared):
    """What moves a value by itself. An instance holds its settings; equal settings are equal drivers."""

    amount: ClassVar[tuple[str, str]] = ("Amount", "How far it swings to either side")
    """The label and the help of its amount."""
    base: ClassVar[tuple[str, str]] = ("About", "The value it swings about")
    """The label and the help of its base."""
    factor: ClassVar[bool] = False
    """Its amount is a plain factor, not in the unit of the value."""
    asks_shot: ClassVar[bool] = False
    """It looks at the rest of the shot: other values, sounds, tracks, beats."""

    def __init__(self, values: Mapping[str, Value] | None = None) -> None:
        given = values or {}
        super().__init__({name: given.get(name, param.default) for name, param in self.declared.items()})
        self._key = (self.kind, *self._values.values())

    def __eq__(self, other: object) -> bool:
        return isinstance(other, type(self)) and type(other) is type(self) and other._key == self._key

    def __hash__(self) -> int:
        return hash(self._key)

    def __repr__(self) -> str:
        return f"{type(self).__name__}({self._values})"

    def course(self, moment: Moment, number: int, size: int) -> float:
        """Return the course at a moment. number: which of the `size` numbers of the value. Raises MotionError."""
        raise NotImplementedError

    def courses(self, moment: Moment, frames: NDArray[np.float64], number: int, size: int) -> NDArray[np.float64]:
        """Return the course at many frames, to be drawn: as `course`, faster where a driver says how."""
        return np.array([self.course(moment.at(frame), number, size) for frame in frames.tolist()], np.float64)

    def refit_course(self, by: Refit) -> Scaling:
        """Return what becomes of its course in a shot of another size or rate, where that is no plain number."""
        return PLAIN

    def refitted(self, by: Refit) -> Driver:
        """Return it with its settings for a shot of another size or rate."""
        found = {}
        for name, param in self.declared.items():
            value, scaling = self.values[name], param.refit(by, None)
            found[name] = param.clamped(scaling.of(value)) if scaling.changes else value
        return type(self)(found)

    def renamed(self, rename: Rename) -> Driver:
        """Return it with what its settings refer to under new names."""
        return type(self)({name: param.renamed(self.values[name], rename) for name, param in self.declared.items()})

    def said(self) -> str:
        """Return its settings in a few words, for a row: "2 Hz"."""
        return ""

    @classmethod
    def begun(cls, base: Value, usual: tuple[float, float], size: int) -> tuple[Value, Value, Values]:
        """Return the base, the amount and the settings a value that is `base` now begins with.

        usual: the span of values that are common for it.
        """
        swing = round((usual[1] - usual[0]) / 10, 4)
        return base, (swing,) * size if size > 1 else swing, {}


ENTRY_POINTS = "nimble_quake.drivers"


@cache
def drivers() -> dict[str, type[Driver]]:
    """Return every driver by its kind, in the order menus show them. Raises TypeError on an empty module."""
    found = [*classes_in("nimble_quake.motion.drivers", Driver), *classes_added(ENTRY_POINTS, Driver)]
    if len({driver.kind for driver in found}) < len(found):
        raise TypeError("there are two drivers of one name")
    return {driver.kind: driver for driver in sorted(found, key=lambda driver: (driver.rank, driver.kind))}
