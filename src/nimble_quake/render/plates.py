"""Plates: their picture, placed, changed by their effects, sampled once."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass
from functools import partial

import numpy as np

from nimble_quake.conventions import Field, Picture, Warp
from nimble_quake.errors import LimitError, MediaError, ShotError
from nimble_quake.operators.base import PlateKind, Raster
from nimble_quake.raster import affine
from nimble_quake.raster.grid import Grid
from nimble_quake.render.pictures import Clear, Ground, PictureSpace, PlacedRaster, bounded, longest
from nimble_quake.render.placement import Placement, placement
from nimble_quake.render.plan import Unit, plate_key, units_of
from nimble_quake.render.pull import Chain, mask_values
from nimble_quake.render.state import State
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import plate_path

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
    missing: bool = False
    """It stands for a picture that could not be read."""
    cover: Field | None = None
    """Where a lens shows what it made, (H, W, 1); None: everywhere."""


def in_time(plate: Plate, frame: float) -> bool:
    """Return whether a plate is there at a frame."""
    return (plate.start is None or frame >= plate.start) and (plate.end is None or frame < plate.end)


def plate_operator(job: State, plate: Plate) -> PlateKind | None:
    """Return a plate's operator with its numbers."""
    found = job.operator("plate", plate, plate_path(plate.id))
    return found if isinstance(found, PlateKind) else None


def plate_layer(
    job: State, plate: Plate, grid: Grid, *, with_effects: bool = True, upto: int | None = None,
    beneath: Ground | None = None
) -> Layer | None:  # fmt: skip
    """Return what a plate shows on a grid; None where it shows nothing. A missing file leaves a marked box.

    upto: after so many of its effects. beneath: what a lens looks at.
    """
    operator = plate_operator(job, plate)
    if operator is None:
        return None
    try:
        units = _units(job, plate, upto) if with_effects else ()
        if operator.beneath:
            return _layer(job, plate, operator, units, beneath, grid) if beneath is not None else None
        return _own_layer(job, plate, operator, units, grid)
    except (MediaError, LimitError) as wrong:
        job.path = plate_path(plate.id)
        job.complain(wrong.what, wrong.cure)
        return Layer(_placeholder(grid), 0, 0, None, missing=True)


def _units(job: State, plate: Plate, upto: int | None) -> tuple[Unit, ...]:
    return units_of(job, plate, plate.effects if upto is None else plate.effects[:upto])


def _own_layer(job: State, plate: Plate, operator: PlateKind, units: tuple[Unit, ...], grid: Grid) -> Layer | None:
    """A plate that has a picture of its own."""
    lies = lies_of(job, plate, operator)
    bleed = _overhang(grid, job) if operator.endless else 0.0
    if units and operator.endless:  # how far it is seen has to be known before it is made
        reach = bounded(effects_chain(job, plate, units, Clear(lies)), grid)
        bleed += reach if math.isfinite(reach) else max(job.moment.width, job.moment.height)
    ground = _ground(job, plate, operator, lies, units, grid, bleed)
    return None if ground is None else _layer(job, plate, operator, units, ground, grid)


def _overhang(grid: Grid, job: State) -> float:
    """How far a grid reaches beyond the frame, in shot pixels: what fills everything is made there too."""
    right, low = grid.x0 + grid.width * grid.step, grid.y0 + grid.height * grid.step
    return max(0.0, -grid.x0, -grid.y0, right - job.moment.width, low - job.moment.height)


def _layer(
    job: State, plate: Plate, operator: PlateKind, units: tuple[Unit, ...], ground: Ground | None, grid: Grid
) -> Layer | None:
    """What effects make of a ground, on the part of the grid where they make anything."""
    if ground is None:
        return None
    chain, path = effects_chain(job, plate, units, ground), plate_path(plate.id)
    bleed = bounded(chain, grid) if units else 0.0
    part = ground.covered(grid, bleed)
    if part is None:
        return None
    job.warps.pop(path, None)
    picture = chain.on(part)
    looked = job.warps.get(path)
    warp = looked[0].warp if looked is not None and looked[1] == part else None
    if warp is not None and part != grid and (reach := longest(warp)) > bleed + 1:
        # a map reaches beyond the frame with values that it has nowhere inside: look at all that could be pulled in
        part = ground.covered(grid, reach) or part
        job.warps.pop(path, None)
        picture = chain.on(part)
        warp = job.warps[path][0].warp
    cover = mask_values(job, operator.mask, part, path) if operator.mask else None
    if cover is not None and not operator.beneath:
        picture, cover = picture * cover, None
    left, top = round((part.x0 - grid.x0) * grid.scale), round((part.y0 - grid.y0) * grid.scale)
    return Layer(picture, left, top, warp, ground.bits8, cover=cover)


