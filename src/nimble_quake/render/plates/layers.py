"""Plates: their picture, placed, changed by their effects, sampled once."""

from __future__ import annotations

import math
from collections.abc import Hashable
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from nimble_quake.conventions import Affine, Field, Picture, Warp
from nimble_quake.errors import LimitError, MediaError, ShotError
from nimble_quake.operators.plate_kind import PlateKind, Raster
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.colour.light import to_linear
from nimble_quake.raster.finishes.rims import thinned
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid, frame_grid, refuse_enormous
from nimble_quake.raster.sampling.cropping import bars_of, cropped
from nimble_quake.render.abandon import go_on
from nimble_quake.render.caches.results import Same, Weighed
from nimble_quake.render.chain.pictures import Clear, Ground, PictureSpace, PlacedRaster, bounded, longest
from nimble_quake.render.chain.pull import Chain, mask_values
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, plate_operator
from nimble_quake.render.plan.units import Unit, edge_of, members_key, plate_key, references, units_of
from nimble_quake.render.plates.depth import InDepth
from nimble_quake.render.plates.pins import pinned, unpinned
from nimble_quake.render.values.circles import own_picture
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import plate_path

PLACING = frozenset(PlateKind.declared)
"""Parameters that place a picture but do not change it."""
MOST_FINER = 4.0
"""What a plate is made of is computed no more than so many times finer than the frame."""


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


def plate_layer(
    job: FrameJob,
    plate: Plate,
    grid: Grid,
    *,
    with_effects: bool = True,
    upto: int | None = None,
    beneath: Ground | None = None,
) -> Layer | None:
    """Return what a plate shows on a grid; None where it shows nothing. A missing file leaves a marked box.

    upto: after so many of its effects. beneath: what a lens looks at. Raises Abandoned where nobody waits for it.
    """
    go_on()
    operator = plate_operator(job, plate)
    if operator is None:
        return None
    try:
        with finished(job, plate) if with_effects else nullcontext():
            units = _units(job, plate, upto) if with_effects else ()
            if operator.beneath:
                return _layer(job, plate, operator, units, beneath, grid) if beneath is not None else None
            return _own_layer(job, plate, operator, units, grid)
    except ShotError as wrong:
        if not operator.gathers:
            raise
        job.path = plate_path(plate.id)
        job.report_problem(f"it cannot be shown: {wrong.what} ({wrong.where})", wrong.cure)
        return None
    except (MediaError, LimitError) as wrong:
        job.path = plate_path(plate.id)
        job.report_problem(wrong.what, wrong.cure)
        return Layer(_placeholder(grid), 0, 0, None, missing=True)


READS_ITSELF = "the plate reads itself"


def finished(job: FrameJob, plate: Plate) -> AbstractContextManager[None]:
    """Note that a plate's picture, with its effects, is under way. Raises ShotError where it is already."""
    return job.evaluating.on(plate_path(plate.id), READS_ITSELF, 'switch "With effects" off')


def _own_picture(job: FrameJob, plate: Plate) -> AbstractContextManager[None]:
    """The same for its picture without its effects."""
    return job.evaluating.on(own_picture(plate_path(plate.id)), READS_ITSELF, "let it show, or be seen by, another")


def _units(job: FrameJob, plate: Plate, upto: int | None) -> tuple[Unit, ...]:
    return units_of(job, plate, plate.effects if upto is None else plate.effects[:upto])


def _in_depth(job: FrameJob, plate: Plate, placement: Placement, units: tuple[Unit, ...]) -> tuple[Unit, ...]:
    """The units of a plate after the one that turns it in depth, where it is turned."""
    if placement.seen is None:
        return units
    middle = affine.apply(placement.place, placement.box[0] / 2, placement.box[1] / 2)
    numbers = tuple(placement.seen.ravel().tolist())
    node = Node(id="depth", kind="depth")
    return (
        Unit(node, InDepth(placement.seen, middle), plate_path(plate.id), (), ("depth", numbers, middle), whole=True),
        *units,
    )


def _own_layer(job: FrameJob, plate: Plate, operator: PlateKind, units: tuple[Unit, ...], grid: Grid) -> Layer | None:
    """A plate that has a picture of its own."""
    placement = placement_of(job, plate, operator)
    units = _in_depth(job, plate, placement, units)
    bleed = _overhang(grid, job) if operator.endless else 0.0
    if units and (operator.endless or operator.gathers):  # how far it is seen has to be known before it is made
        reach = bounded(effects_chain(job, plate, units, Clear(placement)), grid)
        bleed += reach if math.isfinite(reach) else max(job.moment.width, job.moment.height)
    with _own_picture(job, plate):
        ground = _ground(job, plate, operator, placement, units, grid, bleed)
    return None if ground is None else _layer(job, plate, operator, units, ground, grid)


