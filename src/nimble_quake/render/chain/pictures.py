"""Pictures: how the effects of a plate are run over what it shows."""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from nimble_quake.conventions import Affine, Picture, Pixels, Seconds, Warp
from nimble_quake.operators.base import MapReader
from nimble_quake.operators.coordinates import Coordinate, Spread
from nimble_quake.raster.colour.light import to_encoded, to_linear
from nimble_quake.raster.colour.pointwise import Op, run_ops
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.sampling.sample import fetch
from nimble_quake.raster.sampling.shrunk import BLOCK
from nimble_quake.raster.sampling.split import Split, fetch_split
from nimble_quake.raster.threads.extremes import max_displacement
from nimble_quake.render.chain.pull import Chain, Image, Samples, context
from nimble_quake.render.chain.reading import PictureReader, looked_at
from nimble_quake.render.plan.units import Unit, ops_of
from nimble_quake.render.values.placement import Placement
from nimble_quake.shot.paths import plate_path

WORTH = 0.75
"""From this fraction of a grid on, all of it is made: cutting it out would be no cheaper."""


class Sampled:
    """An image that is sampled through a warp, once."""

    def sampled(self, places: Places, filter: str, split: Split | None) -> Picture:
        """Return it at places."""
        raise NotImplementedError


class Ground(Sampled):
    """What a plate shows before its effects, where it lies."""

    placement: Placement
    bits8: bool
    sees_through: ClassVar[bool] = False
    """It is what lies beneath a lens."""

    @property
    def endless(self) -> bool:
        """Whether it fills any grid, however far it is carried."""
        return True

    def on(self, grid: Grid) -> Picture:
        """Return it on a grid. Do not write to it."""
        raise NotImplementedError

    def key(self) -> tuple[Hashable, ...]:
        """Return what it depends on."""
        raise NotImplementedError

    def at(self, seconds: Seconds) -> Image:
        """Return it at another time."""
        raise NotImplementedError

    def stands_on(self) -> tuple[Hashable, ...]:
        """Return what it depends on whatever the moment."""
        raise NotImplementedError

    def covered(self, grid: Grid, room: Pixels) -> Grid | None:
        """Return the part of a grid that it can reach, `room` round it included; None for nothing."""
        raise NotImplementedError


@dataclass(frozen=True)
class PictureSpace:
    """How pictures are sampled and remembered."""

    ground: Ground
    linear: bool = False
    picture = True
    rest = 0.5

    def remembered(self, chain: Chain, grid: Grid, make: Callable[[Grid], Samples]) -> Samples:
        def made() -> Samples:
            part = self._reached(chain, grid)
            return np.zeros((*grid.shape, 4), np.float32) if part is None else Patch(make(part), part).on(grid)

        found: Samples = chain.job.engine.cache.get_again(("picture", chain.key(), grid), made)
        return found

    def _reached(self, chain: Chain, grid: Grid) -> Grid | None:
        """The part of a grid that is worth making: all of it where little else is; None where nothing is."""
        if self.ground.endless or any(isinstance(unit.operator, Coordinate) or unit.inner for unit in chain.units):
            return grid
        part = self.ground.covered(grid, bounded(chain, grid))
        small = part is None or part.width * part.height < WORTH * grid.width * grid.height
        return part if small else grid

    def untouched(self, grid: Grid) -> Samples | None:
        return self.ground.on(grid) if self.ground.sees_through else None

    def points(self, values: Samples, units: tuple[Unit, ...], rest: float) -> Samples:
        """On colours taken out of their alpha, as W3C Filter Effects 1 has it for feComponentTransfer."""
        ops = ops_of(units, rest)
        if self.linear:
            return to_linear(_pointwise(to_encoded(values), ops))
        return _pointwise(values, ops)

    def reader(self, chain: Chain, grid: Grid) -> MapReader:
        return PictureReader(chain.job, self.ground.placement, grid.scale)

    def sampled(self, lead: Chain, run: tuple[Unit, ...], grid: Grid) -> Samples:
        places, split = composed(lead, run, grid)
        steps = [unit.operator for unit in run if isinstance(unit.operator, Coordinate)]
        filter = next((step.fetched_by() for step in reversed(steps) if step.fetched_by()), "good")
        if any(step.rough for step in steps):
            filter = {"good": "linear", "best": "cubic"}.get(filter, filter)
        lead.job.warps.setdefault(plate_path(lead.owner.id), (places, grid))
        if not lead.units and isinstance(lead.ground, Sampled):  # what a plate shows: sampled once
            return lead.ground.sampled(places, filter, split)
        return sampled_image(lead, places, filter, split, (lead.job.moment.width, lead.job.moment.height))