def effects_chain(job: State, plate: Plate, units: tuple[Unit, ...], ground: Ground) -> Chain:
    """Return what effects make of a plate's ground, as an image."""
    return Chain(job, plate, units, ground, PictureSpace(ground))


def lies_of(job: State, plate: Plate, operator: PlateKind) -> Placement:
    """Return where a plate lies."""
    ctx = job.context(operator, plate, plate_path(plate.id), frame=job.moment.frame - (plate.start or 0))
    return placement(operator, operator.box(ctx), (job.moment.width, job.moment.height))


def _ground(
    job: State, plate: Plate, operator: PlateKind, lies: Placement, units: tuple[Unit, ...], grid: Grid, bleed: float
) -> PlacedRaster | None:
    """The plate's own picture, where it lies."""
    back = affine.inverse(lies.place)
    raster = _raster(job, operator, plate, lies, grid, bleed) if back is not None else None
    if back is None or raster is None:
        return None

    edge = "wrap" if getattr(operator, "fit", "") == "tile" else "hold" if operator.endless else "empty"
    if edge == "empty":
        edge = next((unit.operator.edge for unit in reversed(units) if hasattr(unit.operator, "edge")), edge)
    key = (plate_key(job, plate.id, with_effects=False), edge, bleed)
    then = partial(_ground_at, job, plate, units, grid, bleed, (lies, key))
    return PlacedRaster(raster.picture, affine.then(back, raster.to_px), edge, lies, key, then, raster.bits8)


def _ground_at(
    job: State, plate: Plate, units: tuple[Unit, ...], grid: Grid, bleed: float,
    now: tuple[Placement, tuple[Hashable, ...]], seconds: float,
) -> PlacedRaster:  # fmt: skip
    """The plate's own picture at another time; where there is none then, an empty one that lies as it does `now`."""
    other = job.at(seconds)
    found = plate_operator(other, plate)
    there = None if found is None else _ground(other, plate, found, lies_of(other, plate, found), units, grid, bleed)
    if there is not None:
        return there
    (lies, key), none = now, np.zeros((1, 1, 4), np.float32)
    then = partial(_ground_at, job, plate, units, grid, bleed, now)
    return PlacedRaster(none, affine.IDENTITY, "empty", lies, (*key, "none"), then)


def _raster(job: State, operator: PlateKind, plate: Plate, lies: Placement, grid: Grid, bleed: float) -> Raster | None:
    zoom_x, zoom_y = (max(s * grid.scale, 1e-6) for s in affine.scales(lies.place))
    bleed = math.ceil(bleed / 64) * 64.0 if operator.endless else 0.0
    numbers = tuple((name, getattr(operator, name)) for name in operator.declared if name not in PLACING)
    depends = job.depends(operator, operator.timed())
    frame = job.moment.frame - (plate.start or 0)
    key = ("plate", type(operator).kind, numbers, depends, (zoom_x, zoom_y, bleed), frame if operator.timed() else None)
    ctx = job.context(operator, plate, plate_path(plate.id), frame=frame)

    def make() -> _Kept:
        return _Kept(operator.raster(ctx, (zoom_x, zoom_y), bleed))

    kept: _Kept = job.engine.cache.get(key, make)
    return kept.raster


class _Kept:
    """A raster in the cache, or the knowledge that there is none."""

    def __init__(self, raster: Raster | None) -> None:
        self.raster = raster
        self.nbytes = raster.picture.nbytes if raster else 64


def _placeholder(grid: Grid) -> Picture:
    """Diagonal bars in grey over the whole frame: something is missing here."""
    bars = ((grid.xs() + grid.ys()[:, None]) % 80) < 40
    out = np.empty((*grid.shape, 4), np.float32)
    out[..., :3] = np.where(bars, 0.30, 0.22)[..., None]
    out[..., 3] = 1.0
    return out


def on_whole(layer: Layer | None, grid: Grid) -> Picture:
    """Return a layer's picture on the whole of a grid."""
    out = np.zeros((*grid.shape, 4), np.float32)
    if layer is not None:
        height, width = layer.picture.shape[:2]
        out[layer.top : layer.top + height, layer.left : layer.left + width] = layer.picture
    return out


def refuse_loop(job: State, plate: Plate) -> None:
    """Raise ShotError where a plate would read itself with its effects."""
    path = plate_path(plate.id)
    if path in job.under_way:
        loop = " -> ".join([*job.under_way, path])
        raise ShotError("the plate reads itself", where=loop, cure='switch "With effects" off')
