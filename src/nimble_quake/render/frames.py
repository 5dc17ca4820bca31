"""A whole frame: the stack, from the lowest plate up, blended over the ground."""

from __future__ import annotations

from nimble_quake.conventions import Frames, Picture
from nimble_quake.raster.blend import blend_onto, flat
from nimble_quake.raster.grid import Grid, frame_grid
from nimble_quake.render.job import Engine, Job
from nimble_quake.render.plates import Layer, in_time, plate_layer, plate_operator
from nimble_quake.shot.model import Shot


def frame_picture(
    job: Job,
    scale: float = 1.0,
    *,
    untouched: bool = False,
    seen: dict[str, Layer] | None = None,
    grid: Grid | None = None,
) -> Picture:
    """Return the shot's picture at the job's moment, (H, W, 4) premultiplied.

    untouched: without any quake. seen: filled with each plate's layer by id, for probes and views. grid: where to
    compute it, else the whole frame at `scale`.
    """
    grid = grid or frame_grid(job.shot.width, job.shot.height, scale)
    r, g, b, a = job.shot.ground
    canvas = flat(grid.shape, (r * a, g * a, b * a, a))
    for plate in reversed(job.shot.plates):
        if not plate.on or not in_time(plate, job.moment.frame):
            continue
        operator = plate_operator(job, plate)
        if operator is None or operator.opacity <= 0:
            continue
        job.under_way.append(f"plates/{plate.id}")
        try:
            layer = plate_layer(job, plate, grid, with_quakes=not untouched)
        finally:
            job.under_way.pop()
        if layer is None:
            continue
        if seen is not None:
            seen[plate.id] = layer
        blend_onto(canvas, layer.picture, mode=operator.blend, opacity=operator.opacity, left=layer.left, up=layer.top)
    return canvas


def render_frame(engine: Engine, shot: Shot, frame: Frames, scale: float = 1.0) -> Picture:
    """Return a frame of a shot; a short way for scripts and tests."""
    return frame_picture(Job(engine, shot, frame), scale)
