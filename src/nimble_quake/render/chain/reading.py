"""How couplings read maps at the places they look at: one reader for pictures, one for recipes."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Field, Pixels, Warp
from nimble_quake.operators.base import AS_DRAWN, MadeOf
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.fitting import fitted
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.sampling.sample import fetch
from nimble_quake.raster.warps.warped import at_index
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.units import map_key
from nimble_quake.render.values.placement import Placement

T = TypeVar("T")

MOST_SAMPLES = 40_000_000
"""No larger part of a map is computed for being looked up; what lies farther is held at its border."""


def _nothing(grid: Grid, rest: float) -> Field:
    return np.full((*grid.shape, 1), rest, np.float32)


@dataclass(frozen=True)
class PictureReader:
    """Reads maps for the effects of a plate: fixed to the frame, or to the plate where it lies."""

    job: FrameJob
    placement: Placement
    scale: float

    def at(
        self, map_id: str, places: Places, hook: str = "frame", fit: str = "stretch", made: MadeOf | None = None
    ) -> Field:
        if hook == "plate" and fit != AS_DRAWN:
            return self._on_plate(map_id, places, fit, made)
        if hook == "plate" and not np.allclose(travel := self.placement.travel(), np.eye(3), atol=1e-9):
            return self._travelled(map_id, places, travel)
        if places.warp is None:
            return self._on_frame(map_id, places.grid, made)
        outer = looked_at(places, self.size)
        field = self._made(map_id, outer, made)
        return fetch(field, places.grid, outer.index_affine(), places.warp, edge="hold")

    def whole(self, map_id: str, made: MadeOf | None = None) -> Field:
        return self._made(map_id, frame_grid(*self.size, self.scale), made)

    def remembered(self, map_id: str, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        return self.job.engine.cache.get(("found", key, map_key(self.job, map_id), self.scale, self.size), make)

    def rest(self, map_id: str) -> float:
        return self.job.map_rest(map_id)

    def turned(self, moves: Warp, hook: str) -> Warp:
        if hook != "plate":
            return moves
        a, b, _, d, e, _ = self.placement.linear_part
        linear_part = np.array([[a, b], [d, e]], np.float32)
        return np.asarray(np.einsum("ab,bhw->ahw", linear_part, moves), np.float32)

    def stretched(self, distance: Pixels, hook: str) -> Pixels:
        return distance * math.sqrt(2) * max(affine.scales(self.placement.linear_part)) if hook == "plate" else distance

    @property
    def size(self) -> tuple[float, float]:
        """The frame's size."""
        return (self.job.moment.width, self.job.moment.height)

    def _values(self, map_id: str, grid: Grid) -> Field:
        found = self.job.map_values(map_id, grid)
        return _nothing(grid, self.rest(map_id)) if found is None else found

    def _made(self, map_id: str, grid: Grid, made: MadeOf | None) -> Field:
        """The map on a grid, or what is made of it there; that of a whole frame is remembered while the map stands."""
        if made is None:
            return self._values(map_id, grid)
        wide = grid.grown(grid.samples(made.margin))

        def make() -> Field:
            return made.make(self._values(map_id, wide), wide, grid)

        key = ("made", made.key, map_key(self.job, map_id), grid)
        found: Field = self.job.engine.cache.get(key, make)
        return found

    def _on_plate(self, map_id: str, places: Places, fit: str, made: MadeOf | None) -> Field:
        back = affine.inverse(self.placement.place)
        if back is None:
            return _nothing(places.grid, self.rest(map_id))
        whole = frame_grid(*self.size, places.grid.scale)
        laid: Affine = affine.compose(back, fitted(fit, self.size, self.placement.box))
        to_px = affine.compose(laid, whole.index_affine())
        edge = "wrap" if fit == "tile" else "hold"
        return fetch(self._made(map_id, whole, made), places.grid, to_px, places.warp, edge=edge)

    def _travelled(self, map_id: str, places: Places, travel: NDArray[np.float64]) -> Field:
        """A map that goes with the plate: each place is looked up where it came from."""
        if abs(float(np.linalg.det(travel))) < 1e-12:
            return _nothing(places.grid, 0.0)
        back, (xs, ys) = np.linalg.inv(travel), places.absolute()
        depth = back[2, 0] * xs + back[2, 1] * ys + back[2, 2]
        depth = np.where(np.abs(depth) > 1e-6, depth, 1e-6)
        us, vs = ((row[0] * xs + row[1] * ys + row[2]) / depth for row in back[:2])
        grid = grid_over(np.stack([us, vs]).astype(np.float32), self.size)
        scale, half = np.float32(grid.scale), np.float32(0.5)
        us, vs = ((part - np.float32(start)) * scale - half for part, start in ((us, grid.x0), (vs, grid.y0)))
        field = np.ascontiguousarray(self._values(map_id, grid))
        return at_index(field, us.astype(np.float32), vs.astype(np.float32))

    def _on_frame(self, map_id: str, grid: Grid, made: MadeOf | None) -> Field:
        """The map on a part of the frame: cut from the whole frame's values, which the map bay shows too."""
        whole = frame_grid(*self.size, grid.scale)
        rows, columns = grid.inside(whole)
        inside = rows.start >= 0 and columns.start >= 0 and rows.stop <= whole.height and columns.stop <= whole.width
        if grid == whole or not inside:
            return self._made(map_id, grid, made)
        return self._made(map_id, whole, made)[rows, columns]


