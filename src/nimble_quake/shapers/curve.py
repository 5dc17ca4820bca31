"""Curve."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.operators.steps import PointShaper
from nimble_quake.params.kinds import Outline
from nimble_quake.raster.colour.pointwise import TABLE, Op, op
from nimble_quake.raster.geometry.curves import monotone


class Curve(PointShaper):
    """A free curve from old values to new ones, smooth and without overshoot between its points."""

    title = "Curve"
    group = "Values"
    help = "Bends values by a curve of your own"
    looks = (("Two crests", "Middles become bright, both ends dark", {"points": ((0.0, 0.0), (0.5, 1.0), (1.0, 0.0))}),)

    points = Outline(
        label="Curve",
        help="Old value across, new value up",
        least=2,
        default=((0.0, 0.0), (0.25, 0.18), (0.75, 0.82), (1.0, 1.0)),
    )

    def ops(self, rest: float) -> tuple[Op, ...]:
        points = sorted(self.points)
        if all(x == y for x, y in points):
            return ()
        return (op(TABLE, 0.0, 1.0, table=_table(tuple(points))),)


@lru_cache(maxsize=64)
def _table(points: tuple[tuple[float, float], ...]) -> NDArray[np.float32]:
    return monotone(points, np.linspace(0, 1, 513)).astype(np.float32)
