"""Delay."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_time
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import PixelQuake
from nimble_quake.operators.reading import ReadsMap, a_channel
from nimble_quake.params.kinds import Choice, Number, options
from nimble_quake.raster.grid import Grid


class Delay(ReadsMap, PixelQuake):
    """Shows each pixel as it is at another moment: black the past, rest now, white the future.

    A pixel shows t + seconds x (c - rest) / (1 - rest). Moments lie no closer than the shot's frames; before the shot
    begins and after it ends they are held, looped or mirrored.
    """

    title = "Delay"
    group = "Time"
    rank = 70
    help = "Each pixel from another moment: the map says when"
    idle_because = "Its time is 0"
    sees_other_times = True

    seconds = a_time("Time", "How much later white is, and black earlier", 1.0, (0, 3), low=-3600.0)
    by = a_channel("By", "The channel of the map that says when")
    ends = Choice(
        label="Ends", help="What is shown before the shot begins and after it ends", default="hold", row=True,
        options=options(hold="Hold", loop="Loop", mirror="Mirror"),
    )  # fmt: skip
    steps = Number(
        label="Steps", help="At most so many moments at once: fewer need less memory, and are seen as slices",
        default=120.0, hard=(2, 240), usual=(2, 120), whole=True, decimals=0,
    )  # fmt: skip

    def idle(self) -> bool:
        return self.seconds * self.strength == 0

    def run(self, grid: Grid, ctx: Context) -> Field:
        rate, now = float(ctx.at.rate), round(ctx.at.frame)
        later = np.rint(self.amounts(grid, ctx) * np.float32(self.seconds * rate))
        step = self._step(float(later.min(initial=0)), float(later.max(initial=0)), grid, ctx)
        # moments lie on steps of the shot, not of now: the next frame finds most of them kept
        frames = np.where(later == 0, now, np.rint((now + later) / step) * step)
        return ctx.moments(grid, self._within(frames, ctx.at.length))

    def _step(self, low: float, high: float, grid: Grid, ctx: Context) -> int:
        """How many frames lie between two moments, so that there are no more than asked, nor than memory holds."""
        most = min(int(self.steps), ctx.most_moments(grid))
        step = max(1, int(np.ceil((high - low + 1) / max(most, 1))))
        if most < int(self.steps) and step > 1:
            ctx.feed.complain(
                f"its memory holds {most} moments at this size, so every {step}th frame is used",
                "use a smaller preview or a shorter time",
            )
        return step

    def _within(self, frames: np.ndarray, length: int) -> np.ndarray:
        if self.ends == "loop":
            return np.asarray(np.mod(frames, length), np.int32)
        if self.ends == "mirror":
            turn = np.mod(frames, max(1, 2 * length - 2))
            return np.asarray(np.where(turn < length, turn, 2 * length - 2 - turn), np.int32)
        return np.asarray(np.clip(frames, 0, length - 1), np.int32)

    def summary(self) -> str:
        return f"{self.seconds * self.strength:.1f} s"

    def graph(self, rest: float) -> Graph:
        far, span = self.seconds * self.strength, (1 - rest if abs(1 - rest) > 1e-3 else 1e-3)
        points = tuple(((v - rest) / span * far, v) for v in (0.0, 1.0))
        reach = max(abs(x) for x, _ in points)
        return Graph((Curve(points),), max(reach, 0.04), "s")
