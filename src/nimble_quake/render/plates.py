"""Plates: their picture, placed, bent by their quakes, sampled once."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from nimble_quake.conventions import Affine, Picture, Warp
from nimble_quake.errors import LimitError, MediaError, ShotError
from nimble_quake.operators.base import PlateKind, Raster
from nimble_quake.raster import affine
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.sample import fetch
from nimble_quake.render.job import Job
from nimble_quake.render.placement import Placement, placement
from nimble_quake.render.warps import Coupled, active_quakes, composed, farthest
from nimble_quake.shot.model import Plate

PLACING = frozenset(PlateKind.declared)
"""Parameters that place a picture but do not change it."""


@dataclass(frozen=True)
class Layer:
    """A part of the frame that a plate covers: its picture and its first column and row on the grid."""

    picture: Picture
    left: int
    top: int
    warp: Warp | None
    bits8: bool = True


def in_time(plate: Plate, frame: float) -> bool:
    """Return whether a plate is there at a frame."""
    return (plate.start is None or frame >= plate.start) and (plate.end is None or frame < plate.end)


def plate_operator(job: Job, plate: Plate) -> PlateKind | None:
    """Return a plate's operator with its numbers."""
    found = job.operator("plate", plate, f"plates/{plate.id}")
    return found if isinstance(found, PlateKind) else None


def plate_layer(job: Job, plate: Plate, grid: Grid, *, with_quakes: bool = True) -> Layer | None:
    """Return what a plate shows on a grid; None where it shows nothing. A missing file leaves a marked box."""
    operator = plate_operator(job, plate)
    if operator is None:
        return None
    path = f"plates/{plate.id}"
    try:
        ctx = job.context(operator, plate, path, frame=job.moment.frame - (plate.start or 0))
        lies = placement(operator, operator.box(ctx), (job.moment.width, job.moment.height))
        quakes = active_quakes(job, plate) if with_quakes else []
        bleed = math.fsum(farthest(job, coupled, lies, grid) for coupled in quakes)
        raster = _raster(job, operator, plate, lies, grid, bleed)
    except (MediaError, LimitError) as wrong:
        job.path = path
        job.complain(wrong.what, wrong.cure)
        operator.__dict__["_values"]["blend"] = "normal"
        return Layer(_placeholder(grid), 0, 0, None)
    return _bent(job, operator, lies, raster, quakes, bleed, grid) if raster else None


def _raster(job: Job, operator: PlateKind, plate: Plate, lies: Placement, grid: Grid, bleed: float) -> Raster | None:
    zoom_x, zoom_y = (max(s * grid.scale, 1e-6) for s in affine.scales(lies.place))
    bleed = math.ceil(bleed / 64) * 64.0 if operator.endless else 0.0
    numbers = tuple((name, getattr(operator, name)) for name in operator.declared if name not in PLACING)
    depends = job.depends(operator, operator.timed())
    frame = job.moment.frame - (plate.start or 0)
    key = ("plate", type(operator).kind, numbers, depends, (zoom_x, zoom_y, bleed), frame if operator.timed() else None)
    ctx = job.context(operator, plate, f"plates/{plate.id}", frame=frame)

    def make() -> _Kept:
        return _Kept(operator.raster(ctx, (zoom_x, zoom_y), bleed))

    kept: _Kept = job.engine.cache.get(key, make)
    return kept.raster


class _Kept:
    """A raster in the cache, or the knowledge that there is none."""

    def __init__(self, raster: Raster | None) -> None:
        self.raster = raster
        self.nbytes = raster.picture.nbytes if raster else 64


