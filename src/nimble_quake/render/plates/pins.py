"""Tracked points of clips in the shot, and plates that are pinned to them."""

from __future__ import annotations

import math
import re
from dataclasses import replace
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from nimble_quake.analysis.tracking import Tracks
from nimble_quake.conventions import Affine, Frames
from nimble_quake.errors import MediaError
from nimble_quake.media.clips import Clip
from nimble_quake.media.flipbook import Flipbook
from nimble_quake.operators.base import Tracked
from nimble_quake.operators.plate_kind import PlateKind
from nimble_quake.raster.geometry import affine
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import eyes, plate_operator
from nimble_quake.render.plates.depth import camera_of, carried, placed_by
from nimble_quake.render.values.placement import Matrix, Placement, in_frame
from nimble_quake.shot.model import Plate
from nimble_quake.shot.paths import plate_path

CARRIERS = ("pin", "tilt", "swing", "away")
"""The values of a plate by which it is seen elsewhere than where its place says."""


def unpinned(job: FrameJob, operator: PlateKind, plate: Plate) -> Placement:
    """Return where a plate lies by its own numbers alone."""
    ctx = job.context(operator, plate, plate_path(plate.id), frame=job.moment.frame - (plate.start or 0))
    frame = (job.moment.width, job.moment.height)
    placement = in_frame(operator, operator.box(ctx), frame)
    if operator.endless or operator.beneath:
        return placement
    seen = placed_by(operator, None if operator.gathers else camera_of(job), frame)
    return placement if seen is None else replace(placement, seen=seen)


def may_be_carried(job: FrameJob, plate: Plate) -> bool:
    """Return whether a plate may be seen elsewhere than where its own place says, at any frame."""
    return any(name in plate.values for name in CARRIERS) or bool(eyes(job))


def carried_on(job: FrameJob, operator: PlateKind, plate: Plate) -> Matrix | None:
    """Return where points of the frame are seen that a plate's own place is carried from: by its pins, in depth.

    (3, 3), shot pixels; None where they stay where they are.
    """
    own = unpinned(job, operator, plate)
    placed = pinned(job, operator, plate, own)
    back = affine.inverse(own.place)
    if back is None or (placed.seen is None and placed.place == own.place):
        return None
    moved = np.array((*affine.compose(back, placed.place), 0.0, 0.0, 1.0)).reshape(3, 3)
    return moved if placed.seen is None else np.asarray(placed.seen @ moved)


def tracks_of(job: FrameJob, plate: Plate) -> Tracks | None:
    """Return the tracks of a plate's clip; None where it has none."""
    operator = plate_operator(job, plate)
    if operator is None or not operator.media_param:
        return None
    return job.engine.tracks.find(operator.media_file())


def clip_frame(job: FrameJob, plate: Plate) -> int | None:
    """Return which frame of its clip a plate shows now; None where it shows none."""
    operator = plate_operator(job, plate)
    if operator is None or not operator.plays:
        return None
    source = job.media.open(operator.media_file())
    if not isinstance(source, Clip | Flipbook):
        return None
    time = operator.clip_time(source.seconds, float(job.shot.rate))
    return None if time is None else source.frame_at(time)


def tracked_points(job: FrameJob, plate_id: str) -> Tracked | None:
    """Return the points tracked in a plate's clip where it lies now; None, and a word about it, without any."""
    plate = job.shot.plate(plate_id)
    operator = plate_operator(job, plate) if plate is not None else None
    if plate is None or operator is None:
        job.report_problem("the tracked plate is not there", "choose another clip")
        return None
    if not operator.plays:
        job.report_problem(
            f'"{plate.name or plate.id}" is no clip, and has no points to track', "choose a tracked clip"
        )
        return None
    try:
        tracks, frame = tracks_of(job, plate), clip_frame(job, plate)
    except MediaError as wrong:
        job.report_problem(wrong.line())
        return None
    if tracks is None and job.engine.tracks.is_under_way(operator.media_file()):
        job.report_problem(f'"{plate.name or plate.id}" is being tracked', "it is shown when that is done")
        return None
    if tracks is None or frame is None:
        fault = job.engine.tracks.faults.get(operator.media_file(), "")
        why = f": {fault}" if fault else ""
        job.report_problem(f'"{plate.name or plate.id}" is not tracked{why}', "choose it and track its points")
        return None
    ids = tracks.at(frame)
    frame = min(frame, len(tracks.places) - 1)
    placement = unpinned(job, operator, plate)
    to_own = affine.stretch(placement.box[0] / max(tracks.size[0], 1), placement.box[1] / max(tracks.size[1], 1))
    a, b, c, d, e, f = affine.compose(to_own, placement.place)
    own = tracks.places[frame, ids].astype(np.float64)
    places = np.stack([a * own[:, 0] + b * own[:, 1] + c, d * own[:, 0] + e * own[:, 1] + f], axis=1)
    first = np.argmax(np.isfinite(tracks.places[:, ids, 0]), axis=0)
    return Tracked(ids, places, (frame - first) / float(job.shot.rate))


