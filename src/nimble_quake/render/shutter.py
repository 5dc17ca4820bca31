"""The shutter: how long a frame is open. What moves fast while it is smears, as on film.

The whole chain is asked at moments inside the frame: keys, drivers, maps, meshes, cameras. The moments are the middles
of equal parts of the opening, so that an edge that moves at a steady speed gets its box integral; their pictures are
averaged in the light of the shot. Moments between which nothing moves are computed once.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

import cv2
import numpy as np

from nimble_quake.conventions import Frames, Picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.units import frame_key
from nimble_quake.shot.model import Shot


def openings(shot: Shot, frame: Frames) -> tuple[Frames, ...]:
    """Return the moments at which a frame is asked, in frames; one where the shutter is off.

    angle: degrees of a turning shutter, 360 is a whole frame. phase: degrees by which it opens after the frame begins.
    """
    if shot.shutter <= 0 or shot.shutter_samples < 2:
        return (frame,)
    count, open = shot.shutter_samples, Fraction(shot.shutter, 360)
    first = Fraction(shot.shutter_phase, 360)
    return tuple(float(Fraction(frame) + first + open * (Fraction(2 * n + 1, 2 * count))) for n in range(count))


def moments(job: FrameJob) -> list[tuple[FrameJob, int]]:
    """Return the moments of a job's frame, each with how many of its openings look alike."""
    found: list[tuple[object, FrameJob, int]] = []
    for frame in openings(job.shot, job.moment.frame):
        then = job.at(frame / float(job.shot.rate)) if frame != job.moment.frame else job
        then.frame_itself = job
        key = frame_key(then)
        if found and found[-1][0] == key:
            found[-1] = (key, found[-1][1], found[-1][2] + 1)
        else:
            found.append((key, then, 1))
    return [(then, count) for _, then, count in found]


def exposed(jobs: list[tuple[FrameJob, int]], made: Callable[[FrameJob], Picture]) -> Picture:
    """Return the mean of what is made at each moment."""
    total, out = sum(count for _, count in jobs), None
    for job, count in jobs:
        picture = made(job)
        if out is None:
            out = picture * np.float32(count / total)
        else:
            cv2.scaleAdd(picture, count / total, out, out)
    assert out is not None
    return out
