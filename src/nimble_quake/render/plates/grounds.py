"""A plate's own picture, without its effects: drawn, shown or gathered, where it lies, at any time."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import replace
from functools import partial

import numpy as np

from nimble_quake.conventions import Affine
from nimble_quake.errors import LimitError, MediaError
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid, frame_grid, refuse_enormous
from nimble_quake.raster.sampling.cropping import bars_of, cropped
from nimble_quake.render.caches.results import Same, Weighed
from nimble_quake.render.chain.pictures import PlacedRaster
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plan.units import Unit, edge_of, members_key, plate_key, references, units_of
from nimble_quake.render.plates.pins import pinned, unpinned
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import plate_path

PLACING = frozenset(PlateKind.declared)
"""Parameters that place a picture but do not change it."""
MOST_FINER = 4.0
"""What a plate is made of is computed no more than so many times finer than the frame."""


def placement_of(job: FrameJob, plate: Plate, operator: PlateKind) -> Placement:
    """Return where a plate lies."""
    return pinned(job, operator, plate, unpinned(job, operator, plate))


def ground_of(
    job: FrameJob,
    plate: Plate,
    operator: PlateKind,
    placement: Placement,
    units: tuple[Unit, ...],
    grid: Grid,
    bleed: float,
) -> PlacedRaster | None:
    """The plate's own picture, where it lies."""
    back = affine.inverse(placement.place)
    if back is None:
        return None
    edge = "wrap" if operator.fit_in_frame() == "tile" else "hold" if operator.endless else "empty"
    if edge == "empty":
        edge = edge_of(units, edge)
    if operator.takes_plates and edge != "empty":  # what is repeated is the frame, with nothing beyond it
        grid, bleed = frame_grid(job.shot.width, job.shot.height, grid.scale), 0.0
    if operator.gathers:
        raster = _shown_plainly(job, operator, placement, grid) or _gathered(
            job, operator, plate, placement, grid, bleed
        )
    else:
        raster = _raster(job, operator, plate, placement, grid, bleed)
    if raster is None:
        return None

    key = (plate_key(job, plate.id, with_effects=False), edge, bleed)
    then = partial(_ground_at, job, plate, units, grid, bleed, (placement, key))
    if edge not in ("empty", "hold"):  # what is repeated is the whole, with what is clear of it
        raster = raster.padded()
    size = None if raster.whole is None else (raster.whole[1], raster.whole[0])
    to_px = affine.compose(back, raster.to_px)
    return PlacedRaster(raster.picture, to_px, edge, placement, key, then, raster.bits8, size)


def _ground_at(
    job: FrameJob,
    plate: Plate,
    units: tuple[Unit, ...],
    grid: Grid,
    bleed: float,
    now: tuple[Placement, tuple[Hashable, ...]],
    seconds: float,
) -> PlacedRaster:
    """The plate's own picture at another time; where there is none then, an empty one that lies as it does `now`."""
    other = job.at(seconds)
    found = plate_operator(other, plate)
    there = (
        None if found is None else ground_of(other, plate, found, placement_of(other, plate, found), units, grid, bleed)
    )
    if there is not None:
        return there
    (placement, key), none = now, np.zeros((1, 1, 4), np.float32)
    then = partial(_ground_at, job, plate, units, grid, bleed, now)
    return PlacedRaster(none, affine.IDENTITY, "empty", placement, (*key, "none"), then)


def _shown_plainly(job: FrameJob, operator: PlateKind, placement: Placement, grid: Grid) -> Raster | None:
    """The picture of another plate that is shown as it is, to be sampled once; None where it has to be made first."""
    shows = operator.shows_plainly()
    if shows is None or operator.crop() is not None:
        return None
    other, with_effects, exceptions = shows
    there = job.differing(exceptions) if exceptions else job
    plate = there.shot.plate(other)
    its = plate_operator(there, plate) if plate is not None else None
    if plate is None or its is None or its.gathers or its.endless or its.beneath or its.mask or its.matte:
        return None
    if its.fit_in_frame() == "tile" or (with_effects and units_of(there, plate)):
        return None
    its_placement = placement_of(there, plate, its)
    back = affine.inverse(its_placement.place)
    if its_placement.seen is not None or back is None:
        return None
    together = replace(its_placement, place=affine.compose(its_placement.place, placement.place))
    try:
        raster = _raster(there, its, plate, together, grid, 0.0)
    except (MediaError, LimitError):
        return None  # the way round says it where it belongs
    return None if raster is None else replace(raster, to_px=affine.compose(back, raster.to_px))


