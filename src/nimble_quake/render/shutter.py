"""The shutter: how long a frame is open. What moves fast while it is smears, as on film.

The whole chain is asked at moments inside the frame: keys, drivers, maps, meshes, cameras. The moments are the middles
of equal parts of the opening, so that an edge that moves at a steady speed gets its box integral; their pictures are
averaged in the light of the shot. Moments between which nothing moves are computed once.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from fractions import Fraction

import cv2
import numpy as np

from nimble_quake.conventions import Frames, Picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.units import frame_key
from nimble_quake.render.travel import max_displacement_between
from nimble_quake.shot.model import Shot

FEWEST, MOST = 8, 64
"""Moments of a frame in which anything moves, where their number goes by how far."""


def openings(shot: Shot, frame: Frames, count: int) -> tuple[Frames, ...]:
    """Return so many moments at which a frame is asked, in frames; one where the shutter is off.

    angle: degrees of a turning shutter, 360 is a whole frame. phase: degrees by which it opens after the frame begins.
    """
    if shot.shutter <= 0 or count < 2:
        return (frame,)
    open, first = Fraction(shot.shutter, 360), Fraction(shot.shutter_phase, 360)
    return tuple(float(Fraction(frame) + first + open * (Fraction(2 * n + 1, 2 * count))) for n in range(count))


@dataclass
class Open:
    """A moment while the shutter is open. key: what it looks like depends on. count: how many in a row look alike."""

    job: FrameJob
    key: Hashable
    count: int = 1


def needed(job: FrameJob) -> int:
    """Return at how many moments a frame is looked at: as the shot says, else one for each pixel anything moves.

    Between 8 and 64 where anything moves at all; what moves without going anywhere (colours, a clip) is content with 8.
    """
    if job.shot.shutter_samples or not job.shot.shutter:
        return job.shot.shutter_samples
    ends = [_at(job, frame) for frame in openings(job.shot, job.moment.frame, 2)]
    if frame_key(ends[0]) == frame_key(ends[1]) == frame_key(job):
        return 1
    return min(max(math.ceil(2 * max_displacement_between(*ends)), FEWEST), MOST)  # the two lie half an opening apart


def _at(job: FrameJob, frame: Frames) -> FrameJob:
    """The job at a moment while the shutter is open."""
    then = job.at(frame / float(job.shot.rate)) if frame != job.moment.frame else job
    then.frame_itself = job
    return then


def moments(job: FrameJob) -> list[Open]:
    """Return the moments of a job's frame that look different from the one before."""
    found: list[Open] = []
    for frame in openings(job.shot, job.moment.frame, needed(job)):
        then = _at(job, frame)
        key = frame_key(then)
        if found and found[-1].key == key:
            found[-1].count += 1
        else:
            found.append(Open(then, key))
    return found


def exposed(opened: Sequence[Open], made: Callable[[FrameJob], Picture]) -> Picture:
    """Return the mean of what is made at each moment."""
    total, out = sum(each.count for each in opened), None
    for each in opened:
        picture = made(each.job)
        if out is None:
            out = picture * np.float32(each.count / total)
        else:
            cv2.scaleAdd(picture, each.count / total, out, out)
    assert out is not None
    return out
