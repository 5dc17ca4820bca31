"""A frame of a shot, whole or in part."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Frames, Picture
from nimble_quake.raster.colour.light import to_encoded
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.render.caches.last_frames import Finished
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import FrameJob, Inspection
from nimble_quake.render.plan.groups import stacked
from nimble_quake.render.plan.units import frame_key
from nimble_quake.render.plates.layers import Layer
from nimble_quake.render.plates.stack import stack_on
from nimble_quake.render.services import frame_job
from nimble_quake.render.shutter import Open, exposed, moments
from nimble_quake.shot.model import Shot


def frame_picture(
    job: FrameJob,
    scale: float = 1.0,
    *,
    untouched: bool = False,
    seen: dict[str, Layer] | None = None,
    grid: Grid | None = None,
    upto: tuple[str, int] | None = None,
    shutter: bool = True,
) -> Picture:
    """Return the shot's picture at the job's moment, (H, W, 4) premultiplied, read-only.

    untouched: without any effect. seen: filled with each plate's layer by id, for probes and views. grid: where to
    compute it, else the whole frame at `scale`. upto: a plate's id, and after how many of its effects it is seen.
    shutter: what moves smears, where the shot asks for it.
    """
    grid = grid or frame_grid(job.shot.width, job.shot.height, scale)
    job.look = Inspection(untouched, seen, upto)
    opened = moments(job) if shutter and job.shot.shutter else [Open(job, frame_key(job))]
    key = (*((each.key, each.count) for each in opened), grid)
    last = job.engine.last_frames.get(key, layers=seen is not None)
    if last is not None:
        if seen is not None:
            seen.update(last.layers or {})
        return last.picture
    made = exposed(opened, lambda then: stack_on(then, stacked(then), grid)) if len(opened) > 1 else None
    if made is None or seen is not None:  # read-outs are of the frame's own moment
        own = stack_on(job, stacked(job), grid)
        made = own if made is None else made
    made = (to_encoded(made) if job.shot.linear else made).view()
    made.flags.writeable = False
    if not job.problems:  # those are found while it is computed
        job.engine.last_frames.put(key, Finished(made, None if seen is None else dict(seen)))
    return made


def render_frame(engine: Engine, shot: Shot, frame: Frames, scale: float = 1.0) -> Picture:
    """Return a frame of a shot; a short way for scripts and tests."""
    return np.array(frame_picture(frame_job(engine, shot, frame), scale))
