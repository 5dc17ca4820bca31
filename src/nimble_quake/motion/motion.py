"""What every motion answers. A value that is no motion is still.

A kind of motion is one file of `motion.kinds`: its class says what the value is at a moment, how it is changed there,
how a file holds it, and what is said of it. Nobody else asks which kind it is.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Self

import msgspec
import numpy as np
from numpy.typing import NDArray

from nimble_quake.motion.integral import Clamp, Numbers, as_it_is, of_course
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.refit import Refit, Scaling

if TYPE_CHECKING:
    from nimble_quake.conventions import Frames, Json, Value
    from nimble_quake.motion.driver import Driver
    from nimble_quake.motion.reading import Reading
    from nimble_quake.params.kinds import Param


class Motion(msgspec.Struct, frozen=True):
    """A value that moves."""

    word: ClassVar[str] = ""
    """What tells it from others in a file: {word: ...}."""
    title: ClassVar[str] = ""
    """Its name in menus; empty where it is not chosen by itself."""
    rank: ClassVar[int] = 100
    """Where it stands in menus: low comes first."""
    any_value: ClassVar[bool] = False
    """It moves what is made of no numbers too."""

    # Over time

    def at(self, moment: Moment, size: int) -> Value:
        """Return the value at a moment. size: how many numbers it holds. Raises MotionError."""
        raise NotImplementedError

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        """Return the value at many frames, (size, frames). Raises MotionError."""
        found = (self.at(moment.at(frame), size) for frame in frames.tolist())
        return np.array([one if isinstance(one, tuple) else (one,) for one in found], np.float64).T

    def whole_frames(self, start: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        """Return the value at many whole frames, (size, frames), exactly as `at` does."""
        return Motion.at_frames(self, start, frames, size)

    def summed(self, moment: Moment, size: int, clamp: Clamp) -> Numbers:
        """Return the sum of each number over the frames since frame 0, held inside its limits by `clamp`."""
        return of_course(self, moment, size, clamp)

    def closing(self, moment: Moment, turns: bool) -> Motion:
        """Return it as it is in a seamless shot. turns: the value is an angle in degrees."""
        return self

    # What it depends on

    @property
    def kind(self) -> str:
        """Which of the motions one can choose it is; what is laid over it does not count."""
        return self.word

    def asks_shot(self) -> bool:
        """Return whether it looks at the rest of the shot: other values, sounds, tracks, beats."""
        return any(driver.asks_shot for driver in self.drivers())

    def hears_beats(self) -> bool:
        """Return whether it asks for the shot's beats or markers."""
        return any(driver.hears_beats() for driver in self.drivers())

    def drivers(self) -> tuple[Driver, ...]:
        """Return the drivers it has."""
        return ()

    def how_to_close(self) -> str:
        """Return what makes its end meet its beginning, in a line."""
        return "make its end its beginning"

    # Changed

    @classmethod
    def begun(cls, now: Value, frame: Frames, size: int) -> Self:
        """Return the motion that a value which is `now` at a frame begins with."""
        raise NotImplementedError

    def with_value(self, value: Value, moment: Moment, size: int) -> Value:
        """Return what it becomes where it is set to a value at a moment: itself shifted, or that value."""
        return value

    def below(self, value: Value, moment: Moment, size: int) -> Value:
        """Return a value without what the motions laid over it add at a moment."""
        return value

    def clamped(self, param: Param) -> Value:
        """Return the nearest motion that a file can hold; None, the default, where there is none."""
        raise NotImplementedError

    # In a shot of another size or rate

    def like(self) -> Value:
        """Return a value it has, such as the one it begins with; None where it has none of its own."""
        return None

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Motion:
        """Return it for a shot of another size or rate. scaling: what becomes of its values."""
        raise NotImplementedError

    def renamed(self, rename: Rename) -> Motion:
        """Return it with what it refers to in the shot under new names."""
        return self

    # In a file

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Value:
        """Return what a file holds. Raises ShotError."""
        raise NotImplementedError

    def encoded(self, param: Param) -> Json:
        """Return it as JSON holds it."""
        raise NotImplementedError


def is_moving(value: Value) -> bool:
    """Return whether a value of the document is a motion."""
    return isinstance(value, Motion)


def value_at(value: Value, moment: Moment, size: int = 1) -> Value:
    """Return what a value is at a moment. size: how many numbers it holds. Raises MotionError."""
    return value.at(moment, size) if isinstance(value, Motion) else value


def values_at(value: Value, moment: Moment, frames: NDArray[np.float64], size: int = 1) -> NDArray[np.float64]:
    """Return what a value is at many frames, (size, frames), to be drawn. Raises MotionError."""
    if isinstance(value, Motion):
        return value.at_frames(moment, frames, size)
    return np.repeat(column(value, size), len(frames), axis=1)


def integral(value: Value, moment: Moment, size: int = 1, clamp: Clamp = as_it_is) -> Value:
    """Return the integral of a speed (per second) from frame 0 to the moment.

    clamp: what holds a value inside its limits, as it does where the value is used by itself.
    Raises MotionError where it has no number on the way.
    """
    if isinstance(value, Motion):
        total = value.summed(moment, size, clamp)
    else:
        total = tuple(speed * float(moment.frame) for speed in (value if isinstance(value, tuple) else (value,)))
    found = tuple(part / float(moment.rate) for part in total)
    return found[0] if size == 1 else found


def drivers_of(value: Value) -> tuple[Driver, ...]:
    """Return the drivers a value has."""
    return value.drivers() if isinstance(value, Motion) else ()


def asks_shot(value: Value) -> bool:
    """Return whether a value looks at the rest of the shot: other values, sounds, tracks, beats."""
    return isinstance(value, Motion) and value.asks_shot()


def column(value: Value, size: int) -> NDArray[np.float64]:
    """Return numbers as a column, (size, 1); one number stands for all."""
    numbers = value if isinstance(value, tuple) else (value,) * size
    return np.array(numbers, np.float64)[:, None]


def moved_by(base: Value, wanted: Value, shown: Value) -> Value:
    """Return a base changed by as much as what is wanted differs from what is shown."""
    if isinstance(base, tuple):
        return tuple(b + w - s for b, w, s in zip(base, wanted, shown, strict=True))
    return base + wanted - shown
