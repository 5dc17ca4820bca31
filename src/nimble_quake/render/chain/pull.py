"""Running: the steps of a chain, from the last one back to what it needs, on any grid, at any time.

What they are and what they depend on is planned in `render.plan.units`. Neighbouring point shapers run in one pass;
neighbouring coordinate steps are composed and sample once; each result is remembered under its key. A map's chain and a
plate's differ only in their `Space`: how values are sampled, mixed and remembered there.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from functools import partial
from typing import Protocol, TypeAlias

import msgspec
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Seconds
from nimble_quake.operators.base import Context, MapReader
from nimble_quake.operators.coordinates import Coordinate
from nimble_quake.operators.steps import Enclosing, PointShaper, Shaper, Source
from nimble_quake.raster.colour.channels import as_channels, in_colour
from nimble_quake.raster.colour.clear import has_clear_for_good
from nimble_quake.raster.colour.light import to_encoded, to_linear
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import let_through
from nimble_quake.render.abandon import go_on
from nimble_quake.render.caches.results import Same
from nimble_quake.render.chain.combine import combined, mixed
from nimble_quake.render.chain.masks import mask_values
from nimble_quake.render.job import FrameJob, NodeAround
from nimble_quake.render.plan.closing import closed, goes_on
from nimble_quake.render.plan.units import Unit, key_of, neighbours, reads_plates, rest_of, units_of
from nimble_quake.shot.model import Map, Node, Plate
from nimble_quake.shot.paths import chain_of, owner_path

NO_FRAME = -(2**31)
"""No frame of any shot."""
Samples: TypeAlias = NDArray[np.float32]
"""A map's field or a picture."""


class Image(Protocol):
    """What a plate, all that lies beneath, a file or a map answers."""

    def on(self, grid: Grid) -> Samples:
        """Return it on a grid. Do not write to it."""

    def key(self) -> tuple[Hashable, ...]:
        """Return what it depends on."""

    def at(self, seconds: Seconds) -> Image:
        """Return it at another time."""

    def stands_on(self) -> tuple[Hashable, ...]:
        """Return what it depends on whatever the moment."""


class Space(Protocol):
    """What differs between maps and pictures."""

    picture: bool
    rest: float

    def remembered(self, chain: Chain, grid: Grid, make: Callable[[Grid], Samples]) -> Samples:
        """Return a result on a grid, kept or made."""

    def sampled(self, lead: Chain, run: tuple[Unit, ...], grid: Grid) -> Samples:
        """Return what `lead` makes, seen through neighbouring coordinate steps."""

    def points(self, values: Samples, units: tuple[Unit, ...], rest: float) -> Samples:
        """Return values after neighbouring point shapers."""

    def reader(self, chain: Chain, grid: Grid) -> MapReader:
        """Return how the last step of a chain reads maps."""

    def untouched(self, grid: Grid) -> Samples | None:
        """Return what a lens shows where it does nothing; None for anything else."""


@dataclass(frozen=True)
class Chain:
    """Units over a ground: itself an image."""

    job: FrameJob
    owner: Map | Plate
    units: tuple[Unit, ...]
    ground: Image
    space: Space
    ground_rest: float = 0.5

    def on(self, grid: Grid) -> Samples:
        if not self.units:
            return self.ground.on(grid)
        return self.space.remembered(self, grid, partial(_computed, self))

    def key(self) -> tuple[Hashable, ...]:
        return (key_of(self.units), *self.ground.key())

    def at(self, seconds: Seconds) -> Chain:
        self.job.count_look(MOST_LOOKS)
        return replace(
            self, job=(then := self.job.at(seconds)), ground=self.ground.at(seconds), units=_units_then(self, then)
        )

    def stands_on(self) -> tuple[Hashable, ...]:
        """Return what it depends on whatever the moment: the very values it is made from."""
        shot = self.job.shot
        counts = Counter(unit.node.id for unit in self.units)  # of a staggered step maybe not every time of it
        nodes = tuple((Same(node), counts[node.id]) for node in chain_of(self.owner) if node.id in counts)
        base = (Same(self.owner.values), self.owner.start) if isinstance(self.owner, Plate) else ()
        sizes = (shot.width, shot.height, shot.rate, shot.length)
        plates = (Same(shot.plates),) if reads_plates(self.job, self.owner, self.units) else ()
        return (*nodes, *base, Same(shot.maps), *plates, *sizes, *self.ground.stands_on())

    def lead(self, count: int) -> Chain:
        """Return the chain without its last `count` units."""
        units = self.units[: len(self.units) - count]
        return Chain(self.job, self.owner, units, self.ground, self.space, self.ground_rest)

    @property
    def rest(self) -> float:
        """What its values rest at."""
        return self.space.rest if self.space.picture else rest_of(self.job, self.units, self.ground_rest)


