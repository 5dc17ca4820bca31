"""A whole frame: the stack, from the lowest plate up, blended over the ground."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import TypeAlias, TypeGuard

import numpy as np

from nimble_quake.conventions import Field, Picture, Pixels, Seconds
from nimble_quake.kernels.pools.native import Begun
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.colour.blend import blend_onto, flat, over_flat
from nimble_quake.raster.colour.clear import has_clear
from nimble_quake.raster.colour.light import linear_colour
from nimble_quake.raster.colour.mix import mixed
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.geometry.part import Patch, around, let_through
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.sampling.split import Split
from nimble_quake.render.caches.results import Same
from nimble_quake.render.chain.pictures import Clear, Ground, bounded, fetched
from nimble_quake.render.job import FrameJob, Inspection
from nimble_quake.render.plan.groups import below, blended_apart, is_there, plate_operator
from nimble_quake.render.plan.units import beneath_key, edge_of, units_of
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import Layer, effects_chain, finished, plate_layer
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.model import Plate

Colour: TypeAlias = tuple[float, float, float, float]


def stack_on(job: FrameJob, plates: tuple[Plate, ...], grid: Grid) -> Picture:
    """Return plates (the top one first) blended over the shot's ground, on a grid."""
    r, g, b, a = linear_colour(job.shot.ground) if job.shot.linear else job.shot.ground
    return stack_over(job, plates, grid, (r * a, g * a, b * a, a))


NOTHING: Colour = (0.0, 0.0, 0.0, 0.0)


FEW = 4
"""So many pictures are made before any is blended, to know where there is anything; of more that would be memory."""


def part_over_nothing(job: FrameJob, plates: tuple[Plate, ...], grid: Grid) -> Patch | None:
    """Return plates (the top one first) over nothing, on the part of a grid where anything of them is; to be read.

    None for nothing. Many plates, and a lens, fill the grid.
    """
    if len(plates) > FEW or any(_is_lens(job, plate) for plate in plates):
        return Patch(stack_over(job, plates, grid, NOTHING), grid)
    asked = (_seen(job, plate, grid) for plate in plates)
    seen = [(layer, operator) for layer, operator in asked if layer is not None and operator is not None]
    if not seen:
        return None
    layer, operator = seen[0]
    if len(seen) == 1 and operator.opacity == 1 and (layer.missing or operator.blend == "normal"):
        return layer.part(grid)
    part = around(grid, *(layer.part(grid).grid for layer, _ in seen))
    rows, columns = part.inside(grid)
    canvas = flat(part.shape, NOTHING)
    for layer, operator in reversed(seen):
        _blended(canvas, replace(layer, left=layer.left - columns.start, top=layer.top - rows.start), operator)
    return Patch(canvas, part)


def stack_over(job: FrameJob, plates: tuple[Plate, ...], grid: Grid, ground: Colour, *, fresh: bool = False) -> Picture:
    """Return plates (the top one first) blended over a premultiplied colour, on a grid.

    fresh: made for this alone, and may be written to.
    """
    lens = next((n for n, plate in enumerate(plates) if _is_lens(job, plate)), None)
    above = plates if lens is None else plates[:lens]
    canvas, begun = None, None
    if lens is not None:
        canvas = _through_lens(job, plates[lens], plates[lens + 1 :], grid, ground, fresh=fresh or bool(above))
    for plate in reversed(above):
        layer, operator = _seen(job, plate, grid)
        if operator is None:
            continue
        if canvas is None:
            canvas, begun = _on_ground(ground, layer, operator, grid, fresh=fresh or len(above) > 1)
        else:
            _finished(begun)
            _blended(canvas, layer, operator)
    _finished(begun)
    return flat(grid.shape, ground) if canvas is None else canvas


def _seen(job: FrameJob, plate: Plate, grid: Grid) -> tuple[Layer | None, PlateKind | None]:
    """What is seen of a plate on a grid; without an operator where nothing is."""
    then, look = job.when_asked(plate), job.look
    operator = _shown(then, plate)
    if operator is None:
        return None, None
    layer = plate_layer(then, plate, grid, with_effects=not look.untouched, upto=_upto(plate, look))
    _note(look, plate, layer, grid)
    return layer, operator


