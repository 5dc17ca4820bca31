"""What a frame is computed with: maps, plates, and all that lies beneath them; and how a frame's job begins."""

from __future__ import annotations

from contextlib import nullcontext

import numpy as np

from nimble_quake.conventions import REST, Field, Frames, Picture, Seconds
from nimble_quake.errors import ShotError
from nimble_quake.motion.timing import Moment
from nimble_quake.operators.base import Tracked
from nimble_quake.raster.colour.light import to_encoded
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Patch
from nimble_quake.render.chain.maps import map_rest, other_map
from nimble_quake.render.chain.pull import MOST_LOOKS
from nimble_quake.render.engine import Engine, moment_in
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import opened, plate_operator, stacked
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import Layer, alpha_on_whole, finished, on_whole, plate_layer
from nimble_quake.render.plates.pins import tracked_points
from nimble_quake.render.plates.stack import beneath_of, part_over_nothing
from nimble_quake.render.values.answers import ShotAnswers
from nimble_quake.shot.model import Shot
from nimble_quake.shot.paths import owner_id


class Renderer:
    """The services of a frame (render.job.Services)."""

    def map_values(self, job: FrameJob, map_id: str, grid: Grid, seconds: Seconds | None) -> Field | None:
        return other_map(job, map_id, grid, seconds)

    def map_rest(self, job: FrameJob, map_id: str) -> float:
        map = job.shot.map(map_id)
        return REST if map is None else map_rest(job, map)

    def plate_picture(
        self, job: FrameJob, plate_id: str, grid: Grid, with_effects: bool, seconds: Seconds | None
    ) -> tuple[Picture, bool]:
        if seconds is not None and seconds != job.moment.seconds:
            job.count_look(MOST_LOOKS)
            return self.plate_picture(job.at(seconds), plate_id, grid, with_effects, None)
        layer = _layer(job, plate_id, grid, with_effects)
        shown = on_whole(layer, grid)
        return to_encoded(shown) if job.shot.linear else shown, layer is not None and layer.bits8

    def plate_alpha(self, job: FrameJob, plate_id: str, grid: Grid, with_effects: bool) -> Field:
        return alpha_on_whole(_layer(job, plate_id, grid, with_effects), grid)

    def plate_outline(self, job: FrameJob, plate_id: str, grid: Grid) -> Field:
        plate = job.shot.plate(plate_id)
        operator = None if plate is None else plate_operator(job, plate)
        if plate is not None and operator is not None and operator.beneath:
            fractions = operator.seen_through(placement_of(job, plate, operator).place, grid)
            return np.ones((*grid.shape, 1), np.float32) if fractions is None else fractions
        return self.plate_alpha(job, plate_id, grid, False)

    def tracked(self, job: FrameJob, plate_id: str) -> Tracked | None:
        return tracked_points(job, plate_id)

    def beneath_picture(self, job: FrameJob, plate_path: str, grid: Grid) -> Picture:
        plate = job.shot.plate(owner_id(plate_path))
        assert plate is not None
        with job.unseen():
            return beneath_of(job, plate, grid).on(grid)

    def members_part(self, job: FrameJob, plate_path: str, grid: Grid) -> Patch | None:
        return part_over_nothing(job, stacked(job, owner_id(plate_path)), grid)

    def shown_part(self, job: FrameJob, plate_id: str, grid: Grid) -> Patch | None:
        plate = job.shot.plate(plate_id)
        if plate is None:
            raise ShotError(f'there is no plate "{plate_id}"', where=job.path, cure="choose another plate")
        return part_over_nothing(job, opened(job, plate), grid)


def _layer(job: FrameJob, plate_id: str, grid: Grid, with_effects: bool) -> Layer | None:
    """What a plate shows on a grid, whether or not the stack shows it."""
    plate = job.shot.plate(plate_id)
    if plate is None:
        raise ShotError(f'there is no plate "{plate_id}"', where=job.path, cure="choose another plate")
    with job.unseen():
        operator = plate_operator(job, plate)
        lens = operator is not None and operator.beneath
        with finished(job, plate) if with_effects else nullcontext():
            ground = beneath_of(job, plate, grid) if lens else None
        return plate_layer(job, plate, grid, with_effects=with_effects, beneath=ground)


RENDERER = Renderer()


def frame_job(engine: Engine, shot: Shot, frame: Frames) -> FrameJob:
    """Return a shot at a frame, ready to be computed."""
    return FrameJob(engine, shot, frame, RENDERER)


def seen_moment(engine: Engine, shot: Shot, frame: Frames) -> Moment:
    """Return a shot's moment for what is shown at once: sounds that are not decoded yet are silent."""
    return moment_in(engine, shot, frame, lambda plate, at: frame_job(engine, shot, at).tracked(plate), waits=False)


def seen_answers(engine: Engine, shot: Shot) -> ShotAnswers:
    """Return what moving values of a shot ask, for what is shown at once."""
    return engine.answers(shot, lambda plate, at: frame_job(engine, shot, at).tracked(plate), waits=False)