def _pointwise(values: Picture, ops: tuple[Op, ...]) -> Picture:
    alpha = values[..., 3:]
    if bool((alpha >= 1).all()):
        return run_ops(values, ops)
    straight = np.asarray(values / np.maximum(alpha, np.float32(1e-6)), np.float32)
    straight[..., 3:] = alpha
    out = run_ops(straight, ops)
    out[..., :3] *= alpha
    return out


def composed(lead: Chain, run: tuple[Unit, ...], grid: Grid) -> tuple[Places, Split | None]:
    """Return where a run of coordinate steps looks over a grid, and how its colours part.

    p + d1(p) + d2(p + d1(p)) + ...: the last step acts last on the picture, so it is asked first.
    """
    places, split = Places(grid), None
    for number in reversed(range(len(run))):
        operator = run[number].operator
        assert isinstance(operator, Coordinate)
        ctx = context(replace(lead, units=(*lead.units, *run[: number + 1])), run[number], grid)
        before = places
        places = operator.look(places, ctx)
        spread = operator.spread()
        if spread is not None and split is None:
            split = _split(before, places, spread, (ctx.at.width, ctx.at.height))
    return places, split


def _split(before: Places, after: Places, spread: Spread, size: tuple[float, float]) -> Split | None:
    """The offsets of the step whose colours part; the steps beneath it are read at the middle place."""
    if after.warp is None:
        return None
    moved = after.warp if before.warp is None else after.warp - before.warp
    if spread.centre is not None:
        own = before.absolute() - np.array(spread.centre, np.float32)[:, None, None]
        moved = moved * (np.sqrt(own[0] * own[0] + own[1] * own[1]) * np.float32(2 / math.hypot(*size)))
    return Split(np.ascontiguousarray(moved), spread.factors, spread.weights)


def sampled_image(image: Image, places: Places, filter: str, split: Split | None, size: tuple[float, float]) -> Picture:
    """Return an image that has to be computed first, seen through a warp; at most a frame beyond the frame."""
    grid = places.grid
    if places.warp is None:
        return image.on(grid)
    room = 0.0 if split is None else max_displacement(split.moved) * split.max_displacement
    outer = looked_at(places, size).grown(grid.samples(min(room, max(size))) + 2)
    return fetched(image.on(outer), places, outer.index_affine(), "empty", filter, split)


def fetched(picture: Picture, places: Places, to_px: Affine, edge: str, filter: str, split: Split | None) -> Picture:
    """Return a picture sampled at places, its colours together or parted."""
    if split is not None:
        return fetch_split(picture, places.grid, to_px, places.warp, split, edge=edge)
    return fetch(picture, places.grid, to_px, places.warp, edge=edge, filter=filter)


def bounded(chain: Chain, grid: Grid) -> Pixels:
    """Return how far the effects of a plate can carry its picture, at most, in shot pixels."""
    far = 0.0
    for number, unit in enumerate(chain.units):
        upto = replace(chain, units=chain.units[: number + 1])
        for part in unit.inner or (unit,):
            ctx = context(replace(upto, units=(*chain.units[:number], part)), part, grid)
            far += part.operator.carries(ctx)
    return far