@dataclass(frozen=True)
class RecipeReader:
    """Reads maps for couplings in a recipe; an empty id is what the steps before made."""

    job: FrameJob
    below: Callable[[Grid], Field]
    ground_rest: float
    scale: float

    def at(
        self, map_id: str, places: Places, hook: str = "frame", fit: str = "stretch", made: MadeOf | None = None
    ) -> Field:
        absolute = places.absolute()
        grid = grid_over(absolute, (self.job.moment.width, self.job.moment.height))
        field = self._made(map_id, grid, made)
        us = (absolute[0] - np.float32(grid.x0)) * np.float32(grid.scale) - np.float32(0.5)
        vs = (absolute[1] - np.float32(grid.y0)) * np.float32(grid.scale) - np.float32(0.5)
        return at_index(np.ascontiguousarray(field), us, vs)

    def whole(self, map_id: str, made: MadeOf | None = None) -> Field:
        return self._made(map_id, frame_grid(self.job.moment.width, self.job.moment.height, self.scale), made)

    def _made(self, map_id: str, grid: Grid, made: MadeOf | None) -> Field:
        if made is None:
            return self._values(map_id, grid)
        wide = grid.grown(grid.samples(made.margin))
        return made.make(self._values(map_id, wide), wide, grid)

    def remembered(self, map_id: str, key: tuple[Hashable, ...], make: Callable[[], T]) -> T:
        return make()

    def rest(self, map_id: str) -> float:
        return self.job.map_rest(map_id) if map_id else self.ground_rest

    def turned(self, moves: Warp, hook: str) -> Warp:
        return moves

    def stretched(self, distance: Pixels, hook: str) -> Pixels:
        return distance

    def _values(self, map_id: str, grid: Grid) -> Field:
        found = self.job.map_values(map_id, grid) if map_id else self.below(grid)
        return _nothing(grid, self.rest(map_id)) if found is None else found


def grid_over(places: Warp, size: tuple[float, float]) -> Grid:
    """Return a grid over the places, about as fine as they lie, no larger than the frame grown by half."""
    height, width = places.shape[1:]
    steps = [
        float(np.median(np.abs(np.diff(places[0], axis=1)))) if width > 1 else 1.0,
        float(np.median(np.abs(np.diff(places[1], axis=0)))) if height > 1 else 1.0,
    ]
    step = min(max(min(steps), 0.25), max(size) / 16)
    ends = []
    for plane, side in zip(places, size, strict=True):
        low, high = np.clip((float(plane.min()), float(plane.max())), -0.5 * side, 1.5 * side)
        first = np.floor(low / step / 16 - 0.1) * 16  # aligned, so that coarser levels are too
        ends.append((float(first * step), max(2, int(np.ceil((high - first * step) / step)) + 2)))
    return Grid(ends[0][0], ends[1][0], ends[0][1], ends[1][1], 1 / step)


def looked_at(places: Places, size: tuple[float, float], beyond: float = 1.0) -> Grid:
    """Return the part of the plane that is looked at, no more than `beyond` frames outside the frame."""
    grid = places.grid
    if places.warp is None:
        return grid
    starts, counts, ends = [], [], places.bounds()
    for axis, side in enumerate(size):
        low, high = max(ends[2 * axis], -beyond * side), min(ends[2 * axis + 1], (1 + beyond) * side)
        low, high = min(low, side), max(high, 0.0)
        start = (grid.x0, grid.y0)[axis]
        first = math.floor((low - start) * grid.scale) - 1
        starts.append(first)
        counts.append(max(2, math.ceil((high - start) * grid.scale) + 2 - first))
    if counts[0] * counts[1] > MOST_SAMPLES:
        return grid
    return grid.part(starts[0], starts[1], counts[0], counts[1])
