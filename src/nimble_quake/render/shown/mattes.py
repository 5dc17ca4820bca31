"""Whether a matte lets everything through, judged on the frame that is shown."""

from __future__ import annotations

from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import in_time, plate_operator
from nimble_quake.render.shown.unseen import LEAST


def opaque_matte(job: FrameJob, plate_id: str, grid: Grid) -> bool:
    """Return whether a plate's matte, taken by its alpha, is opaque all over a grid: it cuts nothing, or everything."""
    plate = job.shot.plate(plate_id)
    operator = plate_operator(job, plate) if plate is not None else None
    if operator is None or not operator.matte or operator.matte_by != "alpha":
        return False
    other = job.shot.plate(operator.matte)
    if other is None or not in_time(other, job.moment.frame):
        return False
    picture, _ = job.plate_picture(other.id, grid, with_effects=operator.matte_effects)
    return bool(picture[..., 3].min(initial=1.0) >= 1 - LEAST)
