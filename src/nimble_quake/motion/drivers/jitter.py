"""Jitter."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.motion.driver import Driver
from nimble_quake.motion.random_walk import random_of, randoms_of, wander, wanders
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number, Seed, When, options

FINER = 4
"""Walks of a rough jitter laid over each other, each twice as fast and half as far."""


class Jitter(Driver):
    """Moves at random: a walk, steps, or a flicker."""

    title = "Jitter"
    help = "Moves at random: a walk, steps, or a flicker"
    rank = 20

    sort = Choice(
        label="Sort",
        help="How it moves",
        default="smooth",
        options=options(
            smooth="Smooth: a soft walk",
            rough="Rough: a walk that trembles",
            stepped="Stepped: a new value at once",
            flicker="Flicker: there, and now and then gone",
        ),
    )
    pace = Number(
        label="Pace",
        help="New values a second",
        default=6.0,
        hard=(0.001, 1000),
        usual=(0.5, 24),
        unit="/s",
        decimals=1,
    )
    share = Number(
        label="There",
        help="How much of the time it is there",
        default=0.5,
        hard=(0, 1),
        usual=(0, 1),
        unit="%",
        factor=100,
        decimals=0,
        shown_when=When("sort", "flicker"),
    )
    seed = Seed(label="Seed", help="Which of many random courses it takes")

    def _pace(self, moment: Moment) -> tuple[float, int]:
        """How many new values a second, and after how many it begins again (0: never)."""
        if not moment.loops:
            return self.pace, 0
        pace = moment.whole_in_loop(self.pace)
        return pace, max(1, round(pace * moment.length / float(moment.rate)))

    def _first(self, number: int) -> float:
        return (self.seed * 7919.0 + number * 101.0) * 8

    def courses(self, moment: Moment, frames: NDArray[np.float64], number: int, size: int) -> NDArray[np.float64]:
        (pace, period), first = self._pace(moment), self._first(number)
        at = frames / float(moment.rate) * pace
        if self.sort in ("smooth", "rough"):
            many = 1 if self.sort == "smooth" else FINER
            walks = sum(wanders(at * 2**n, period * 2**n, first + n * 13.0) / 2**n for n in range(many))
            return np.asarray(walks if many == 1 else walks / (2 - 2 / 2**FINER))
        step = np.floor(at) % period if period else np.floor(at)
        found = randoms_of(step + first)
        return np.asarray(found * 2 - 1 if self.sort == "stepped" else found < self.share, np.float64)

    def course(self, moment: Moment, number: int, size: int) -> float:
        (pace, period), first = self._pace(moment), self._first(number)
        at = moment.seconds * pace
        if self.sort == "smooth":
            return wander(at, period, first)
        if self.sort == "rough":
            walks = (wander(at * 2**n, period * 2**n, first + n * 13.0) / 2**n for n in range(FINER))
            return float(sum(walks) / (2 - 2 / 2**FINER))
        step = math.floor(at) % period if period else math.floor(at)
        found = random_of(step + first)
        return found * 2 - 1 if self.sort == "stepped" else float(found < self.share)

    def said(self) -> str:
        return f"{self.sort}, {self.pace:g} /s"