def pinned(job: FrameJob, operator: PlateKind, plate: Plate, placement: Placement) -> Placement:
    """Return where a plate lies that sticks to tracked points, as far as they have moved since its own frame."""
    if operator.endless or not operator.pin:
        return placement
    now, then = _points_at(job, operator, job.moment.frame), _points_at(job, operator, operator.pin_from)
    ids = sorted(set(now) & set(then))
    if not ids:
        return placement
    if operator.pin_as == "corners" and len(ids) >= 4:
        return _in_perspective(placement, [then[id] for id in ids], [now[id] for id in ids], operator.pin_way)
    moved = _motion(np.array([then[id] for id in ids]), np.array([now[id] for id in ids]), operator.pin_as)
    if operator.pin_way == "steady":
        moved = affine.inverse(moved) or affine.IDENTITY
    turned = affine.compose(placement.linear_part, (moved[0], moved[1], 0.0, moved[3], moved[4], 0.0))
    return replace(placement, place=affine.compose(placement.place, moved), linear_part=turned)


def _in_perspective(placement: Placement, then: list[Point], now: list[Point], way: str) -> Placement:
    """Where a plate lies that four points carry, and turn in depth."""
    before, after = np.array(then), np.array(now)
    matrix = carried(after, before) if way == "steady" else carried(before, after)
    if matrix is None:
        return placement
    return replace(placement, seen=matrix if placement.seen is None else np.asarray(matrix @ placement.seen))


def _points_at(job: FrameJob, operator: PlateKind, frame: Frames) -> dict[int, tuple[float, float]]:
    """The points it is pinned by, at a frame; a point that is hidden then is where it was seen last."""
    wanted = [int(n) for n in re.findall(r"[0-9]{1,6}", operator.pin_points)]
    other = job.shot.plate(operator.pin)
    tracks = tracks_of(job, other) if other is not None else None
    found: dict[int, tuple[float, float]] = {}
    for back in range(MOST_HIDDEN):
        left = [id for id in wanted if id not in found]
        if not left or frame - back < 0 or (back and tracks is None):
            break
        seen = job.tracked(operator.pin, (frame - back) / float(job.shot.rate))
        if seen is None:
            break
        for id, (x, y) in zip(seen.ids.tolist(), seen.places.tolist(), strict=True):
            if id in left:
                found[id] = (x, y)
    return found


Point: TypeAlias = tuple[float, float]
MOST_HIDDEN = 24
"""For so many frames a hidden point is taken to be where it was seen last."""


def _motion(before: NDArray[np.float64], after: NDArray[np.float64], takes: str) -> Affine:
    """The motion that carries points nearest to where they went: a shift, with a turn, with a scale (Umeyama, 1991)."""
    centre, target = before.mean(axis=0), after.mean(axis=0)
    if takes == "place" or len(before) < 2:
        return affine.shift(*(target - centre))
    p, q = before - centre, after - target
    along, across = float((p * q).sum()), float((p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0]).sum())
    size = math.hypot(along, across) / max(float((p * p).sum()), 1e-9) if takes == "all" else 1.0
    turn = math.degrees(math.atan2(across, along))
    linear_part = affine.compose(affine.turn(turn), affine.stretch(size, size))
    return affine.compose(affine.compose(affine.shift(-centre[0], -centre[1]), linear_part), affine.shift(*target))
