"""Cut lines."""

from __future__ import annotations

import math
import re

import numpy as np

from nimble_quake.conventions import Pixels, Value, Warp
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.graphs import Curve, Graph
from nimble_quake.operators.quake import FreeQuake
from nimble_quake.operators.quantities import a_count, a_size, an_angle
from nimble_quake.params.kinds import Choice, Net, Number, Place, When, Words, options
from nimble_quake.raster.geometry.places import Places

LEAST = 1e-3
"""Shot pixels that are always left between two lines."""
LIMIT, HALVINGS = 20_000.0, 40
"""How far a line is looked for when it is dragged, and how often that is halved."""


class CutLines(FreeQuake):
    """Cuts the picture by parallel lines; what lies between is stretched, the rest keeps its size and moves along."""

    title = "Cut lines"
    group = "Move"
    rank = 2060
    help = "Only the zones between lines are stretched: long letters"
    may_fold = False
    idle_because = "Its stretch is 100 %"
    simple = False

    place = Place(label="First line", help="Where the first line lies")
    turn = an_angle("Which way the lines follow one another; 0 is right, 90 is down", 90.0, "Towards")
    lines = a_count("Lines", "How many lines cut it", 2, 64, (2, 12))
    apart = a_size("Apart", "From one line to the next, in the picture", 80.0, (4, 600))
    widens = Number(
        label="Widens",
        help="How much farther apart each pair lies than the one before",
        default=1.0,
        hard=(0.1, 10),
        usual=(0.5, 2),
        unit="%",
        factor=100,
        decimals=0,
    )
    stretch = Number(
        label="Stretch",
        help="How long a stretched zone becomes, beside its own length",
        default=2.5,
        neutral=1.0,
        hard=(0.01, 1000),
        usual=(0.2, 8),
        unit="%",
        factor=100,
        decimals=0,
    )
    zones = Choice(
        label="Zones",
        help="Which zones between lines are stretched; the others keep their size",
        default="all",
        options=options(all="All", other="Every other", picked="Picked: by number"),
    )
    picked = Words(
        label="Numbers",
        help="The zones that are stretched, counted from the first line: 1 3 4",
        default="1",
        shown_when=When("zones", "picked"),
    )
    moved = Net(label="Moved lines", help="How far lines are moved from their even places: drag them in the picture")
    stays = Choice(
        label="Stays",
        help="What keeps its place",
        default="middle",
        row=True,
        options=options(first="First", middle="Middle", last="Last"),
    )

    def idle(self) -> bool:
        return self._stretch() == 1

    def _stretch(self) -> float:
        return max(1e-3, 1 + (self.stretch - 1) * self.strength)

    def _lines(self) -> tuple[np.ndarray, np.ndarray]:
        """Where the lines lie in the picture and in the result, along their way, from the first one."""
        return self._laid(self._moves())

    def _moves(self) -> np.ndarray:
        """How far each line is moved along the way; what the list does not hold is not moved."""
        count = int(self.lines)
        offsets = np.array(self.moved[: 2 * count : 2], np.float64)
        return np.concatenate([offsets, np.zeros(count - len(offsets))])

    def _laid(self, moves: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        even = np.minimum(self.apart * self.widens ** np.arange(int(self.lines) - 1), 1e6)
        source = np.concatenate([[0.0], np.cumsum(even)]) + moves
        gaps = np.maximum(np.diff(source), LEAST)  # no line passes another
        source = source[0] + np.concatenate([[0.0], np.cumsum(gaps)])
        grown = gaps.copy()
        grown[self._stretched(len(grown))] *= self._stretch()
        result = source[0] + np.concatenate([[0.0], np.cumsum(grown)])
        excess = result[-1] - source[-1]
        return source, result - excess * {"first": 0.0, "middle": 0.5, "last": 1.0}[self.stays]

    def _stretched(self, count: int) -> list[int]:
        if self.zones == "picked":
            return sorted({int(n) - 1 for n in re.findall(r"[0-9]{1,4}", self.picked) if 1 <= int(n) <= count})
        return list(range(0, count, 1 if self.zones == "all" else 2))

    def _way(self) -> tuple[float, float]:
        return math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))

    def own_offsets(self, places: Places, ctx: Context) -> Warp:
        c, s = self._way()
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

    def dragged_points(self, moment: Moment) -> dict[str, list[tuple[float, float]]]:
        (x, y), (c, s) = self.place, self._way()
        return {"moved": [(x + c * float(at), y + s * float(at)) for at in self._lines()[1]]}

    def with_point(self, name: str, number: int, place: tuple[float, float], moment: Moment) -> Value:
        """Move a line so that it is seen where it is dragged to, which depends on how far its zones are stretched."""
        c, s = self._way()
        wanted = (place[0] - self.place[0]) * c + (place[1] - self.place[1]) * s
        moves = self._moves()
        low, high = moves[number] - LIMIT, moves[number] + LIMIT
        for _ in range(HALVINGS):
            moves[number] = (low + high) / 2
            low, high = (moves[number], high) if self._laid(moves)[1][number] < wanted else (low, moves[number])
        return tuple(float(v) for move in moves for v in (round(move, 2), 0.0))

    def drawn_lines(self, moment: Moment) -> list[list[tuple[float, float]]]:
        far = math.hypot(moment.width, moment.height)
        c, s = self._way()
        return [
            [(x - s * far, y + c * far), (x + s * far, y - c * far)] for x, y in self.dragged_points(moment)["moved"]
        ]

    def summary(self) -> str:
        return f"{self._stretch() * 100:.0f} %"

    def graph(self, rest: float) -> Graph:
        source, result = self._lines()
        span = max(float(result[-1] - result[0]), 1e-3)
        points = [
            ((p - result[0]), float((q - source[0]) / max(source[-1] - source[0], 1e-3)))
            for p, q in zip(result, source, strict=True)
        ]
        return Graph(
            (Curve(tuple((float(x), y) for x, y in points)),), span, "px", "picture", one_way=True, foot="result"
        )
