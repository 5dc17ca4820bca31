"""A shot at a frame: what is remembered and counted while it is computed, and the services it is computed with."""

from __future__ import annotations

import math
import time
from collections.abc import Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from typing import Any, Protocol

from nimble_quake.conventions import Field, Frames, Picture, Seconds, Value, Values
from nimble_quake.errors import LimitError, NimbleQuakeError, one_line
from nimble_quake.media.pool import MediaPool
from nimble_quake.motion.kinds import pins_of
from nimble_quake.motion.motion import value_at
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Around, Context, Operator, Tracked
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch
from nimble_quake.raster.geometry.places import Places
from nimble_quake.render.abandon import go_on
from nimble_quake.render.engine import Engine, moment_in
from nimble_quake.render.values.circles import EvaluationStack
from nimble_quake.render.values.exceptions import Exceptions
from nimble_quake.render.values.resolving import linear_values, resolved, stands_still
from nimble_quake.shot.groups import MASTER, mastered
from nimble_quake.shot.model import Node, Plate, Shot
from nimble_quake.shot.paths import kind_of, owner_id, plate_path
from nimble_quake.shot.spans import faded


@dataclass(frozen=True)
class Problem:
    """Something that is not as it should be; the frame goes on without it."""

    path: str
    what: str
    cure: str = ""

    def line(self) -> str:
        """The message in one line."""
        return one_line(f"{self.path}: {self.what}", self.cure)


@dataclass
class Inspection:
    """How a frame is looked at. untouched: without any effect. seen: is filled with each plate's layer by id."""

    untouched: bool = False
    seen: Values | None = None
    upto: tuple[str, int] | None = None
    """A plate, and after how many of its effects it is seen."""

    def key(self) -> tuple[Hashable, ...]:
        """Return what pictures depend on besides the shot."""
        return (self.untouched, self.upto)


class Services(Protocol):
    """What a frame is computed with: other maps and plates than the one under way."""

    def map_values(self, job: FrameJob, map_id: str, grid: Grid, seconds: Seconds | None) -> Field | None:
        """See operators.base.Feed."""

    def map_rest(self, job: FrameJob, map_id: str) -> float:
        """Return what a finished map rests at; one half where there is no such map."""

    def plate_picture(
        self, job: FrameJob, plate_id: str, grid: Grid, with_effects: bool, seconds: Seconds | None
    ) -> tuple[Picture, bool]:
        """See operators.base.Feed."""

    def plate_alpha(self, job: FrameJob, plate_id: str, grid: Grid, with_effects: bool) -> Field:
        """See operators.base.RenderServices."""

    def plate_outline(self, job: FrameJob, plate_id: str, grid: Grid) -> Field:
        """See operators.base.RenderServices."""

    def tracked(self, job: FrameJob, plate_id: str) -> Tracked | None:
        """Return the points tracked in a clip, where it lies now; None where it is not tracked."""

    def beneath_picture(self, job: FrameJob, plate_path: str, grid: Grid) -> Picture:
        """Return what lies beneath a plate, on a grid."""

    def members_part(self, job: FrameJob, plate_path: str, grid: Grid) -> Patch | None:
        """See operators.base.Feed."""

    def shown_part(self, job: FrameJob, plate_id: str, grid: Grid) -> Patch | None:
        """See operators.base.RenderServices."""


