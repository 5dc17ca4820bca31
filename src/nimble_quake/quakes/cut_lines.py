"""Cut lines."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Pixels, Warp
from nimble_quake.operators.base import Context
from nimble_quake.operators.common import a_count, a_size, an_angle
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.params.kinds import Choice, Number, Place, options
from nimble_quake.raster.places import Places


class CutLines(FreeQuake):
    """Cuts the picture by parallel lines; what lies between is stretched, the rest keeps its size and moves along."""

    title = "Cut lines"
    group = "Move"
    rank = 60
    help = "Only the zones between lines are stretched: long letters"
    may_fold = False
    idle_because = "Its stretch is 100 %"
    simple = False

    place = Place(label="First line", help="Where the first line lies")
    turn = an_angle("Which way the lines follow one another; 0 is right, 90 is down", 90.0, "Towards")
    lines = a_count("Lines", "How many lines cut it", 2, 64, (2, 12))
    apart = a_size("Apart", "From one line to the next, in the picture", 80.0, (4, 600))
    widens = Number(
        label="Widens", help="How much farther apart each pair lies than the one before", default=1.0, hard=(0.1, 10),
        usual=(0.5, 2), unit="%", factor=100, decimals=0,
    )  # fmt: skip
    stretch = Number(
        label="Stretch", help="How long a stretched zone becomes, beside its own length", default=2.5,
        hard=(0.01, 1000), usual=(0.2, 8), unit="%", factor=100, decimals=0,
    )  # fmt: skip
    zones = Choice(
        label="Zones", help="Every zone between lines is stretched, or every other one", default="all", row=True,
        options=options(all="All", other="Every other"),
    )  # fmt: skip
    stays = Choice(
        label="Stays", help="What keeps its place", default="middle", row=True,
        options=options(first="First", middle="Middle", last="Last"),
    )  # fmt: skip

    def idle(self) -> bool:
        return self._stretch() == 1

    def _stretch(self) -> float:
        return max(1e-3, 1 + (self.stretch - 1) * self.strength)

    def _lines(self) -> tuple[np.ndarray, np.ndarray]:
        """Where the lines lie in the picture and in the result, along their way, from the first one."""
        gaps = np.minimum(self.apart * self.widens ** np.arange(int(self.lines) - 1), 1e6)
        grown = gaps.copy()
        grown[:: 1 if self.zones == "all" else 2] *= self._stretch()
        source, result = (np.concatenate([[0.0], np.cumsum(found)]) for found in (gaps, grown))
        excess = result[-1] - source[-1]
        return source, result - excess * {"first": 0.0, "middle": 0.5, "last": 1.0}[self.stays]

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        where = places.absolute()
        along = (where[0] - np.float32(self.place[0])) * np.float32(c) + (
            where[1] - np.float32(self.place[1])
        ) * np.float32(s)
        source, result = self._lines()
        shift = np.interp(along, result, source - result).astype(np.float32)
        np.multiply(shift, np.float32(c), out=where[0])
        np.multiply(shift, np.float32(s), out=where[1])
        return where

    def reach_of_offsets(self, ctx: Context) -> Pixels:
        source, result = self._lines()
        return float(np.abs(source - result).max()) * self.most_weight(ctx)

    def summary(self) -> str:
        return f"{self._stretch() * 100:.0f} %"

    def graph(self, rest: float) -> Graph:
        source, result = self._lines()
        span = max(float(result[-1] - result[0]), 1e-3)
        points = [
            ((p - result[0]), float((q - source[0]) / max(source[-1], 1e-3)))
            for p, q in zip(result, source, strict=True)
        ]
        return Graph(
            (Curve(tuple((float(x), y) for x, y in points)),), span, "px", "picture", one_way=True, foot="result"
        )
