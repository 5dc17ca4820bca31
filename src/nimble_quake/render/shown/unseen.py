"""Why nothing is seen of a finish, in one line, judged on the frame that is shown."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from nimble_quake.conventions import Picture
from nimble_quake.operators.steps import Shaper
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.shown.why import MASKED_OUT, effect_at, effect_off, masked_out
from nimble_quake.shot.edits.set_value import set_field
from nimble_quake.shot.model import Plate, Shot

LEAST = 0.5 / 255
"""A picture that changes by less is the same on a screen."""
FEW = 96
"""Columns of the small frame that is compared first: where that changes, the finish is seen."""


def why_unseen(job: FrameJob, path: str, grid: Grid) -> str:
    """Return why nothing is seen now of the finish at a path; empty where it is seen, or there is none.

    grid: of the picture that is shown.
    """
    found = effect_at(job, path)
    if found is None:
        return ""
    node, plate = found
    off = effect_off(job, node, plate)
    finish = job.operator("effect", node, path)
    if off or not isinstance(finish, Shaper):
        return off
    if finish.opacity == 0:
        return "Mix is 0"
    if finish.idle():
        return finish.idle_because
    if masked_out(job, finish.mask, grid):
        return MASKED_OUT
    without = set_field(job.shot, path, on=False)
    small = frame_grid(job.shot.width, job.shot.height, min(1.0, FEW / job.shot.width))
    if _changes(job, without, small) or _changes(job, without, grid):
        return ""
    return _reason(job, plate, plate.effects.index(node), finish, grid)


def _changes(job: FrameJob, other: Shot, grid: Grid) -> bool:
    """Whether another state of the shot gives another picture now."""
    pictures = (frame_picture(_job(job, shot), grid=grid, shutter=False) for shot in (job.shot, other))
    return _differ(*pictures)


def _differ(one: Picture, other: Picture) -> bool:
    return bool((np.abs(one - other) > LEAST).any())


def _job(job: FrameJob, shot: Shot) -> FrameJob:
    then = FrameJob(job.engine, shot, job.moment.frame, job.services)
    then.tolerant = True
    return then


def _reason(job: FrameJob, plate: Plate, number: int, finish: Shaper, grid: Grid) -> str:
    """What of the plate's own picture, before and after it, makes that nothing is seen."""
    before, after = (_plate_after(job, plate, number + more, grid) for more in (0, 1))
    alpha = before[..., 3]
    if float(alpha.max(initial=0)) <= LEAST:
        return "Its plate shows nothing here"
    if _differ(before, after):
        return "It cannot be told from what lies over it or beneath it"
    whole = float(alpha.min()) >= 1 - LEAST
    return finish.unseen_where_full if whole and finish.unseen_where_full else finish.unseen_because


def _plate_after(job: FrameJob, plate: Plate, effects: int, grid: Grid) -> Picture:
    """A plate's picture after so many of its effects."""
    shorter = replace(plate, effects=plate.effects[:effects])
    plates = tuple(shorter if each is plate else each for each in job.shot.plates)
    return _job(job, replace(job.shot, plates=plates)).plate_picture(plate.id, grid, with_effects=True)[0]
