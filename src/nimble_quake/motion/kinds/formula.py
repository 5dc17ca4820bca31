"""A formula: a motion computed from time."""

from __future__ import annotations

from typing import Self

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Frames, Json, Value
from nimble_quake.errors import FormulaError, ShotError
from nimble_quake.motion.formula import evaluate, evaluate_many, parsed, readers_at, reads_shot
from nimble_quake.motion.formula_moved import refitted_formula, renamed_formula
from nimble_quake.motion.motion import Motion
from nimble_quake.motion.reading import Reading
from nimble_quake.motion.timing import Moment
from nimble_quake.params.base import Rename
from nimble_quake.params.kinds import Param, shown
from nimble_quake.params.refit import Refit, Scaling


class Formula(Motion, frozen=True):
    """One expression, or one for each number of the value, separated by commas."""

    text: str

    word = "formula"
    title = "Formula"
    rank = 30

    def at(self, moment: Moment, size: int) -> Value:
        """Where it has none before the shot begins (a root of t), the one it begins with."""
        try:
            found = evaluate(self.text, moment.names(), size, readers_at(moment))
        except FormulaError:
            if moment.frame >= 0:
                raise
            found = evaluate(self.text, moment.at(0).names(), size, readers_at(moment.at(0)))
        return found[0] if size == 1 else found

    def at_frames(self, moment: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        try:
            return self.whole_frames(moment, frames, size)
        except FormulaError:  # a moment that has no number may have one as `at` finds it
            return super().at_frames(moment, frames, size)

    def whole_frames(self, start: Moment, frames: NDArray[np.float64], size: int) -> NDArray[np.float64]:
        if self.asks_shot():
            return super().whole_frames(start, frames, size)
        return np.asarray(evaluate_many(self.text, start.names_at(frames), size))

    def asks_shot(self) -> bool:
        return reads_shot(self.text)

    def hears_beats(self) -> bool:
        return "beat" in self.text

    def how_to_close(self) -> str:
        return "use terms that swing a whole number of times over the shot"

    @classmethod
    def begun(cls, now: Value, frame: Frames, size: int) -> Self:
        return cls(", ".join(f"{n:g}" for n in (now if isinstance(now, tuple) else (now,))))

    def clamped(self, param: Param) -> Formula | None:
        if not param.animatable or not param.size:
            return None
        try:
            parsed(self.text, param.size)
        except FormulaError:
            return None
        return self

    def refitted(self, scaling: Scaling, by: Refit, size: int) -> Formula:
        return Formula(refitted_formula(self.text, scaling, by, size))

    def renamed(self, rename: Rename) -> Formula:
        return Formula(renamed_formula(self.text, rename))

    @classmethod
    def decoded(cls, param: Param, raw: dict[str, Json], reading: Reading) -> Formula:
        text = raw["formula"]
        if not isinstance(text, str):
            raise ShotError(f"expected a formula, got {shown(text)}")
        parsed(text, param.size)
        return cls(text)

    def encoded(self, param: Param) -> Json:
        return {"formula": self.text}
