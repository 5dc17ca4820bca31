"""How far anything in a shot moves between two moments, at most: what a shutter needs to know of a frame."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Pixels
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.render.job import FrameJob, Inspection
from nimble_quake.render.plan.groups import in_time, plate_operator, stacked
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.layers import Layer
from nimble_quake.render.plates.stack import stack_on
from nimble_quake.shot.groups import holders_of
from nimble_quake.shot.model import Plate

LOOKED_AT = 160
"""Pixels across: what effects bend is looked at so coarsely, whatever the size of a preview, so that all agree."""


def max_displacement_between(first: FrameJob, second: FrameJob) -> Pixels:
    """Return how far corners of plates, and what effects pull, move between two moments of a shot, in shot pixels.

    Of a plate in groups the ways of all of them add up.
    """
    before, after = _layers(first), _layers(second)
    ways = {plate.id: _way(first, second, plate) for plate in first.shot.plates}
    far = 0.0
    for plate in first.shot.plates:
        around = [plate, *holders_of(first.shot.plates, plate)]
        bent = _bent(before.get(plate.id), after.get(plate.id))
        far = max(far, bent + sum(ways[each.id] for each in around))
    return far


def _layers(job: FrameJob) -> dict[str, Layer]:
    seen: dict[str, Layer] = {}
    job.look = Inspection(False, seen, None)
    stack_on(job, stacked(job), frame_grid(job.shot.width, job.shot.height, LOOKED_AT / job.shot.width))
    job.look = Inspection()
    return seen


def _way(first: FrameJob, second: FrameJob, plate: Plate) -> Pixels:
    """How far the corners of a plate move."""
    if not in_time(plate, first.moment.frame) or not in_time(plate, second.moment.frame):
        return 0.0
    operators = plate_operator(first, plate), plate_operator(second, plate)
    if operators[0] is None or operators[1] is None:
        return 0.0
    one, two = placement_of(first, plate, operators[0]), placement_of(second, plate, operators[1])
    far = 0.0
    for x, y in ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (1.0, 1.0)):
        a = affine.apply(one.place, x * one.box[0], y * one.box[1])
        b = affine.apply(two.place, x * two.box[0], y * two.box[1])
        far = max(far, float(np.hypot(a[0] - b[0], a[1] - b[1])))
    return far


def _bent(one: Layer | None, two: Layer | None) -> Pixels:
    """How much farther effects pull at one moment than at the other, where both show the plate."""
    if one is None or two is None:
        return 0.0
    left, top = max(one.left, two.left), max(one.top, two.top)
    parts = [each.warp[:, top - each.top :, left - each.left :] for each in (one, two) if each.warp is not None]
    if not parts:
        return 0.0
    high, wide = (min(part.shape[axis] for part in parts) for axis in (1, 2))
    apart = parts[0][:, :high, :wide] - (parts[1][:, :high, :wide] if len(parts) > 1 else np.float32(0))
    return float(np.hypot(*apart).max(initial=0.0))