def _gathered(
    job: FrameJob, operator: PlateKind, plate: Plate, placement: Placement, grid: Grid, bleed: float
) -> Raster | None:
    """What a plate is made of, on the part of the frame that is seen of it once it is placed."""
    back = affine.inverse(placement.place)
    assert back is not None
    area = _seen_area(back, grid, bleed, (job.moment.width, job.moment.height))
    if area is None:
        return None
    path = plate_path(plate.id)
    numbers = tuple((name, operator.values[name]) for name in operator.declared if name not in PLACING)
    depends = (job.depends(operator, operator.timed()), references(job, operator, PLACING))
    members = members_key(job, plate) if operator.holds else ()
    if operator.looks_back():
        members = (*members, Same(job.shot.plates), Same(job.shot.maps))
    ctx = job.context(operator, plate, path, frame=job.moment.frame - (plate.start or 0))

    def make() -> _Kept:
        with job.unseen(operator.holds and back == affine.IDENTITY):
            part = operator.gathered(ctx, area)
        if part is None:
            return _Kept(None)
        light = operator.holds or operator.takes_plates  # what they show is in the light of the shot
        picture = to_linear(part.picture) if job.shot.linear and not light else part.picture
        rows, columns = part.grid.inside(area)
        whole = None if part.grid == area else (area.width, area.height, columns.start, rows.start)
        made = Raster(picture, part.grid.index_affine(), bits8=False, whole=whole)
        return _Kept(_cropped(operator, made, placement))

    crop = _crop_key(operator)
    key = ("gathered", type(operator).kind, numbers, depends, members, crop, placement.box, area)
    kept: _Kept = job.engine.cache.get_again(key, make)
    return kept.raster


def _seen_area(back: Affine, grid: Grid, bleed: float, frame: tuple[float, float]) -> Grid | None:
    """The part of a plate's own plane that a grid shows of it, no more than a frame beyond the frame on every side."""
    outer = grid.grown(grid.samples(min(bleed, max(frame))))
    if back == affine.IDENTITY:
        return outer
    zoom = max(affine.scales(back))
    scale = min(grid.scale / max(zoom, 1e-6), grid.scale * MOST_FINER)
    right, low = outer.x0 + outer.width * outer.step, outer.y0 + outer.height * outer.step
    x0, y0, x1, y1 = affine.bounds(back, outer.x0, outer.y0, right, low)
    x0, x1 = max(x0, -frame[0]), min(x1, 2 * frame[0])
    y0, y1 = max(y0, -frame[1]), min(y1, 2 * frame[1])
    left, top = math.floor(x0 * scale) - 1, math.floor(y0 * scale) - 1
    width, height = math.ceil(x1 * scale) + 1 - left, math.ceil(y1 * scale) + 1 - top
    if width <= 2 or height <= 2:
        return None
    refuse_enormous(width, height, "what it shows")
    return Grid(left / scale, top / scale, width, height, scale)


def _raster(
    job: FrameJob, operator: PlateKind, plate: Plate, placement: Placement, grid: Grid, bleed: float
) -> Raster | None:
    zoom_x, zoom_y = (max(s * grid.scale, 1e-6) for s in affine.scales(placement.place))
    bleed = math.ceil(bleed / 64) * 64.0 if operator.endless else 0.0
    numbers = tuple((name, operator.values[name]) for name in operator.declared if name not in PLACING)
    depends = (job.depends(operator, operator.timed()), references(job, operator, PLACING))
    frame = job.moment.frame - (plate.start or 0)
    when = frame if operator.timed() else None
    key: tuple[Hashable, ...] = (
        "plate",
        type(operator).kind,
        numbers,
        depends,
        (zoom_x, zoom_y, bleed),
        _crop_key(operator),
        placement.box,
        when,
    )
    if operator.looks_back():
        key = (*key, Same(plate), Same(job.shot.maps))
    ctx = job.context(operator, plate, plate_path(plate.id), frame=frame)

    def make() -> _Kept:
        made = operator.raster(ctx, (zoom_x, zoom_y), bleed)
        if made is not None and job.shot.linear:
            made = replace(made, picture=to_linear(made.picture))
        return _Kept(_cropped(operator, made, placement))

    kept: _Kept = job.engine.cache.get(key, make)
    return kept.raster


def _cropped(operator: PlateKind, raster: Raster | None, placement: Placement) -> Raster | None:
    crop = None if operator.endless else operator.crop()
    if raster is None or crop is None:
        return raster
    return replace(raster, picture=cropped(raster.picture, placement.box, crop, operator.crop_soft, raster.to_px))


def _crop_key(operator: PlateKind) -> tuple[Hashable, ...]:
    return () if operator.endless else (operator.crop(), operator.crop_soft)


class _Kept(Weighed):
    """A raster in the cache, or the knowledge that there is none."""

    def __init__(self, raster: Raster | None) -> None:
        self.raster = raster
        self.nbytes = raster.picture.nbytes if raster else 64


def bars_shown(job: FrameJob, plate_id: str) -> tuple[float, float, float, float]:
    """Return what share of a plate's own picture is dark bars now: left, right, top, bottom."""
    plate = job.shot.plate(plate_id)
    operator = plate_operator(job, plate) if plate is not None else None
    if plate is None or operator is None or operator.endless or operator.beneath or operator.gathers:
        return (0.0, 0.0, 0.0, 0.0)
    raster = _raster(
        job, operator, plate, placement_of(job, plate, operator), frame_grid(job.shot.width, job.shot.height), 0.0
    )
    return (0.0, 0.0, 0.0, 0.0) if raster is None else bars_of(raster.picture)
