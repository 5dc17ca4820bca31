"""Pixelate."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Pixels
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Context
from nimble_quake.operators.quantities import linked_to
from nimble_quake.operators.steps import Shaper
from nimble_quake.params.kinds import Choice, Number, Toggle, When, options
from nimble_quake.raster.blur.filters import cell_means, filled_cells
from nimble_quake.raster.geometry.grid import Grid


class Pixelate(Shaper):
    """Every cell takes the mean of what it holds: the picture breaks into hard blocks."""

    title = "Pixelate"
    group = "Cells"
    help = "Flat cells: the push becomes blocks"
    averages = True
    lively = {"size_x": 110.0, "size_y": 90.0}
    looks = (("Honeycomb", "Flat hexagons", {"cells": "hexagons", "size_x": 80.0, "size_y": 92.0}),)

    cells = Choice(
        label="Cells",
        help="Boxes, or hexagons as in a honeycomb; a hexagon as high as it is wide is a little flat",
        default="boxes",
        row=True,
        options=options(boxes="Boxes", hexagons="Hexagons"),
    )
    size_x = Number(
        label="Cell across", help="Width of a cell", default=40.0, hard=(1, 8000), usual=(4, 200), unit="px", decimals=0
    )
    size_y = linked_to(
        "size_x",
        Number(
            label="Cell down",
            help="Height of a cell",
            default=40.0,
            hard=(1, 8000),
            usual=(4, 200),
            unit="px",
            decimals=0,
        ),
    )
    exact = Toggle(
        label="Fill exactly",
        help="Changes the cell a little, so that whole cells fill the frame",
        default=True,
        shown_when=When("cells", "boxes"),
    )

    def _sizes(self, at: Moment) -> tuple[float, float]:
        """The cell, not larger than the frame, and changed to fill it exactly where asked."""
        size_x, size_y = min(self.size_x, at.width), min(self.size_y, at.height)
        if self.exact and self.cells == "boxes":
            size_x = at.width / max(1, round(at.width / size_x))
            size_y = at.height / max(1, round(at.height / size_y))
        return size_x, size_y

    def margin(self, at: Moment) -> Pixels:
        return max(self._sizes(at))

    def shape(self, field: Field, outer: Grid, grid: Grid, ctx: Context) -> Field:
        size_x, size_y = self._sizes(ctx.at)
        if self.cells == "hexagons":
            return _in_hexagons(field, outer, grid.inside(outer), size_x, size_y)
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


def _in_hexagons(field: Field, outer: Grid, inside: tuple[slice, slice], wide: float, high: float) -> Field:
    """Return the mean of each hexagon, upright on a corner, so wide and high: rows lie 3/4 of their height apart."""
    cells = hexagon_numbers(outer.xs(), outer.ys(), wide, high)
    numbers, of = np.unique(cells, return_inverse=True)
    of, counts = of.ravel(), np.bincount(of.ravel(), minlength=len(numbers))
    means = [np.bincount(of, field[..., k].ravel(), len(numbers)) / counts for k in range(field.shape[2])]
    shown = np.stack(means, axis=1).astype(np.float32)[of].reshape(field.shape)
    return np.ascontiguousarray(shown[inside])


def hexagon_numbers(xs: NDArray[np.float32], ys: NDArray[np.float32], wide: float, high: float) -> NDArray[np.int64]:
    """Return which hexagon each place lies in, (H, W): that whose middle is nearest, of the two rows it lies between.

    Distances are taken where hexagons are regular: as wide as they are here, 2 / sqrt(3) as high (their Voronoi cells).
    """
    row = 0.75 * high
    upper = np.floor(ys.astype(np.float64) / row)[:, None]
    best = np.full((len(ys), len(xs)), np.inf)
    found = np.zeros(best.shape, np.int64)
    for line in (upper, upper + 1):
        aside = 0.5 * wide * (line % 2)
        column = np.round((xs[None].astype(np.float64) - aside) / wide)
        dx = xs[None] - (column * wide + aside)
        dy = (ys[:, None] - line * row) * (wide * math.sqrt(3) / 2 / row)
        distance = dx * dx + dy * dy
        nearer = distance < best
        best = np.where(nearer, distance, best)
        found = np.where(nearer, (line.astype(np.int64) << 24) + column.astype(np.int64), found)
    return found