def _bent(
    job: Job, operator: PlateKind, lies: Placement, raster: Raster, quakes: list[Coupled], bleed: float, grid: Grid
) -> Layer | None:
    back = affine.inverse(lies.place)
    if back is None:
        return None
    to_px = affine.then(back, raster.to_px)
    edge, filter = "wrap" if getattr(operator, "fit", "") == "tile" else "empty", "linear"
    if quakes:
        edge = quakes[-1].quake.edge if edge == "empty" else edge
        filter = quakes[-1].quake.filter
    if operator.endless:
        edge = "hold"
    part = grid if edge != "empty" else _covered(grid, to_px, raster.picture, bleed)
    if part is None:
        return None
    warp = composed(job, quakes, lies, part) if quakes else None
    if warp is not None and part != grid and (reach := cv2.norm(warp.reshape(len(warp), -1), cv2.NORM_INF)) > bleed + 1:
        # a map reaches beyond the frame with values that it has nowhere inside: look at all that could be pulled in
        part = _covered(grid, to_px, raster.picture, reach) or part
        warp = composed(job, quakes, lies, part)
    left, top = round((part.x0 - grid.x0) * grid.scale), round((part.y0 - grid.y0) * grid.scale)
    picture = _straight_through(raster.picture, part, to_px) if warp is None else None
    if picture is None:
        picture = fetch(raster.picture, part, to_px, warp, edge=edge, filter=filter)
    return Layer(picture, left, top, warp, raster.bits8)


def _covered(grid: Grid, to_px: Affine, picture: Picture, bleed: float) -> Grid | None:
    """The part of the grid a picture can reach, pushes included; None for nothing."""
    forth = affine.inverse(to_px)
    if forth is None:
        return None
    height, width = picture.shape[:2]
    x0, y0, x1, y1 = affine.bounds(affine.then(forth, grid.index_affine()), -0.5, -0.5, width + 0.5, height + 0.5)
    room = bleed * grid.scale
    left, top = max(0, math.floor(x0 - room)), max(0, math.floor(y0 - room))
    right, bottom = min(grid.width, math.ceil(x1 + room)), min(grid.height, math.ceil(y1 + room))
    if right <= left or bottom <= top:
        return None
    return grid.part(left, top, right - left, bottom - top)


def _straight_through(picture: Picture, grid: Grid, to_px: Affine) -> Picture | None:
    """The picture's own pixels where samples fall exactly on their centres: the same bits as sampling them."""
    a, b, c, d, e, f = affine.then(affine.then((1.0, 0.0, 0.5, 0.0, 1.0, 0.5), _to_place(grid)), to_px)
    left, top = c - 0.5, f - 0.5
    if (a, b, d, e) != (1.0, 0.0, 0.0, 1.0) or left != int(left) or top != int(top):
        return None
    left, top = int(left), int(top)
    if left < 0 or top < 0 or left + grid.width > picture.shape[1] or top + grid.height > picture.shape[0]:
        return None
    return picture[top : top + grid.height, left : left + grid.width]


def _to_place(grid: Grid) -> Affine:
    return (grid.step, 0.0, grid.x0, 0.0, grid.step, grid.y0)


def _placeholder(grid: Grid) -> Picture:
    """Diagonal bars in grey over the whole frame: something is missing here."""
    bars = ((grid.xs() + grid.ys()[:, None]) % 80) < 40
    out = np.empty((*grid.shape, 4), np.float32)
    out[..., :3] = np.where(bars, 0.30, 0.22)[..., None]
    out[..., 3] = 1.0
    return out


def plate_alone(job: Job, plate: Plate, grid: Grid, *, with_quakes: bool) -> tuple[Picture, bool]:
    """Return a plate's finished picture on a grid, as a map reads it. Raises ShotError when it would read itself."""
    path = f"plates/{plate.id}"
    if with_quakes and path in job.under_way:
        loop = " -> ".join([*job.under_way, path])
        raise ShotError("the plate reads itself", where=loop, cure='switch "With quakes" off')
    job.under_way.append(path)
    try:
        out = np.zeros((*grid.shape, 4), np.float32)
        layer = plate_layer(job, plate, grid, with_quakes=with_quakes)
        if layer is None:
            return out, False
        height, width = layer.picture.shape[:2]
        out[layer.top : layer.top + height, layer.left : layer.left + width] = layer.picture
        return out, layer.bits8
    finally:
        job.under_way.pop()