def _finished(begun: Begun | None) -> None:
    if begun is not None:
        begun.finish()


def _note(look: Inspection, plate: Plate, layer: Layer | None, grid: Grid) -> None:
    """Hand a plate's layer out; where it begins is counted from the frame's corner, whatever grid it was made on."""
    if look.seen is not None and layer is not None:
        left, top = round(grid.x0 * grid.scale), round(grid.y0 * grid.scale)
        look.seen[plate.id] = replace(layer, left=layer.left + left, top=layer.top + top)


def _on_ground(
    ground: Colour, layer: Layer | None, operator: PlateKind, grid: Grid, *, fresh: bool
) -> tuple[Picture, Begun | None]:
    """Return the lowest plate over the ground; where it covers all of it, neither is looked at twice.

    The picture is whole once the second thing returned is finished: until another plate needs it, others work on it.
    One that nothing shines through is what is seen, unless it has to be fresh.
    """
    if _covers(layer, operator, grid):
        if not fresh and operator.opacity >= 1 and not has_clear(layer.picture):
            return np.ascontiguousarray(layer.picture), None
        return over_flat(layer.picture, ground, operator.opacity)
    canvas = flat(grid.shape, ground)
    _blended(canvas, layer, operator)
    return canvas, None


def _covers(layer: Layer | None, operator: PlateKind, grid: Grid) -> TypeGuard[Layer]:
    """Whether a layer in normal mode is as large as the grid."""
    return layer is not None and operator.blend == "normal" and layer.picture.shape[:2] == grid.shape


def _blended(canvas: Picture, layer: Layer | None, operator: PlateKind) -> None:
    if layer is None:
        return
    mode = "normal" if layer.missing else operator.blend
    blend_onto(canvas, layer.picture, mode=mode, opacity=operator.opacity, left=layer.left, up=layer.top)


def _upto(plate: Plate, look: Inspection) -> int | None:
    return look.upto[1] if look.upto is not None and look.upto[0] == plate.id else None


def _shown(job: FrameJob, plate: Plate) -> PlateKind | None:
    """The plate's operator, where it is seen at all now."""
    if not is_there(plate, job.moment.frame):
        return None
    operator = plate_operator(job, plate)
    return None if operator is None or operator.opacity <= 0 else operator


def _is_lens(job: FrameJob, plate: Plate) -> bool:
    operator = _shown(job, plate)
    return operator is not None and operator.beneath and bool(units_of(job, plate))


MOST_BEYOND = 0.5
"""A lens sees no more of what lies beyond the frame than this share of its longer side."""


def _through_lens(
    job: FrameJob, plate: Plate, below: tuple[Plate, ...], grid: Grid, background: Colour, *, fresh: bool
) -> Picture:
    """What lies beneath a lens, with the lens over it. What it pulls in from beyond the frame is made once, with it."""
    operator = _shown(job, plate)
    assert operator is not None
    if job.look.untouched:
        return stack_over(job, below, grid, background, fresh=fresh)
    units = units_of(job, plate)
    placement = placement_of(job, plate, operator)
    edge, room = edge_of(units, "empty"), 0.0
    if edge == "empty":  # with any other edge only the frame itself is looked at
        with finished(job, plate):
            room = bounded(effects_chain(job, plate, units, Clear(placement)), grid)
    outer = grid.grown(grid.samples(min(room, MOST_BEYOND * max(job.shot.width, job.shot.height))))
    whole = stack_over(job, below, outer, background)
    ground = Beneath(job, plate, below, outer, whole, background, edge, placement)
    beneath = whole[grid.inside(outer)]
    fractions = operator.seen_through(placement.place, grid)
    part = grid if fractions is None else let_through(fractions, grid)
    layer = None if part is None else plate_layer(job, plate, part, upto=_upto(plate, job.look), beneath=ground)
    if part is None or layer is None:
        return np.array(beneath)
    _note(job.look, plate, layer, part)
    seen = part.part(layer.left, layer.top, *layer.picture.shape[1::-1])
    rows, columns = seen.inside(grid)
    made = _laid(beneath[rows, columns], layer, operator, None if fractions is None else fractions[rows, columns])
    if seen.shape == grid.shape:
        return np.array(made) if fresh and made is layer.picture else np.ascontiguousarray(made)
    canvas = np.array(beneath)
    canvas[rows, columns] = made
    return canvas