MOST_LOOKS = 400
"""How often the steps of one frame may look at other times, so that echoes of echoes end."""


def _units_then(chain: Chain, then: FrameJob) -> tuple[Unit, ...]:
    """The units at another time: the same nodes with the numbers they have then."""
    nodes = chain_of(chain.owner)
    ids = {unit.node.id for unit in chain.units} | {u.node.id for outer in chain.units for u in outer.inner}
    return _as_often(units_of(then, chain.owner, tuple(_freed(node, ids) for node in nodes if node.id in ids)), chain)


def _as_often(units: tuple[Unit, ...], chain: Chain) -> tuple[Unit, ...]:
    """Leave out the times of the last step that the chain does not have: it ends among those of a staggered step."""
    if not chain.units:
        return ()
    last = chain.units[-1]
    return tuple(unit for unit in units if unit.node.id != last.node.id or unit.time <= last.time)


def _freed(step: Node, ids: set[str]) -> Node:
    """Free a step from a bracket that is not among the steps asked for (it is the ground they stand on)."""
    return step if step.inside in ids or not step.inside else msgspec.structs.replace(step, inside="")


def _computed(chain: Chain, grid: Grid) -> Samples:
    last = chain.units[-1]
    if isinstance(last.operator, Source):
        return _made(chain, last, grid)
    run = neighbours(chain.units)
    if run and isinstance(run[0].operator, Coordinate):
        return _timed_together(chain.job, run, lambda: chain.space.sampled(chain.lead(len(run)), run, grid))
    if len(run) > 1:
        lead = chain.lead(len(run))
        values = lead.on(grid)
        return _timed_together(chain.job, run, lambda: chain.space.points(values, run, lead.rest))
    if last.plain:
        return _after(chain, last, grid)
    mask = _mask(replace(chain, job=_then(chain, last)), last, grid)
    return _mixed(chain, last, grid, mask)


def _mixed(chain: Chain, last: Unit, grid: Grid, mask: Field | None) -> Samples:
    """What the last step makes, mixed into what was there; it is made where its mask lets anything through."""
    own, opacity = chain.lead(1).on(grid), last.operator.opacity
    part = grid if mask is None else let_through(mask, grid)
    if part is None:
        return own
    if part == grid:
        return mixed(own, _after(chain, last, grid), opacity, mask)
    assert mask is not None
    where = part.inside(grid)
    made = mixed(own[where], _after(chain, last, part), opacity, mask[where])
    out = np.array(as_channels(own, made.shape[2]))
    out[where] = made
    return out


def _after(chain: Chain, last: Unit, grid: Grid) -> Samples:
    """What the last step makes, before it is mixed."""
    before = chain.lead(1)
    if last.bracket:
        with chain.job.timed(last.path):
            return _bracket(chain, last, grid)
    if last.inner:
        return replace(before, units=(*before.units, *last.inner)).on(grid)
    assert isinstance(last.operator, Shaper)
    if isinstance(last.operator, Coordinate):
        whole = (replace(last, whole=True),)
        return _timed_together(chain.job, whole, lambda: chain.space.sampled(before, whole, grid))
    with chain.job.timed(last.path):
        made = last.operator.run(grid, context(chain, last, grid))
        return to_linear(made) if _encoded(chain, last) else made


