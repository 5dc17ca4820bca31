"""Plates: their picture, placed, changed by their effects, sampled once."""

from __future__ import annotations

import math
from contextlib import AbstractContextManager, nullcontext
from dataclasses import dataclass

import numpy as np

from nimble_quake.conventions import Field, Picture, Warp
from nimble_quake.errors import LimitError, MediaError, ShotError
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.colour.channels import luminance
from nimble_quake.raster.finishes.rims import thinned
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch, let_through
from nimble_quake.render.abandon import go_on
from nimble_quake.render.chain.masks import mask_values
from nimble_quake.render.chain.pictures import Clear, Ground, PictureSpace, bounded, longest
from nimble_quake.render.chain.pull import Chain
from nimble_quake.render.chain.reading import PictureReader
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, plate_operator
from nimble_quake.render.plan.units import Unit, units_of
from nimble_quake.render.plates.depth import InDepth
from nimble_quake.render.plates.grounds import ground_of, placement_of
from nimble_quake.render.values.circles import own_picture
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Node, Plate
from nimble_quake.shot.paths import find, kind_of, owner_path, plate_path


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

    def part(self, grid: Grid) -> Patch:
        """Return its picture as part of the grid it was made for."""
        return Patch(self.picture, grid.part(self.left, self.top, *self.picture.shape[1::-1]))


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
BLEED_BY = 32.0
"""Shot pixels. A plate is made beyond the frame by such steps: one that stands still is made once, though what
displaces it reaches farther in one frame than in the next."""


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
        bleed = math.ceil(bleed / BLEED_BY) * BLEED_BY
    with _own_picture(job, plate):
        ground = ground_of(job, plate, operator, placement, units, grid, bleed)
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
    bleed = bounded(chain, grid) if units and not ground.endless else 0.0
    found = _seen_part(job, plate, operator, ground.covered(grid, bleed), ground)
    if found is None:
        return None
    part, cover = found
    job.warps.pop(path, None)
    picture = chain.on(part)
    looked = job.warps.get(path)
    warp = looked[0].warp if looked is not None and looked[1] == part else None
    doubted = part != grid and not ground.endless and not _sure(job, units, part)
    if warp is not None and doubted and (reach := longest(warp)) > bleed + 1:
        # a map reaches beyond the frame with values that it has nowhere inside: look at all that could be pulled in
        part, cover = _seen_part(job, plate, operator, ground.covered(grid, reach), ground) or found
        job.warps.pop(path, None)
        picture = chain.on(part)
        warp = job.warps[path][0].warp
    if cover is not None and not operator.beneath:
        picture, cover = thinned(picture, cover[..., 0]), None
    left, top = round((part.x0 - grid.x0) * grid.scale), round((part.y0 - grid.y0) * grid.scale)
    return Layer(picture, left, top, warp, ground.bits8, cover=cover)


def _seen_part(
    job: FrameJob, plate: Plate, operator: PlateKind, covered: Grid | None, ground: Ground
) -> tuple[Grid, Field | None] | None:
    """What of a part is let through by the plate's mask and matte, and how much of it; None for nothing."""
    if covered is None:
        return None
    with _own_picture(job, plate):
        cover = _cover(job, operator, covered, plate_path(plate.id), ground.placement)
    part = covered if cover is None else let_through(cover, covered)
    if part is None:
        return None
    return part, None if cover is None else cover[part.inside(covered)]


def _cover(job: FrameJob, operator: PlateKind, part: Grid, path: str, placement: Placement) -> Field | None:
    """Where a plate's mask and matte let it be seen, (H, W, 1); None: everywhere."""
    travels = PictureReader(job, placement, part.scale) if operator.mask_hook == "plate" else None
    cover = mask_values(job, operator.mask, part, path, travels) if operator.mask else None
    if cover is not None and operator.mask_invert:
        cover = np.float32(1) - cover
    matte = _matte(job, operator, part, path) if operator.matte else None
    if matte is None:
        return cover
    return matte if cover is None else cover * matte


def mask_at(job: FrameJob, path: str, grid: Grid) -> Field | None:
    """Return the mask of a plate or effect where it lies now, (H, W, 1) within 0...1; None where it has none."""
    plate, node = find(job.shot, owner_path(path)), find(job.shot, path)
    if not isinstance(plate, Plate) or not isinstance(node, Node):
        return None
    owner, operator = plate_operator(job, plate), job.operator(kind_of(path), node, path)
    mask = "" if operator is None else str(operator.values.get("mask") or "")
    if operator is None or not mask:
        return None
    travels = owner is not None and operator.values.get("mask_hook") == "plate"
    reader = PictureReader(job, placement_of(job, plate, owner), grid.scale) if travels and owner is not None else None
    return mask_values(job, mask, grid, path, reader)


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
        if operator.matte_by == "alpha":
            fractions = job.plate_alpha(other.id, grid, with_effects=operator.matte_effects)
        else:
            picture, _ = job.plate_picture(other.id, grid, with_effects=operator.matte_effects)
            fractions = luminance(picture)[..., None]
        fractions = np.clip(fractions, 0, 1)
    else:
        fractions = np.zeros((*grid.shape, 1), np.float32)
    return np.float32(1) - fractions if operator.matte_invert else fractions


def effects_chain(job: FrameJob, plate: Plate, units: tuple[Unit, ...], ground: Ground) -> Chain:
    """Return what effects make of a plate's ground, as an image."""
    return Chain(job, plate, units, ground, PictureSpace(ground, job.shot.linear))


def _placeholder(grid: Grid) -> Picture:
    """Diagonal bars in grey over the whole frame: something is missing here."""
    bars = ((grid.xs() + grid.ys()[:, None]) % 80) < 40
    out = np.empty((*grid.shape, 4), np.float32)
    out[..., :3] = np.where(bars, 0.30, 0.22)[..., None]
    out[..., 3] = 1.0
    return out


def on_whole(layer: Layer | None, grid: Grid) -> Picture:
    """Return a layer's picture on the whole of a grid."""
    return np.zeros((*grid.shape, 4), np.float32) if layer is None else layer.part(grid).on(grid)


def alpha_on_whole(layer: Layer | None, grid: Grid) -> Field:
    """Return the alpha of a layer's picture on the whole of a grid, (H, W, 1)."""
    out = np.zeros((*grid.shape, 1), np.float32)
    if layer is not None:
        out[layer.part(grid).grid.inside(grid)] = layer.picture[..., 3:]
    return out
