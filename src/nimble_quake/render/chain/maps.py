"""Maps: the image that a recipe makes."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import partial

import numpy as np

from nimble_quake.conventions import REST, Field, Seconds
from nimble_quake.operators.base import MapReader
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.raster.colour.clear import seen
from nimble_quake.raster.colour.pointwise import run_ops
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.raster.warps.operations import Bend
from nimble_quake.raster.warps.warped import PAD, sampled_at, sampled_through
from nimble_quake.render.chain.pull import Chain, Image, Samples, context
from nimble_quake.render.chain.reading import RecipeReader
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.units import Unit, ops_of, rest_of, units_of
from nimble_quake.shot.model import Map


@dataclass(frozen=True)
class RestLevel:
    """What lies beneath the first step of a recipe."""

    def on(self, grid: Grid) -> Field:
        return np.full((*grid.shape, 1), REST, np.float32)

    def key(self) -> tuple[Hashable, ...]:
        return ()

    def at(self, seconds: Seconds) -> Image:
        return self

    def stands_on(self) -> tuple[Hashable, ...]:
        return ()


@dataclass(frozen=True)
class MapSpace:
    """How map values are sampled and remembered."""

    picture = False
    rest = REST

    def remembered(self, chain: Chain, grid: Grid, make: Callable[[Grid], Samples]) -> Samples:
        found: Samples = chain.job.engine.cache.get(("map", chain.key(), grid), partial(make, grid))
        return found

    def points(self, values: Samples, units: tuple[Unit, ...], rest: float) -> Samples:
        return run_ops(values, ops_of(units, rest))

    def reader(self, chain: Chain, grid: Grid) -> MapReader:
        before = chain.lead(1)
        return RecipeReader(chain.job, before.on, before.rest, grid.scale)

    def untouched(self, grid: Grid) -> Samples | None:
        return None

    def sampled(self, lead: Chain, run: tuple[Unit, ...], grid: Grid) -> Samples:
        """The last step acts last, so it is asked first where to look."""
        size = (lead.job.moment.width, lead.job.moment.height)
        steps = [unit.operator for unit in run if isinstance(unit.operator, Coordinate)]
        rest, far = lead.rest, max(step.far for step in steps)
        contexts = [context(_upto(lead, run, n), run[n], grid) for n in range(len(run))]
        found = [step.bends(ctx) for step, ctx in zip(steps, contexts, strict=True)]
        simple = [bends for bends in reversed(found) if bends is not None]
        if len(simple) == len(steps):
            bends: tuple[Bend, ...] = tuple(bend for of_step in simple for bend in of_step)
            return seen(lead.on, rest, lambda below: sampled_through(below, grid, bends, size, far))
        places = Places(grid.grown(PAD))
        for step, ctx in zip(reversed(steps), reversed(contexts), strict=True):
            places = step.look(places, ctx)
        return seen(lead.on, rest, lambda below: sampled_at(below, grid, places.absolute(), size, far))


def _upto(lead: Chain, run: tuple[Unit, ...], number: int) -> Chain:
    """The chain that ends in a step of a run: a map that pushes itself reads what is beneath that step."""
    return Chain(lead.job, lead.owner, (*lead.units, *run[: number + 1]), lead.ground, lead.space, lead.ground_rest)


MAP_SPACE = MapSpace()
AT_REST = RestLevel()


def map_image(job: FrameJob, map: Map, *, upto: int | None = None) -> Chain:
    """Return a map, or what its first `upto` steps make, as an image."""
    steps = map.recipe if upto is None else map.recipe[:upto]
    return Chain(job, map, units_of(job, map, steps), AT_REST, MAP_SPACE)


def map_field(job: FrameJob, map: Map, grid: Grid, *, upto: int | None = None) -> Field:
    """Return a map's finished values on a grid, or those after its first `upto` steps. Do not write to it."""
    with job.evaluating.on(f"maps/{map.id}", "the map reads itself", "let one of them read another"):
        return map_image(job, map, upto=upto).on(grid)


def map_rest(job: FrameJob, map: Map) -> float:
    """Return what a finished map rests at: 128/255 where an 8-bit picture has the last say, else one half."""
    return rest_of(job, units_of(job, map), REST)


def other_map(job: FrameJob, map_id: str, grid: Grid, seconds: Seconds | None) -> Field | None:
    """Return another map's values, now or at another time; None where there is none."""
    map = job.shot.map(map_id) if map_id else None
    if map is None:
        return None
    return map_field(job if seconds is None else job.at(seconds), map, grid)
