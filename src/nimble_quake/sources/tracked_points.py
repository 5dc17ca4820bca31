"""Tracked points."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from nimble_quake.operators.base import Context, Tracked
from nimble_quake.operators.graphs import Remark
from nimble_quake.operators.quantities import a_count, a_distance, a_fraction, a_level, a_size
from nimble_quake.operators.steps import Made, Source, Step
from nimble_quake.params.kinds import Choice, Number, PlateRef, Seed, When, options
from nimble_quake.raster.geometry.figures import Fill, figures
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.noise.hashes import mixed

FEW = 8
"""Fewer points than this are too few to stick to what is seen."""
NO_POINTS = np.zeros((0, 2))


class TrackedPoints(Source):
    """Marks on the points that were tracked in a clip: they stick to what is seen there."""

    title = "Tracked points"
    group = "Pictures"
    help = "Squares, dots, crosses or lines that stick to a tracked clip"
    looks = (("Web", "Lines between neighbours", {"form": "lines", "size": 3.0}),)

    plate = PlateRef(label="Clip", help="The plate whose clip was tracked", tracked=True)
    form = Choice(
        label="Marks",
        help="What is drawn at each point",
        default="square",
        options=options(square="Squares", dot="Dots", cross="Crosses", lines="Lines to neighbours"),
    )
    size = a_size("Size", "How large a mark is, or how thick a line", 40.0, (4, 160), 0.5)
    stretch = Number(
        label="Stretch",
        help="Width beside height: above 100 % wider, below narrower",
        default=1.0,
        neutral=1.0,
        hard=(0.02, 50),
        usual=(0.25, 4),
        unit="%",
        factor=100,
        decimals=0,
    )
    vary = a_fraction("Variation", "How differently large the marks are, by chance", 0.4)
    grows = Number(
        label="Grows in",
        help="How long a mark takes to grow after its point appears",
        default=0.3,
        hard=(0, 60),
        usual=(0, 2),
        unit="s",
        decimals=2,
    )
    share = a_fraction("Share", "How many of the points are marked, by chance", 1.0)
    neighbours = a_count("Neighbours", "To how many others a line is drawn", 3, 12, (1, 6), When("form", "lines"))
    reach = a_distance("Reach", "How far off a neighbour may be", 160.0, (10, 400), when=When("form", "lines"))
    soft = a_distance("Softness", "How wide the edge fades", 1.0, (0, 40))
    low = a_level("Darkest", "The value of some marks", 0.1)
    high = a_level("Lightest", "The value of others", 0.9)
    ground = a_level("Ground", "The value where there is no mark", 0.5)
    seed = Seed(label="Seed", help="Other chance values")

    def timed(self) -> bool:
        return True

    def remark(self, grid: Grid, ctx: Context, before: tuple[Step, ...]) -> Remark | None:
        points = ctx.services.tracked(self.plate) if self.plate else None
        if points is None or len(points.ids) >= FEW:
            return None
        return Remark(
            f"{len(points.ids)} points are followed here: track again with less spacing or detail", figure=1.0
        )

    def make(self, grid: Grid, ctx: Context) -> Made:
        points = ctx.services.tracked(self.plate) if self.plate else None
        values = np.full((*grid.shape, 1), self.ground, np.float32)
        cover = np.zeros((*grid.shape, 1), np.float32)
        if points is None:
            return values, cover
        each, levels = self._marks(points)
        for level in range(LEVELS):  # marks of one value are painted together
            own = levels == level
            if own.any():
                value = self.low + (self.high - self.low) * level / (LEVELS - 1)
                figure = "ellipse" if self.form == "dot" else "rectangle"
                each_own, fill = np.ascontiguousarray(each[own]), Fill(1.0, 1.0, 0.0)
                _, share = figures(grid, figure, each_own, NO_POINTS, self.soft, fill)
                values += (np.float32(value) - values) * share
                cover += (1 - cover) * share
        return values, cover

    def _marks(self, points: Tracked) -> tuple[np.ndarray, np.ndarray]:
        """Return figures (N, 8) as `raster.geometry.figures` wants them, and which of the LEVELS each has."""
        chances = np.array([[mixed(int(id), k, 5, int(self.seed)) for k in range(3)] for id in points.ids]).reshape(
            -1, 3
        )
        kept = chances[:, 0] < self.share
        places, ages, chances = points.places[kept], points.ages[kept], chances[kept]
        levels = np.minimum((chances[:, 1] * LEVELS).astype(int), LEVELS - 1)
        grown = np.clip(ages / self.grows, 0, 1) if self.grows > 0 else np.ones(len(places))
        sizes = self.size / 2 * grown * (1 - self.vary + 2 * self.vary * chances[:, 2])
        if self.form == "lines":
            return self._lines(places, levels)
        wide, high = sizes * math.sqrt(self.stretch), sizes / math.sqrt(self.stretch)
        marks = _boxes(places, wide, high)
        if self.form == "cross":
            thin = np.maximum(np.minimum(wide, high) * 0.22, 0.5)
            marks = np.concatenate([_boxes(places, wide, thin), _boxes(places, thin, high)])
            levels = np.concatenate([levels, levels])
        return marks, levels

    def _lines(self, places: np.ndarray, levels: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        if len(places) < 2:
            return np.zeros((0, 8)), levels[:0]
        from scipy.spatial import cKDTree  # SciPy takes 0.3 s to load

        count = min(int(self.neighbours) + 1, len(places))
        found: Any = cKDTree(places).query(places, k=count, distance_upper_bound=max(self.reach, 1e-3))
        pairs = {
            (min(n, int(m)), max(n, int(m)))
            for n, (far, near) in enumerate(zip(*found, strict=True))
            for d, m in zip(far, near, strict=True)
            if math.isfinite(d) and m != n
        }
        if not pairs:
            return np.zeros((0, 8)), levels[:0]
        first, then = (np.array([pair[k] for pair in sorted(pairs)]) for k in (0, 1))
        way = places[then] - places[first]
        length = np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-6)
        marks = _boxes((places[first] + places[then]) / 2, length / 2, np.full(len(first), self.size / 2))
        marks[:, 4], marks[:, 5] = way[:, 0] / length, way[:, 1] / length
        return marks, levels[first]


LEVELS = 8
"""So many values marks have."""


def _boxes(places: np.ndarray, wide: np.ndarray, high: np.ndarray) -> np.ndarray:
    """Upright boxes: x, y, half width, half height, cosine, sine, opacity, 1 / scale."""
    one, none = np.ones(len(places)), np.zeros(len(places))
    wide, high = np.maximum(wide, 0.05), np.maximum(high, 0.05)
    return np.stack([places[:, 0], places[:, 1], wide, high, one, none, one, one], axis=1)