def _encoded(chain: Chain, unit: Unit) -> bool:
    """Whether a step wants encoded colours where the chain's are linear light."""
    return chain.space.picture and chain.job.shot.linear and not unit.operator.in_light


def _then(chain: Chain, unit: Unit) -> FrameJob:
    """The shot when a unit's numbers are taken: now, or earlier where it is staggered."""
    return chain.job.earlier(unit.behind) if unit.behind else chain.job


def context(chain: Chain, unit: Unit, grid: Grid) -> Context:
    """Return what the last step of a chain knows besides its numbers."""
    before, operator, then = chain.lead(1), unit.operator, _then(chain, unit)
    rest = before.rest
    if chain.space.picture and not isinstance(operator, PointShaper):
        rest = 0.0  # what is added to a picture, or taken from it, is so about nothing at all
    then.path = unit.path
    around = ChainAround(then, operator, unit.node, unit.path, chain, unit, grid)
    moving, picture = then.engine.known.moving(unit.node), chain.space.picture
    linear = picture and chain.job.shot.linear and operator.in_light
    return Context(then.moment_for(operator), then, rest, moving, unit.path, picture, linear, around)


@dataclass(frozen=True)
class ChainAround(NodeAround):
    """What the last step of a chain may ask, on a grid: the steps before it, maps, what lies beneath its plate."""

    chain: Chain
    unit: Unit
    grid: Grid

    @property
    def maps(self) -> MapReader:
        chain = self.chain if self.job is self.chain.job else replace(self.chain, job=self.job)
        return chain.space.reader(chain, self.grid)

    def below(self, grid: Grid, seconds: Seconds | None) -> Samples:
        before = self.chain.lead(1)
        if seconds is not None and seconds != self.chain.job.moment.seconds:
            if not self.unit.operator.sees_other_times:
                raise RuntimeError("a step asks for another time without saying so: `sees_other_times` must tell it")
            before = before.at(seconds)
        return self._shown(before.on(grid))

    def moments(self, grid: Grid, frames: NDArray[np.int32]) -> Samples:
        if not self.unit.operator.sees_other_times:
            return super().moments(grid, frames)
        before, job = self.chain.lead(1), self.chain.job

        def make(frame: int) -> Samples:
            job.forget_looks()  # as many as there are frames: they are kept, and counted by memory
            return self._shown(before.at(frame / float(job.shot.rate)).on(grid))

        key = (self.path, *before.stands_on(), job.shot.linear, grid)
        frame = round(job.moment.frame) if float(job.moment.frame).is_integer() else NO_FRAME
        now = (frame, self._shown(before.on(grid)))
        return job.engine.moments.shown(key, frames, make, (0.0, 1.0) if before.space.picture else (-0.5, 1.5), now)

    def most_moments(self, grid: Grid) -> int:
        return self.chain.job.engine.moments.most(grid.width * grid.height)

    def beneath(self, grid: Grid) -> Samples:
        if not self.unit.operator.sees_beneath:
            return super().beneath(grid)
        job = self.chain.job
        return job.services.beneath_picture(job, owner_path(self.path), grid)

    def untouched(self, grid: Grid) -> Samples | None:
        found = self.chain.space.untouched(grid)
        return None if found is None else self._shown(found)

    def _shown(self, values: Samples) -> Samples:
        return to_encoded(values) if _encoded(self.chain, self.unit) else values


def _timed_together(job: FrameJob, units: tuple[Unit, ...], run: Callable[[], Samples]) -> Samples:
    """Run neighbours in one go; their cost is shared evenly among them, without that of what they asked for."""
    go_on()
    began, inner = time.perf_counter(), sum(job.costs.values())
    out = run()
    taken = (time.perf_counter() - began) * 1000 - (sum(job.costs.values()) - inner)
    for unit in units:
        job.add_cost(unit.path, taken / len(units))
    return out