class FrameJob:
    """A shot at a frame. It is the feed of operators (operators.base.Feed). Made by `render.services.frame_job`."""

    def __init__(self, engine: Engine, shot: Shot, frame: Frames, services: Services) -> None:
        self.engine, self.shot, self.services = engine, shot, services
        self.moment = moment_in(engine, shot, frame, partial(_seen_at, engine, shot, services))
        self.tolerant = False
        """A value that has no number now is at its default, and that is told; else it is an error of the frame."""
        self.problems: dict[tuple[str, str], Problem] = {}
        self.path = ""
        self.look = Inspection()
        self.exaggerated: tuple[str, float] | None = None
        self._masters: dict[str, float] | None = None
        """The path of an effect whose strength is multiplied, to be looked at."""
        self._operators: dict[tuple[str, Frames], Operator | None] = {}
        self._timeless: Moment | None = None
        self._stamps: dict[str, tuple[Hashable, ...]] = {}
        """In what state files are found while this moment is computed."""
        self.evaluating = EvaluationStack()
        self.keys_under_way: list[str] = []
        self.keys: dict[str, tuple[Hashable, ...]] = {}
        """What maps and plates depend on at this moment, by path: each is found once."""
        self.units: dict[tuple[str, int], tuple[tuple[Node, ...], Any]] = {}
        """Units of chains at this moment, by path and id of the nodes, which are kept: no others can take that id."""
        self.frame_itself: FrameJob | None = None
        """While the shutter is open: the frame's own moment, at which plates that it leaves out are asked."""
        self.taken_in: frozenset[str] | None = None
        """The plates that others show in their place, once that was asked for."""
        self.cameras: tuple[Hashable, ...] | None = None
        """What is seen by camera plates depends on, once it was asked for."""
        self.warps: dict[str, tuple[Places, Any]] = {}
        """Where the samples of a plate looked at last, by path, and on which grid: for read-outs."""
        self.costs: dict[str, float] = {}
        """Milliseconds each step took, by path; what was remembered took none."""
        self._looks = [0]
        self._earlier: dict[Frames, FrameJob] = {}

    def earlier(self, frames: Frames) -> FrameJob:
        """Return the same shot so many frames ago, for what is staggered; a seamless shot has its end before it."""
        if frames not in self._earlier:
            frame = self.moment.frame - frames
            frame = frame % self.moment.length if self.moment.loops else frame
            self._earlier[frames] = self.at(frame / float(self.moment.rate))
        return self._earlier[frames]

    def at(self, seconds: Seconds) -> FrameJob:
        """Return the same shot at another time, for a step that looks there; shares what is counted and told."""
        go_on()
        return self._shared(FrameJob(self.engine, self.shot, round(seconds * float(self.shot.rate), 6), self.services))

    def when_asked(self, plate: Plate) -> FrameJob:
        """Return the state a plate is asked at: while the shutter is open, the frame itself where it is left out."""
        return self.frame_itself or self if plate.sharp else self

    def differing(self, exceptions: Exceptions) -> FrameJob:
        """Return the shot with some values that are other ones, now; shares what is counted and told."""
        variant = self.engine.variant(self.shot, exceptions)
        return self._shared(FrameJob(self.engine, variant, self.moment.frame, self.services))

    def _shared(self, then: FrameJob) -> FrameJob:
        """The state of another moment or shot, with what is counted and told in common."""
        then.problems, then.evaluating, then.keys_under_way = self.problems, self.evaluating, self.keys_under_way
        then._looks, then.costs, then.exaggerated = self._looks, self.costs, self.exaggerated
        then.look, then.tolerant = Inspection(self.look.untouched, None, self.look.upto), self.tolerant
        return then

    def count_look(self, most: int) -> None:
        """Count a look at another time. Raises LimitError past `most` in one frame."""
        self._looks[0] += 1
        if self._looks[0] > most:
            raise LimitError(
                "its steps look at more than 400 other times", where=self.path, cure="use fewer copies or echoes"
            )

    def forget_looks(self) -> None:
        """Begin to count looks at other times anew."""
        self._looks[0] = 0

    @contextmanager
    def unseen(self, kept: bool = False) -> Iterator[None]:
        """Hand out no layers of plates that are shown elsewhere than where they lie; `kept`: they are not."""
        seen = self.look.seen
        self.look.seen = seen if kept else None
        try:
            yield
        finally:
            self.look.seen = seen

    @contextmanager
    def timed(self, path: str) -> Iterator[None]:
        """Count the milliseconds of a step; those of steps it asks for are counted as theirs, not as its own.

        Raises Abandoned before the step, where nobody waits for the frame any more.
        """
        go_on()
        began, inner = time.perf_counter(), sum(self.costs.values())
        yield
        taken = (time.perf_counter() - began) * 1000
        self.add_cost(path, taken - (sum(self.costs.values()) - inner))

    def add_cost(self, path: str, milliseconds: float) -> None:
        """Add to a step's cost."""
        self.costs[path] = self.costs.get(path, 0.0) + max(0.0, milliseconds)

    def map_values(
        self, map_id: str, grid: Grid, seconds: Seconds | None = None, exceptions: Exceptions = ()
    ) -> Field | None:
        """See operators.base.Feed."""
        there = self.differing(exceptions) if exceptions else self
        return self.services.map_values(there, map_id, grid, seconds)

    def map_rest(self, map_id: str, exceptions: Exceptions = ()) -> float:
        """Return what a finished map rests at; one half where there is no such map."""
        return self.services.map_rest(self.differing(exceptions) if exceptions else self, map_id)

    def plate_picture(
        self,
        plate_id: str,
        grid: Grid,
        *,
        with_effects: bool,
        seconds: Seconds | None = None,
        exceptions: Exceptions = (),
    ) -> tuple[Picture, bool]:
        """See operators.base.Feed."""
        there = self.differing(exceptions) if exceptions else self
        return self.services.plate_picture(there, plate_id, grid, with_effects, seconds)

    def plate_alpha(self, plate_id: str, grid: Grid, *, with_effects: bool) -> Field:
        """See operators.base.RenderServices."""
        return self.services.plate_alpha(self, plate_id, grid, with_effects)

    def plate_outline(self, plate_id: str, grid: Grid) -> Field:
        """See operators.base.RenderServices."""
        return self.services.plate_outline(self, plate_id, grid)

    def tracked(self, plate_id: str, seconds: Seconds | None = None) -> Tracked | None:
        """See operators.base.Feed."""
        return self.services.tracked(self if seconds is None else self.at(seconds), plate_id)

    def members_part(self, plate_path: str, grid: Grid) -> Patch | None:
        """See operators.base.Feed."""
        return self.services.members_part(self, plate_path, grid)

    def shown_part(self, plate_id: str, grid: Grid) -> Patch | None:
        """See operators.base.RenderServices."""
        return self.services.shown_part(self, plate_id, grid)

    def moves(self, node: Node, operator: Operator) -> bool:
        """Return whether any of a node's numbers changes over time."""
        return not stands_still(type(operator), node)

    @property
    def media(self) -> MediaPool:
        return self.engine.media

    def report_problem(self, what: str, cure: str = "") -> None:
        self.problems.setdefault((self.path, what), Problem(self.path, what, cure))

    def _faulty(self, path: str, wrong: NimbleQuakeError) -> None:
        self.problems.setdefault((path, wrong.what), Problem(path, wrong.what, wrong.cure))

    def number(self, value: Value, path: str, otherwise: float) -> float:
        """Return what a value that may move is now. Raises NimbleQuakeError, unless faulty values are tolerated."""
        try:
            return float(value_at(value, self.moment))
        except NimbleQuakeError as wrong:
            if not self.tolerant:
                raise
            self._faulty(path, wrong)
            return otherwise

    def operator(self, role: str, node: Node, path: str) -> Operator | None:
        """Return a node's operator with its numbers, or None (and a complaint) where we do not know it."""
        key = (path, self.moment.frame)
        if key not in self._operators:
            kind = self.engine.operators.get(role, node.kind)
            if kind is None or node.version > kind.version:
                self.path = path
                newer = "a newer version of " if kind is not None else "an unknown kind, "
                self.report_problem(f'it is {newer}"{node.kind}"', "open the shot with a newer Nimble Quake")
                kind = None
            self._operators[key] = self._resolved(kind, node, path) if kind else None
        return self._operators[key]

    def _resolved(self, kind: type[Operator], node: Node, path: str) -> Operator:
        found = self.engine.known.resolved(kind, node, self.moment, path, self._faulty if self.tolerant else None)
        fraction = faded(node, self.moment.frame, self.moment.length) * self._mastered(path)
        if fraction != 1:  # a coupling moves less, anything else covers less
            by = next((name for name in ("strength", "opacity") if name in kind.declared), "")
            most = 1.0 if by == "opacity" else math.inf
            found = kind({**found.values, by: min(found.values[by] * fraction, most)}) if by else found
        if self.shot.linear and kind.in_light:
            found = kind(linear_values(kind, found.values))
        if self.exaggerated is not None and path == self.exaggerated[0] and "strength" in kind.declared:
            return kind({**found.values, "strength": found.values["strength"] * self.exaggerated[1]})
        return found

    def _mastered(self, path: str) -> float:
        """By how much the groups it lies in scale what an effect does."""
        if kind_of(path) != "effect":
            return 1.0
        if self._masters is None:
            self._masters = mastered(
                self.shot.plates,
                lambda group: self.number(group.values[MASTER], f"{plate_path(group.id)}/{MASTER}", 1.0),
            )
        return self._masters.get(owner_id(path), 1.0)

    def moment_for(self, operator: Operator, frame: Frames | None = None) -> Moment:
        """Return the moment for an operator, or another frame: only the shot's measures where it does not ask when."""
        files = (operator.values[name] for name in type(operator).file_names)
        if not operator.timed() and not any(self.media.moves(file) for file in files if file):
            if self._timeless is None:
                self._timeless = self.moment.timeless()
            return self._timeless
        return self.moment if frame in (None, self.moment.frame) else self.moment.at(frame)

    def context(self, operator: Operator, node: Node, path: str, frame: Frames | None = None) -> Context:
        """Return what an operator knows besides its numbers that works on no chain."""
        self.path = path
        at, around = self.moment_for(operator, frame), NodeAround(self, operator, node, path)
        return Context(at, self, moving=self.engine.known.moving(node), path=path, around=around)

    def resolved_at(self, kind: type[Operator], node: Node, path: str, seconds: Seconds) -> Operator:
        """Return a node's operator with its numbers at another time."""
        moment = self.moment.at(seconds * float(self.shot.rate))
        return resolved(kind, node, moment, path, self._faulty if self.tolerant else None)

    def depends(self, operator: Operator, timed: bool) -> tuple[Hashable, ...]:
        """Return what an operator's result depends on besides its numbers, plates and maps: files, the moment."""
        found: list[Hashable] = [self.shot.width, self.shot.height, self.shot.linear]
        for name in type(operator).file_names:
            value = operator.values[name]
            if value:
                if value not in self._stamps:
                    self._stamps[value] = self.media.stamp(value)
                found.append(self._stamps[value])
                timed = timed or self.media.moves(value)
        if operator.hears_beats():
            found += [self.shot.beats, tuple((marker.frame, marker.name) for marker in self.shot.markers)]
        if timed:
            found += [self.moment.frame, self.shot.rate]
        return tuple(found)


@dataclass(frozen=True)
class NodeAround(Around):
    """What an operator may ask of itself: its numbers at other times, where it says that it does."""

    job: FrameJob
    operator: Operator
    node: Node
    path: str

    @property
    def looks_back(self) -> bool:
        return self.operator.looks_back()

    def pin_frames(self, name: str) -> tuple[Frames, ...]:
        if not self.looks_back:
            return super().pin_frames(name)
        return tuple(pin.frame for pin in pins_of(self.node.values.get(name)))

    def other(self, seconds: Seconds) -> Operator:
        if not self.looks_back:
            return super().other(seconds)
        return self.job.resolved_at(type(self.operator), self.node, self.path, seconds)


def _seen_at(engine: Engine, shot: Shot, services: Services, plate: str, frame: Frames) -> Tracked | None:
    """The points of a plate's clip that are seen at a frame."""
    return FrameJob(engine, shot, frame, services).tracked(plate)
