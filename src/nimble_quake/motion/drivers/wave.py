"""Wave."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.motion.driver import Driver
from nimble_quake.motion.timing import Moment
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.params.refit import Refit


class Wave(Driver):
    """Swings to and fro at a steady pace, for ever."""

    title = "Wave"
    help = "Swings to and fro at a steady pace"
    rank = 10

    shape = Choice(
        label="Shape",
        help="How it goes to and fro",
        default="sine",
        options=options(
            sine="Sine: softly",
            triangle="Triangle: straight up and down",
            saw="Saw: rises, then falls at once",
            square="Square: one side, then the other",
        ),
    )
    period = Number(
        label="Period",
        help="How long one swing there and back takes",
        default=1.0,
        hard=(0.001, 1e6),
        usual=(0.1, 8),
        decimals=2,
    )
    unit = Choice(
        label="In",
        help="What the period is counted in",
        default="seconds",
        row=True,
        options=options(seconds="Seconds", frames="Frames", beats="Beats"),
    )
    phase = Number(
        label="Phase",
        help="Where in the swing it begins",
        default=0.0,
        hard=(-36000, 36000),
        usual=(-180, 180),
        unit="°",
        decimals=0,
    )
    apart = Number(
        label="Apart",
        help="How much later in the swing y is than x: a quarter makes it go in circles",
        default=90.0,
        hard=(-36000, 36000),
        usual=(0, 360),
        unit="°",
        decimals=0,
    )

    asks_shot = True

    def course(self, moment: Moment, number: int, size: int) -> float:
        swings = self._gone(moment) / self.period
        if moment.loops and self.unit != "beats":
            swings = moment.whole_in_loop(1 / self._seconds(moment)) * moment.seconds
        at = (swings + (self.phase - number * self.apart) / 360) % 1.0
        if self.shape == "sine":
            return math.sin(at * math.tau)
        if self.shape == "triangle":
            return 4 * abs((at + 0.75) % 1.0 - 0.5) - 1
        return 2 * at - 1 if self.shape == "saw" else (1.0 if at < 0.5 else -1.0)

    def courses(self, moment: Moment, frames: NDArray[np.float64], number: int, size: int) -> NDArray[np.float64]:
        if self.unit == "beats":
            return super().courses(moment, frames, number, size)
        seconds = frames / float(moment.rate)
        swings = (frames if self.unit == "frames" else seconds) / self.period
        if moment.loops:
            swings = moment.whole_in_loop(1 / self._seconds(moment)) * seconds
        at = (swings + (self.phase - number * self.apart) / 360) % 1.0
        if self.shape == "sine":
            return np.sin(at * math.tau)
        if self.shape == "triangle":
            return 4 * np.abs((at + 0.75) % 1.0 - 0.5) - 1
        return 2 * at - 1 if self.shape == "saw" else np.where(at < 0.5, 1.0, -1.0)

    def _seconds(self, moment: Moment) -> float:
        return self.period if self.unit == "seconds" else self.period / float(moment.rate)

    def _gone(self, moment: Moment) -> float:
        if self.unit == "frames":
            return float(moment.frame)
        return moment.beats_gone() if self.unit == "beats" else moment.seconds

    def refitted(self, by: Refit) -> Driver:
        found = dict(super().refitted(by).values)
        if self.unit == "frames":
            found["period"] = self.period * by.frames
        return Wave(found)

    def said(self) -> str:
        unit = {"seconds": "s", "frames": "f", "beats": "beats"}[self.unit]
        return f"{self.shape}, {self.period:g} {unit}"
