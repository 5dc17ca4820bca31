"""Follow."""

from __future__ import annotations

from nimble_quake.conventions import Value, Values
from nimble_quake.errors import MotionError
from nimble_quake.motion.driver import Driver
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number, Toggle, ValueRef, When, options
from nimble_quake.params.refit import Refit, Scaling

LIMIT = 1e9


class Follow(Driver):
    """Goes as another value goes: the same, against it, less, later."""

    title = "Follow"
    help = "Goes as another value goes: the same, against it, less, later"
    rank = 40
    amount = ("Times", "What the other value is multiplied by: -1 goes against it")
    base = ("Plus", "What is added")
    factor = True
    asks_shot = True

    path = ValueRef(label="Value", help="The path of the value it follows")
    part = Choice(
        label="Part",
        help="Which number of a value that has several",
        default="each",
        options=options(
            each="Each its own",
            first="First: x or red",
            second="Second: y or green",
            third="Third: blue",
            fourth="Fourth: alpha",
        ),
    )
    delay = Number(
        label="Delay",
        help="How many frames later it goes",
        default=0.0,
        hard=(-1e5, 1e5),
        usual=(0, 24),
        unit="f",
        decimals=0,
    )
    clamped = Toggle(label="Clamp", help="The other value counts only between two ends")
    low = Number(
        label="From",
        help="Below this it counts as this",
        default=0.0,
        hard=(-LIMIT, LIMIT),
        usual=(-100, 100),
        decimals=2,
        shown_when=When("clamped"),
    )
    high = Number(
        label="To",
        help="Above this it counts as this",
        default=1.0,
        hard=(-LIMIT, LIMIT),
        usual=(-100, 100),
        decimals=2,
        shown_when=When("clamped"),
    )

    def course(self, moment: Moment, number: int, size: int) -> float:
        if not self.path:
            raise MotionError("it follows nothing", cure="pick the value it follows")
        numbers = moment.other_value(self.path, moment.frame - self.delay)
        which = ("first", "second", "third", "fourth")
        at = which.index(self.part) if self.part in which else (number if size > 1 or len(numbers) == 1 else 0)
        found = numbers[min(at, len(numbers) - 1)]
        return min(max(found, self.low), self.high) if self.clamped and self.low <= self.high else found

    def refit_course(self, by: Refit) -> Scaling:
        found = by.scaling_of(self.path)
        part = ("first", "second", "third", "fourth")
        if self.part not in part:
            return found
        at = part.index(self.part)
        return Scaling((found.factor(at),), (found.offset(at),))

    def refitted(self, by: Refit) -> Driver:
        scaling = self.refit_course(by)
        bounds = {"low": scaling.of(self.low), "high": scaling.of(self.high)}
        return Follow({**super().refitted(by).values, **bounds})

    def said(self) -> str:
        return f"{self.delay:g} f later" if self.delay else ""

    @classmethod
    def begun(cls, base: Value, usual: tuple[float, float], size: int) -> tuple[Value, Value, Values]:
        return ((0.0,) * size, (1.0,) * size, {}) if size > 1 else (0.0, 1.0, {})
