"""Delay."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph, Remark
from nimble_quake.operators.quake import PixelQuake
from nimble_quake.operators.quantities import a_time
from nimble_quake.operators.reading import a_channel
from nimble_quake.operators.steps import Step
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.sampling.delays import LIMIT, delayed_frames

FEW = 0.01
"""A smaller fraction of the frame that stands still is not said."""
SEEN = 0.02
"""A ground that is off by less than half a frame of 24 a second is not said, in seconds."""


class Delay(PixelQuake):
    """Shows each pixel as it is at another moment: black the past, rest now, white the future.

    A pixel shows t + seconds x (c - rest) / (1 - rest). Moments lie no closer than the shot's frames; before the shot
    begins and after it ends they are held, looped or mirrored.
    """

    title = "Delay"
    called = "time displacement, slit scan"
    group = "Time"
    rank = 2070
    help = "Each pixel from another moment: the map says when"
    idle_because = "Its time is 0"
    sees_other_times = True

    seconds = a_time("Time", "How much later white is, and black earlier", 1.0, (0, 3), low=-3600.0)
    by = a_channel("By", "The channel of the map that says when")
    ends = Choice(
        label="Ends",
        help="What is shown before the shot begins and after it ends",
        default="hold",
        row=True,
        options=options(hold="Hold", loop="Loop", mirror="Mirror"),
    )
    steps = Number(
        label="Steps",
        help="At most so many moments at once: fewer need less memory, and are seen as slices",
        default=120.0,
        hard=(2, 240),
        usual=(2, 120),
        whole=True,
        decimals=0,
    )

    def idle(self) -> bool:
        return self.seconds * self.strength == 0

    def run(self, grid: Grid, ctx: Context) -> Field:
        amounts, far = self.amounts(grid, ctx), self.seconds * float(ctx.at.rate)
        span = (float(amounts.max(initial=0)) - float(amounts.min(initial=0))) * abs(far)
        step = self._step(min(LIMIT, span), grid, ctx)  # in this order: no number is the farthest
        return ctx.moments(grid, delayed_frames(amounts, far, round(ctx.at.frame), step, ctx.at.length, self.ends))

    def _step(self, span: float, grid: Grid, ctx: Context) -> int:
        """How many frames lie between two moments, so that there are no more than asked, nor than memory holds."""
        most = min(int(self.steps), ctx.most_moments(grid))
        step = max(1, math.ceil((span + 1) / max(most, 1)))
        if most < int(self.steps) and step > 1:
            ctx.services.report_problem(
                f"its memory holds {most} moments at this size, so every {step}th frame is used",
                "use a smaller preview or a shorter time",
            )
        return step

    def lacking(self, grid: Grid, ctx: Context) -> NDArray[np.bool_] | None:
        if self.ends != "hold" or self.idle():
            return None
        wanted = self._wanted(grid, ctx)
        lacking = (wanted < -0.5) | (wanted > ctx.at.length - 0.5)
        return lacking if lacking.any() else None

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        where = self.lacking(grid, ctx)
        fraction = 0.0 if where is None else float(where.mean())
        if where is None or fraction < FEW:
            return None
        past = float((self._wanted(grid, ctx)[where] < 0).mean())
        lacks = "past" if past > 1 - FEW else "future" if past < FEW else "past and future"
        text = f"{fraction:.0%} of the frame stands still: the shot has no more {lacks}"
        return Remark(text, "Mirror it", (("ends", "mirror"),), 100 * fraction)

    def _wanted(self, grid: Grid, ctx: Context) -> NDArray[np.float32]:
        """The frame that each sample is asked to show."""
        return np.float32(ctx.at.frame) + self.amounts(grid, ctx) * np.float32(self.seconds * float(ctx.at.rate))

    def summary(self) -> str:
        return f"{self.seconds * self.strength:.1f} s"

    def does_at(self, level: float, rest: float) -> tuple[str, float]:
        seconds = self.seconds * self.strength * (level - rest) / (1 - rest if abs(1 - rest) > 1e-3 else 1e-3)
        if abs(seconds) < SEEN:
            return "", 0.0
        return f"it is {abs(seconds):.2f} s {'ahead' if seconds > 0 else 'late'}", 10 * abs(seconds)

    def graph(self, rest: float) -> Graph:
        far, span = self.seconds * self.strength, (1 - rest if abs(1 - rest) > 1e-3 else 1e-3)
        points = tuple(((v - rest) / span * far, v) for v in (0.0, 1.0))
        reach = max(abs(x) for x, _ in points)
        return Graph((Curve(points),), max(reach, 0.04), "s")