def _overhang(grid: Grid, job: FrameJob) -> float:
    """How far a grid reaches beyond the frame, in shot pixels: what fills everything is made there too."""
    right, low = grid.x0 + grid.width * grid.step, grid.y0 + grid.height * grid.step
    return max(0.0, -grid.x0, -grid.y0, right - job.moment.width, low - job.moment.height)


def _layer(
    job: FrameJob, plate: Plate, operator: PlateKind, units: tuple[Unit, ...], ground: Ground | None, grid: Grid
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
    doubted = part != grid and not _sure(job, units, part)
    if warp is not None and doubted and (reach := longest(warp)) > bleed + 1:
        # a map reaches beyond the frame with values that it has nowhere inside: look at all that could be pulled in
        part = ground.covered(grid, reach) or part
        job.warps.pop(path, None)
        picture = chain.on(part)
        warp = job.warps[path][0].warp
    with _own_picture(job, plate):
        cover = _cover(job, operator, part, path)
    if cover is not None and not operator.beneath:
        picture, cover = thinned(picture, cover[..., 0]), None
    left, top = round((part.x0 - grid.x0) * grid.scale), round((part.y0 - grid.y0) * grid.scale)
    return Layer(picture, left, top, warp, ground.bits8, cover=cover)


def _cover(job: FrameJob, operator: PlateKind, part: Grid, path: str) -> Field | None:
    """Where a plate's mask and matte let it be seen, (H, W, 1); None: everywhere."""
    cover = mask_values(job, operator.mask, part, path) if operator.mask else None
    if cover is not None and operator.mask_invert:
        cover = np.float32(1) - cover
    matte = _matte(job, operator, part, path) if operator.matte else None
    if matte is None:
        return cover
    return matte if cover is None else cover * matte


def _sure(job: FrameJob, units: tuple[Unit, ...], part: Grid) -> bool:
    """Whether effects carry a picture no farther than they said before they were run."""
    if len(units) != 1 or not units[0].operator.sure:
        return False
    right, low = part.x0 + part.width * part.step, part.y0 + part.height * part.step
    return part.x0 >= 0 and part.y0 >= 0 and right <= job.moment.width and low <= job.moment.height


def _matte(job: FrameJob, operator: PlateKind, grid: Grid, path: str) -> Field | None:
    """Where another plate lets this one be seen, (H, W, 1); None, and a word about it, where it is not there."""
    other = job.shot.plate(operator.matte)
    if other is None:
        job.path = path
        job.report_problem("its matte is not there", "choose another plate")
        return None
    if in_time(other, job.moment.frame):
        picture, _ = job.plate_picture(other.id, grid, with_effects=operator.matte_effects)
        fractions = picture[..., 3] if operator.matte_by == "alpha" else luminance(picture)
        fractions = np.clip(fractions, 0, 1)[..., None]
    else:
        fractions = np.zeros((*grid.shape, 1), np.float32)
    return np.float32(1) - fractions if operator.matte_invert else fractions


def effects_chain(job: FrameJob, plate: Plate, units: tuple[Unit, ...], ground: Ground) -> Chain:
    """Return what effects make of a plate's ground, as an image."""
    return Chain(job, plate, units, ground, PictureSpace(ground, job.shot.linear))


def placement_of(job: FrameJob, plate: Plate, operator: PlateKind) -> Placement:
    """Return where a plate lies."""
    return pinned(job, operator, plate, unpinned(job, operator, plate))


def _ground(
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
        None if found is None else _ground(other, plate, found, placement_of(other, plate, found), units, grid, bleed)
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
    if its.fit_in_frame() == "tile" or (with_effects and _units(there, plate, None)):
        return None
    its_lies = placement_of(there, plate, its)
    back = affine.inverse(its_lies.place)
    if its_lies.seen is not None or back is None:
        return None
    together = replace(its_lies, place=affine.compose(its_lies.place, placement.place))
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
    key = (
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
        key = (*key, Same(plate), Same(job.shot.maps))  # type: ignore[assignment]
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


def _placeholder(grid: Grid) -> Picture:
    """Diagonal bars in grey over the whole frame: something is missing here."""
    bars = ((grid.xs() + grid.ys()[:, None]) % 80) < 40
    out = np.empty((*grid.shape, 4), np.float32)
    out[..., :3] = np.where(bars, 0.30, 0.22)[..., None]
    out[..., 3] = 1.0
    return out


def on_whole(layer: Layer | None, grid: Grid) -> Picture:
    """Return a layer's picture on the whole of a grid."""
    if layer is not None and layer.picture.shape[:2] == grid.shape:
        return layer.picture
    out = np.zeros((*grid.shape, 4), np.float32)
    if layer is not None:
        height, width = layer.picture.shape[:2]
        out[layer.top : layer.top + height, layer.left : layer.left + width] = layer.picture
    return out


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
