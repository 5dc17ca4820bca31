"""What is off with a plate's matte and mask, judged on the frame that is shown."""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.conventions import Pixels
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import mask_at
from nimble_quake.render.shown.unseen import LEAST
from nimble_quake.shot.paths import plate_path

COARSE = 160
"""Samples across a frame, on which masks of two moments are compared."""


def opaque_matte(job: FrameJob, plate_id: str, grid: Grid) -> bool:
    """Return whether a plate's matte, taken by its alpha, is opaque all over a grid: it cuts nothing, or everything."""
    plate = job.shot.plate(plate_id)
    operator = plate_operator(job, plate) if plate is not None else None
    if operator is None or not operator.matte or operator.matte_by != "alpha":
        return False
    other = job.shot.plate(operator.matte)
    if other is None or not in_time(other, job.moment.frame):
        return False
    alpha = job.plate_alpha(other.id, grid, with_effects=operator.matte_effects)
    return bool(alpha.min(initial=1.0) >= 1 - LEAST)


def moved_under_its_mask(job: FrameJob, plate_id: str) -> Pixels:
    """Return how far a plate has moved since its first frame, while its mask, hooked up to the frame, stands still.

    0 where it has no such mask, or the mask moves by itself.
    """
    plate = job.shot.plate(plate_id)
    operator = plate_operator(job, plate) if plate is not None else None
    if plate is None or operator is None or not operator.mask or operator.mask_hook == "plate" or operator.endless:
        return 0.0
    then = job.at((plate.start or 0) / float(job.shot.rate))
    before = plate_operator(then, plate)
    if before is None:
        return 0.0
    now_at, then_at = placement_of(job, plate, operator), placement_of(then, plate, before)
    (x, y), (u, v) = (at.shown(at.box[0] / 2, at.box[1] / 2) for at in (now_at, then_at))
    far = math.hypot(x - u, y - v)
    if far <= LEAST:
        return 0.0
    grid = frame_grid(job.shot.width, job.shot.height, min(1.0, COARSE / job.shot.width))
    masks = [mask_at(each, plate_path(plate_id), grid) for each in (job, then)]
    still = masks[0] is not None and masks[1] is not None and np.abs(masks[0] - masks[1]).max() <= LEAST
    return far if still else 0.0