def _made(chain: Chain, unit: Unit, grid: Grid) -> Samples:
    """A source's values over what is beneath it."""
    operator, before = unit.operator, chain.lead(1)
    assert isinstance(operator, Source)
    covers = bool(before.units) or before.ground.key() != ()
    made = _source_values(chain, unit, grid)
    cover = None
    if isinstance(made, tuple):
        made, cover = made
        if not covers:  # clear parts of the first step stay clear
            return _with_alpha(made, cover, operator.opacity)
    mask = _mask(chain, unit, grid)
    opaque = cover is None and (made.shape[2] < 4 or not has_clear_for_good(made))
    if operator.combine in ("over", "replace") and unit.plain and (opaque or not covers):
        return made
    if mask is not None:
        cover = mask if cover is None else cover * mask
    return combined(before.on(grid), made, operator.combine, operator.opacity, cover)


def _source_values(chain: Chain, unit: Unit, grid: Grid) -> Field | tuple[Field, Field]:
    """A source's own values; those of a still one are remembered by themselves, whatever moves beneath it."""
    job, operator = chain.job, unit.operator
    assert isinstance(operator, Source)

    def make() -> Field | tuple[Field, Field]:
        with job.timed(unit.path):
            return operator.make(grid, context(chain, unit, grid))

    if goes_on(job, unit.node, operator):
        with job.timed(unit.path):
            rest = operator.rest(chain.job.context(operator, unit.node, unit.path))
            return closed(job, rest, partial(_made_at, chain, unit, grid))
    if operator.timed() or job.moves(unit.node, operator):
        return make()
    found: Field | tuple[Field, Field] = job.engine.cache.get(("source", unit.key, grid), make)
    return found


def _made_at(chain: Chain, unit: Unit, grid: Grid, seconds: Seconds) -> Field | tuple[Field, Field]:
    """A source's own values at another time."""
    then = chain.job if seconds == chain.job.moment.seconds else chain.job.at(seconds)
    operator = then.operator("step", unit.node, unit.path)
    assert isinstance(operator, Source)
    at = replace(unit, operator=operator)
    return operator.make(grid, context(replace(chain, job=then), at, grid))


def _with_alpha(grey: Field, cover: Field, opacity: float) -> Field:
    if grey.shape[2] == 1:
        return in_colour(grey, cover, opacity)
    out = np.ascontiguousarray(as_channels(grey, 4))
    out[..., 3:] = cover * np.float32(opacity)
    return out


def _mask(chain: Chain, unit: Unit, grid: Grid) -> Field | None:
    """A step's mask as (H, W, 1), held to 0...1; None where it has none."""
    operator = unit.operator
    if not operator.mask or operator.masks_strength:
        return None
    travels = not isinstance(operator, Source) and operator.mask_hook == "plate"
    reads = chain.space.reader(chain, grid) if travels else None
    return mask_values(chain.job, operator.mask, grid, unit.path, reads)


@dataclass(frozen=True)
class _Entered:
    """What lies beneath a bracket, in the bracket's own space."""

    chain: Chain
    unit: Unit
    then: tuple[Hashable, ...] = ()
    """The moment, where it is not the one of the frame."""

    def on(self, grid: Grid) -> Samples:
        assert isinstance(self.unit.operator, Enclosing)
        return self.unit.operator.enter(grid, context(self.chain, self.unit, grid))

    def key(self) -> tuple[Hashable, ...]:
        return ("in", self.unit.key, *self.then, *self.chain.lead(1).key())

    def stands_on(self) -> tuple[Hashable, ...]:
        return (Same(self.chain.owner), *self.chain.lead(1).stands_on())

    def at(self, seconds: Seconds) -> _Entered:
        chain = self.chain.at(seconds)
        unit = chain.units[-1] if chain.units and chain.units[-1].node.id == self.unit.node.id else self.unit
        return _Entered(chain, unit, (chain.job.moment.frame,))


def _bracket(chain: Chain, unit: Unit, grid: Grid) -> Samples:
    """A bracket's steps over what was there before, in the bracket's own space."""
    ground = _Entered(chain, unit)
    inside = replace(chain, units=unit.inner, ground=ground, ground_rest=chain.lead(1).rest)
    assert isinstance(unit.operator, Enclosing)
    return unit.operator.leave(grid, context(chain, unit, grid), inside.on)
