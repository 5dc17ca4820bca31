"""The grid of sample places a picture or field is computed on."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import MAX_PIXELS, MAX_SIDE, Affine, Pixels
from nimble_quake.errors import LimitError


@dataclass(frozen=True, slots=True)
class Grid:
    """`width` x `height` samples; sample (i, j) lies at shot place (x0 + (i + .5)/scale, y0 + (j + .5)/scale)."""

    x0: float
    y0: float
    width: int
    height: int
    scale: float = 1.0

    @property
    def shape(self) -> tuple[int, int]:
        """(rows, columns)."""
        return self.height, self.width

    @property
    def step(self) -> float:
        """The distance between neighbouring samples, in shot pixels."""
        return 1.0 / self.scale

    def xs(self) -> NDArray[np.float32]:
        """Return the x of every column, shot pixels."""
        return (self.x0 + (np.arange(self.width) + 0.5) / self.scale).astype(np.float32)

    def ys(self) -> NDArray[np.float32]:
        """Return the y of every row, shot pixels."""
        return (self.y0 + (np.arange(self.height) + 0.5) / self.scale).astype(np.float32)

    def samples(self, distance: Pixels) -> int:
        """Return how many samples cover a distance in shot pixels, rounded up."""
        return max(0, math.ceil(distance * self.scale - 1e-9))

    def grown(self, samples: int) -> Grid:
        """Return this grid with `samples` more on every side."""
        if samples <= 0:
            return self
        side = samples / self.scale
        return Grid(self.x0 - side, self.y0 - side, self.width + 2 * samples, self.height + 2 * samples, self.scale)

    def grown_near(self, sides: tuple[int, int, int, int], size: tuple[float, float]) -> Grid:
        """Return this grid with so many samples more on each side, but none more than a frame's longer side beyond it.

        sides: left, top, right, bottom; size: the frame's, shot pixels. Many steps that each see far would otherwise
        ask for more than memory holds.
        """
        if max(sides) <= 0:
            return self
        far = max(size)
        room = (
            self.x0 + far,
            self.y0 + far,
            size[0] + far - self.x0 - self.width / self.scale,
            size[1] + far - self.y0 - self.height / self.scale,
        )
        most = (max(0, math.ceil(side * self.scale - 1e-6)) for side in room)
        left, top, right, bottom = (max(0, min(samples, end)) for samples, end in zip(sides, most, strict=True))
        if left == top == right == bottom:
            return self.grown(left)
        return self.part(-left, -top, self.width + left + right, self.height + top + bottom)

    def inside(self, outer: Grid) -> tuple[slice, slice]:
        """Return the rows and columns of `outer` that this grid covers (outer was grown from it)."""
        left = round((self.x0 - outer.x0) * self.scale)
        top = round((self.y0 - outer.y0) * self.scale)
        return slice(top, top + self.height), slice(left, left + self.width)

    def inside_frame(self, size: tuple[float, float]) -> tuple[slice, slice]:
        """Return the rows and columns of this grid that lie within a frame of a size (shot pixels)."""
        width, height = (max(1, round(side * self.scale)) for side in size)
        left, top = (
            min(max(0, round(-at * self.scale)), n) for at, n in ((self.x0, self.width), (self.y0, self.height))
        )
        right = min(max(left, round(width - self.x0 * self.scale)), self.width)
        low = min(max(top, round(height - self.y0 * self.scale)), self.height)
        return slice(top, low), slice(left, right)

    def beyond(self, size: tuple[float, float]) -> list[Grid]:
        """Return the parts of this grid that lie outside a frame of a size (shot pixels): above, below, beside it."""
        rows, columns = self.inside_frame(size)
        left, top, right, low = columns.start, rows.start, columns.stop, rows.stop
        boxes = (
            (0, 0, self.width, top),
            (0, low, self.width, self.height - low),
            (0, top, left, low - top),
            (right, top, self.width - right, low - top),
        )
        return [self.part(*box) for box in boxes if box[2] > 0 and box[3] > 0]

    def part(self, left: int, top: int, width: int, height: int) -> Grid:
        """Return the grid of a rectangle of samples."""
        return Grid(self.x0 + left / self.scale, self.y0 + top / self.scale, width, height, self.scale)

    def index_affine(self) -> Affine:
        """Return the map from shot place to sample place (centres at +.5)."""
        s = self.scale
        return (s, 0.0, -self.x0 * s, 0.0, s, -self.y0 * s)


def frame_grid(width: float, height: float, scale: float = 1.0) -> Grid:
    """Return the grid of a whole frame at a preview scale. Raises LimitError when it would be enormous."""
    columns, rows = max(1, round(width * scale)), max(1, round(height * scale))
    refuse_enormous(columns, rows, "the frame")
    return Grid(0.0, 0.0, columns, rows, scale)


def refuse_enormous(width: float, height: float, what: str) -> None:
    """Raise LimitError before anything of this size is allocated."""
    if width > MAX_SIDE or height > MAX_SIDE or width * height > MAX_PIXELS:
        raise LimitError(
            f"{what} would be {width:.0f} x {height:.0f} pixels", cure=f"keep each side under {MAX_SIDE} pixels"
        )
