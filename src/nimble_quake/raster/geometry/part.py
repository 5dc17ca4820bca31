"""A picture on the part of a grid where anything of it is."""

from __future__ import annotations

from typing import NamedTuple, TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture
from nimble_quake.raster.geometry.grid import Grid


class Patch(NamedTuple):
    """A picture on a grid that is part of a larger one; all round it is clear."""

    picture: Picture
    grid: Grid

    def on(self, grid: Grid) -> Picture:
        """Return the picture on a grid that it is part of; it itself where that is its own."""
        if grid == self.grid:
            return self.picture
        out = np.empty((*grid.shape, 4), np.float32)
        rows, columns = self.grid.inside(grid)
        out[: rows.start] = out[rows.stop :] = 0.0  # each sample is written once
        out[rows, : columns.start] = out[rows, columns.stop :] = 0.0
        out[rows, columns] = self.picture
        return out


def around(whole: Grid, *parts: Grid) -> Grid:
    """Return the smallest part of a grid that others, which are parts of it, lie in; all of it for none."""
    if not parts:
        return whole
    rows, columns = zip(*(part.inside(whole) for part in parts), strict=True)
    left, top = min(each.start for each in columns), min(each.start for each in rows)
    right, low = max(each.stop for each in columns), max(each.stop for each in rows)
    return whole if (right - left, low - top) == whole.shape[::-1] else whole.part(left, top, right - left, low - top)


Part: TypeAlias = tuple[slice, slice]
"""The rows and the columns of a part of an array."""
EVENLY = 64
"""Where a part that is cut out begins, in samples: what is made smaller on its way falls into the same pairs there."""


def box_of(there: NDArray[np.bool_]) -> Part | None:
    """Return the rows and columns of the smallest box round what is there, (H, W); None for nothing."""
    rows, columns = (np.flatnonzero(there.any(axis=axis)) for axis in (1, 0))
    if len(rows) == 0:
        return None
    return slice(int(rows[0]), int(rows[-1]) + 1), slice(int(columns[0]), int(columns[-1]) + 1)


def let_through(fractions: Field, grid: Grid) -> Grid | None:
    """Return the part of a grid where fractions (H, W, 1) on it are above nothing; None for nowhere."""
    box = box_of(fractions[..., 0] > 0)
    if box is None:
        return None
    rows, columns = box
    left, top = columns.start // EVENLY * EVENLY, rows.start // EVENLY * EVENLY
    width, height = columns.stop - left, rows.stop - top
    return grid if (height, width) == grid.shape else grid.part(left, top, width, height)
