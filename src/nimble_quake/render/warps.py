"""The quakes of a plate, composed into one warp; the picture itself is sampled only once, later.

A result sample p looks at p + d1(p) + d2(p + d1(p)) + ...: the last quake of the list acts last on the picture, so it
is asked first.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from nimble_quake.conventions import Field, Pixels, Warp
from nimble_quake.operators.base import Quake
from nimble_quake.raster import affine
from nimble_quake.raster.grid import Grid, frame_grid
from nimble_quake.raster.place import fitted
from nimble_quake.raster.sample import fetch
from nimble_quake.render.job import Job
from nimble_quake.render.maps import map_field, map_rest
from nimble_quake.render.placement import Placement
from nimble_quake.shot.model import Map, Node, Plate


@dataclass(frozen=True)
class Coupled:
    """A quake that does something, with its map."""

    node: Node
    quake: Any
    map: Map


def active_quakes(job: Job, plate: Plate) -> list[Coupled]:
    """Return the quakes of a plate that do something now. The others cost nothing."""
    found = []
    for node in plate.quakes:
        path = f"plates/{plate.id}/quakes/{node.id}"
        quake = job.operator("quake", node, path) if node.on else None
        if not isinstance(quake, Quake) or quake.idle():
            continue
        map = job.shot.map(getattr(quake, "map", ""))
        if map is None:
            job.path = path
            job.complain("its map is not there", "choose another map")
            continue
        if map.recipe and any(step.on for step in map.recipe):
            found.append(Coupled(node, quake, map))
    return found


def composed(job: Job, quakes: list[Coupled], lies: Placement, grid: Grid) -> Warp | None:
    """Return the warp of all quakes over a grid, in shot pixels; None where nothing moves."""
    warp: Warp | None = None
    for coupled in reversed(quakes):
        field, bend = _field(job, coupled, lies, grid, warp)
        moved = coupled.quake.offsets(field, map_rest(job, coupled.map))
        if bend is not None:
            moved = np.einsum("ab,bhw->ahw", bend, moved)
        warp = moved if warp is None else warp + moved
    return warp


def _field(
    job: Job, coupled: Coupled, lies: Placement, grid: Grid, warp: Warp | None
) -> tuple[Field, np.ndarray | None]:
    """A quake's map values at the places the warp so far looks at, and how its pushes turn with the plate."""
    frame = (job.moment.width, job.moment.height)
    if coupled.quake.hook == "plate":
        back = affine.inverse(lies.place)
        if back is None:
            return np.zeros((*grid.shape, 1), np.float32), None
        whole = frame_grid(*frame, grid.scale)
        laid = affine.then(back, fitted(coupled.quake.fit, frame, lies.box))
        edge = "wrap" if coupled.quake.fit == "tile" else "hold"
        field = fetch(
            map_field(job, coupled.map, whole), grid, affine.then(laid, whole.index_affine()), warp, edge=edge
        )
        a, b, _, d, e, _ = lies.pose
        return field, np.array([[a, b], [d, e]], np.float32)
    if warp is None:
        return _on_frame(job, coupled.map, grid), None
    outer = _looked_at(grid, warp, frame)
    field = map_field(job, coupled.map, outer)
    return fetch(field, grid, outer.index_affine(), warp, edge="hold"), None


MOST_SAMPLES = 40_000_000
"""No larger part of a map is computed for being looked up; what lies farther is held at its border."""


def _looked_at(grid: Grid, warp: Warp, frame: tuple[float, float]) -> Grid:
    """The part of the plane that is looked at through a warp, no more than a frame beyond the frame."""
    starts, counts = [], []
    for axis, (places, side) in enumerate(zip((grid.xs()[None], grid.ys()[:, None]), frame, strict=True)):
        looks = places + warp[axis]
        low = max(float(looks.min(initial=side)), -side)
        high = min(float(looks.max(initial=0.0)), 2 * side)
        start = (grid.x0, grid.y0)[axis]
        first = math.floor((low - start) * grid.scale) - 1
        starts.append(first)
        counts.append(max(2, math.ceil((high - start) * grid.scale) + 2 - first))
    if counts[0] * counts[1] > MOST_SAMPLES:
        return grid
    return grid.part(starts[0], starts[1], counts[0], counts[1])


def farthest(job: Job, coupled: Coupled, lies: Placement, grid: Grid) -> Pixels:
    """Return how far a quake can push at this moment, by what its map really holds, in shot pixels."""
    field = map_field(job, coupled.map, frame_grid(job.moment.width, job.moment.height, grid.scale))
    far: Pixels = coupled.quake.farthest(field, map_rest(job, coupled.map))
    if coupled.quake.hook == "plate":
        far *= math.sqrt(2) * max(affine.scales(lies.pose))
    return far


def _on_frame(job: Job, map: Map, grid: Grid) -> Field:
    """The map on a part of the frame: cut from the whole frame's values, which the map bay shows too."""
    whole = frame_grid(job.moment.width, job.moment.height, grid.scale)
    rows, columns = grid.inside(whole)
    inside = rows.start >= 0 and columns.start >= 0 and rows.stop <= whole.height and columns.stop <= whole.width
    if grid == whole or not inside:
        return map_field(job, map, grid)
    return map_field(job, map, whole)[rows, columns]