@dataclass(frozen=True)
class PlacedRaster(Ground):
    """The picture of a plate where it lies; `make` gives it anew at another time."""

    picture: Picture
    to_px: Affine
    edge: str
    placement: Placement
    depends: tuple[Hashable, ...]
    then: Callable[[Seconds], Image]
    bits8: bool = True
    size: tuple[int, int] | None = None
    """Rows and columns of the whole picture, where `picture` is the part of it in which anything is drawn."""

    @property
    def endless(self) -> bool:
        return self.edge != "empty"

    def on(self, grid: Grid) -> Picture:
        straight = straight_through(self.picture, grid, self.to_px)
        return self.sampled(Places(grid), "linear", None) if straight is None else straight

    def key(self) -> tuple[Hashable, ...]:
        return self.depends

    def at(self, seconds: Seconds) -> Image:
        return self.then(seconds)

    def stands_on(self) -> tuple[Hashable, ...]:
        return (self.edge, self.placement.box, self.size or self.picture.shape[:2])

    def sampled(self, places: Places, filter: str, split: Split | None) -> Picture:
        return fetched(self.picture, places, self.to_px, self.edge, filter, split)

    def covered(self, grid: Grid, room: Pixels) -> Grid | None:
        """Return the part of a grid that the picture can reach, `room` round it included; None for nothing."""
        if self.endless or not math.isfinite(room):
            return grid
        corner = whole_shift(grid, self.to_px) if room == 0 else None
        if corner is None:
            return covered(grid, self.to_px, self.picture.shape[:2], room)
        left, top = (max(0, -at) for at in corner)  # its own pixels, and none round them
        width = min(grid.width, self.picture.shape[1] - corner[0]) - left
        height = min(grid.height, self.picture.shape[0] - corner[1]) - top
        return grid.part(left, top, width, height) if width > 0 and height > 0 else None


@dataclass(frozen=True)
class Clear(Ground):
    """Nothing, where a plate lies: while only its measures, or where it looks, are asked for."""

    placement: Placement
    bits8: bool = False

    def on(self, grid: Grid) -> Picture:
        return np.zeros((*grid.shape, 4), np.float32)

    def key(self) -> tuple[Hashable, ...]:
        return ("clear",)

    def at(self, seconds: Seconds) -> Image:
        return self

    def stands_on(self) -> tuple[Hashable, ...]:
        return ("clear",)

    def sampled(self, places: Places, filter: str, split: Split | None) -> Picture:
        return self.on(places.grid)

    def covered(self, grid: Grid, room: Pixels) -> Grid | None:
        return grid


def covered(grid: Grid, to_px: Affine, shape: tuple[int, int], room: Pixels) -> Grid | None:
    """Return the part of a grid a picture of (rows, columns) covers, with some room; None for nothing.

    It begins where a block of pixels begins that are averaged alike: what is seen does not hang on where it begins.
    """
    forth = affine.inverse(to_px)
    if forth is None:
        return None
    height, width = shape
    x0, y0, x1, y1 = affine.bounds(affine.compose(forth, grid.index_affine()), -0.5, -0.5, width + 0.5, height + 0.5)
    room *= grid.scale
    left, top = (max(0, math.floor(low - room)) // BLOCK * BLOCK for low in (x0, y0))
    right, bottom = min(grid.width, math.ceil(x1 + room)), min(grid.height, math.ceil(y1 + room))
    if right <= left or bottom <= top:
        return None
    return grid.part(left, top, right - left, bottom - top)


def whole_shift(grid: Grid, to_px: Affine) -> tuple[int, int] | None:
    """Return the column and row of the pixel that a grid's first sample falls on; None where samples lie between."""
    to_place = (grid.step, 0.0, grid.x0, 0.0, grid.step, grid.y0)
    a, b, c, d, e, f = affine.compose(affine.compose((1.0, 0.0, 0.5, 0.0, 1.0, 0.5), to_place), to_px)
    left, top = c - 0.5, f - 0.5
    if (a, b, d, e) != (1.0, 0.0, 0.0, 1.0) or left != int(left) or top != int(top):
        return None
    return int(left), int(top)


def straight_through(picture: Picture, grid: Grid, to_px: Affine) -> Picture | None:
    """Return the picture's own pixels where samples fall exactly on their centres: the same bits as sampling them."""
    corner = whole_shift(grid, to_px)
    if corner is None:
        return None
    left, top = corner
    if left < 0 or top < 0 or left + grid.width > picture.shape[1] or top + grid.height > picture.shape[0]:
        return None
    return picture[top : top + grid.height, left : left + grid.width]


def longest(warp: Warp | None) -> Pixels:
    """Return the longest offset along either axis."""
    return 0.0 if warp is None else max_displacement(warp)