def _laid(beneath: Picture, layer: Layer, operator: PlateKind, fractions: Field | None) -> Picture:
    """Return what lies beneath a lens, with what it shows in its place as far as it is seen there, (H, W, 1)."""
    if layer.cover is not None:
        fractions = layer.cover if fractions is None else fractions * layer.cover
    if operator.blend != "normal":
        canvas = np.array(beneath)
        picture = layer.picture if fractions is None else layer.picture * fractions
        blend_onto(canvas, picture, mode=operator.blend, opacity=operator.opacity)
        return canvas
    if fractions is None and operator.opacity >= 1:
        return layer.picture
    amount = np.float32(operator.opacity)
    weights = np.full((1, 1, 1), amount) if fractions is None else fractions * amount
    return mixed(beneath, layer.picture, weights, beneath.shape[:2])


def beneath_of(job: FrameJob, plate: Plate, grid: Grid) -> Beneath:
    """Return what lies beneath a lens, for one that reads the lens by itself."""
    operator = plate_operator(job, plate)
    assert operator is not None
    plates = below(job, plate)
    ground = linear_colour(job.shot.ground) if job.shot.linear else job.shot.ground
    r, g, b, a = (0.0, 0.0, 0.0, 0.0) if blended_apart(job, plate) else ground
    background = (r * a, g * a, b * a, a)
    picture = stack_over(job, plates, grid, background)
    return Beneath(job, plate, plates, grid, picture, background, "empty", placement_of(job, plate, operator))


@dataclass(frozen=True)
class Beneath(Ground):
    """All that lies beneath a lens: made once on `outer`, a little larger than the frame."""

    job: FrameJob
    lens: Plate
    plates: tuple[Plate, ...]
    outer: Grid
    picture: Picture
    background: Colour
    edge: str
    placement: Placement
    bits8: bool = False
    sees_through = True

    def on(self, grid: Grid) -> Picture:
        rows, columns = grid.inside(self.outer)
        inside = rows.start >= 0 and columns.start >= 0
        if inside and rows.stop <= self.outer.height and columns.stop <= self.outer.width and self.edge == "empty":
            return self.picture[rows, columns]
        return self.sampled(Places(grid), "linear", None)

    def key(self) -> tuple[Hashable, ...]:
        return (beneath_key(self.job, self.lens), self.edge, self.outer)

    def at(self, seconds: Seconds) -> Beneath:
        then = self.job.at(seconds)
        picture = stack_over(then, self.plates, self.outer, self.background)
        return Beneath(then, self.lens, self.plates, self.outer, picture, self.background, self.edge, self.placement)

    def stands_on(self) -> tuple[Hashable, ...]:
        return (self.edge, self.outer, self.background, *(Same(plate) for plate in self.plates))

    def sampled(self, places: Places, filter: str, split: Split | None) -> Picture:
        """With another edge than "empty" only the frame itself is looked at."""
        if self.edge == "empty":
            return fetched(self.picture, places, self.outer.index_affine(), "hold", filter, split)
        frame = frame_grid(self.job.shot.width, self.job.shot.height, self.outer.scale)
        rows, columns = frame.inside(self.outer)
        inside = rows.start >= 0 and columns.start >= 0
        if not inside or rows.stop > self.outer.height or columns.stop > self.outer.width:
            return fetched(self.picture, places, self.outer.index_affine(), "hold", filter, split)
        picture = np.ascontiguousarray(self.picture[rows, columns])
        return fetched(picture, places, frame.index_affine(), self.edge, filter, split)

    def covered(self, grid: Grid, room: Pixels) -> Grid | None:
        return grid
