"""What is laid over the picture while one works: gaps hatched, a mask tinted; and whether a warp folds."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture, Warp
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.frames import frame_picture
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.shot.model import Plate

FAULT = np.array([0.894, 0.349, 0.42, 1.0], np.float32)
BRASS = np.array([0.847, 0.655, 0.235], np.float32)
STRIPE = 10
"""Screen pixels from one stripe of a hatch to the next."""


def gaps_of(job: FrameJob, plate_id: str, grid: Grid) -> NDArray[np.bool_]:
    """Return where a plate covered the frame before its effects, and shows through now: (H, W)."""
    plate = job.shot.plate(plate_id)
    operator = None if plate is None else plate_operator(job, plate)
    if plate is not None and operator is not None and operator.beneath:
        return _gaps_of_lens(job, plate, grid)
    before, _ = job.plate_picture(plate_id, grid, with_effects=False)
    after, _ = job.plate_picture(plate_id, grid, with_effects=True)
    return np.asarray((before[..., 3] > 0.5) & (after[..., 3] < 0.5))


def _gaps_of_lens(job: FrameJob, lens: Plate, grid: Grid) -> NDArray[np.bool_]:
    """As `gaps_of`, of what lies beneath a lens: seen over nothing, or the shot's background would fill the gaps."""
    plates = job.shot.plates[job.shot.plates.index(lens) :]
    alphas = []
    for on in (False, True):
        seen = (replace(lens, on=on), *plates[1:])
        shot = replace(job.shot, plates=seen, ground=(0.0, 0.0, 0.0, 0.0))
        then = FrameJob(job.engine, shot, job.moment.frame, job.services)
        then.tolerant = job.tolerant
        alphas.append(frame_picture(then, grid=grid, shutter=False)[..., 3])
    return np.asarray((alphas[0] > 0.5) & (alphas[1] < 0.5))


def gaps_beyond(job: FrameJob, plate_id: str, grid: Grid, warp: Warp, corner: tuple[int, int]) -> float:
    """Return the fraction of the frame where a plate shows through because it looks beyond the frame.

    warp: of the plate's picture, (2, h, w) shot pixels, whose first sample lies at `corner` (column, row) of the grid.
    """
    height, width = warp.shape[1:]
    part = grid.part(corner[0], corner[1], width, height)
    us, vs = part.xs()[None] + warp[0], part.ys()[:, None] + warp[1]
    size = (job.shot.width, job.shot.height)
    outside = (us < 0) | (us > size[0]) | (vs < 0) | (vs > size[1])
    if not outside.any():
        return 0.0
    whole = np.zeros(grid.shape, bool)
    whole[corner[1] : corner[1] + height, corner[0] : corner[0] + width] = outside
    return float((whole & gaps_of(job, plate_id, grid)).mean())


def hatched(picture: Picture, where: NDArray[np.bool_], scale: float) -> Picture:
    """Return a picture with diagonal stripes where asked."""
    rows, columns = where.shape
    stripes = (np.arange(columns)[None] + np.arange(rows)[:, None]) % STRIPE < STRIPE // 2
    out = picture.copy()
    out[where & stripes] = FAULT
    return out


def tinted(picture: Picture, mask: Field) -> Picture:
    """Return a picture with a mask, (H, W, 1), over it: brass where it is white, darker where it is black."""
    out = picture.copy()
    out[..., :3] *= np.float32(0.45) + np.float32(0.55) * mask
    out[..., :3] += (BRASS * out[..., 3:] - out[..., :3]) * (mask * np.float32(0.3))
    return out


def folding(warp: Warp, scale: float) -> float:
    """Return the share of a warp's samples where the picture is folded over: the Jacobian of its places is below 0."""
    step = max(1, round(4 * scale))
    few = warp[:, ::step, ::step]
    if min(few.shape[1:]) < 2:
        return 0.0
    per = np.float32(scale / step)
    dx, dy = np.diff(few, axis=2)[:, :-1] * per, np.diff(few, axis=1)[:, :, :-1] * per
    area = (1 + dx[0]) * (1 + dy[1]) - dx[1] * dy[0]
    return float((area < 0).mean())
