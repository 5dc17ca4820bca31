"""Pixelate."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Number, Toggle
from nimble_quake.raster.blur.filters import cell_means, filled_cells
from nimble_quake.raster.geometry.grid import Grid


class Pixelate(Shaper):
    """Every cell takes the mean of what it holds: the picture breaks into hard blocks."""

    title = "Pixelate"
    group = "Cells"
    help = "Flat cells: the push becomes blocks"
    averages = True
    lively = {"size_x": 110.0, "size_y": 90.0}

    size_x = Number(
        label="Cell across", help="Width of a cell", default=40.0, hard=(1, 8000), usual=(4, 200), unit="px", decimals=0
    )
    size_y = Number(
        label="Cell down", help="Height of a cell", default=40.0, hard=(1, 8000), usual=(4, 200), unit="px", decimals=0
    )
    exact = Toggle(
        label="Fill exactly", help="Changes the cell a little, so that whole cells fill the frame", default=True
    )

    def _sizes(self, at: Moment) -> tuple[float, float]:
        """The cell, not larger than the frame, and changed to fill it exactly where asked."""
        size_x, size_y = min(self.size_x, at.width), min(self.size_y, at.height)
        if self.exact:
            size_x = at.width / max(1, round(at.width / size_x))
            size_y = at.height / max(1, round(at.height / size_y))
        return size_x, size_y

    def margin(self, at: Moment) -> Pixels:
        return max(self._sizes(at))

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        size_x, size_y = self._sizes(ctx.at)
        cols, starts_x = _cells(outer.xs(), size_x)
        rows, starts_y = _cells(outer.ys(), size_y)
        means = cell_means(field, starts_x, starts_y)
        down, across = grid.inside(outer)
        return filled_cells(means, rows[down], cols[across])


def _cells(places: NDArray[np.float32], size: float) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Return the cell number of every sample, and the sample edges of the cells."""
    cell = np.floor(places.astype(np.float64) / size)
    starts = np.flatnonzero(np.diff(cell)) + 1
    number = np.searchsorted(starts, np.arange(len(places)), side="right")
    return number, np.concatenate([[0], starts, [len(places)]])
