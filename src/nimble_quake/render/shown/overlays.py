"""What is laid over the picture while one works: gaps hatched, a mask tinted; and whether a warp folds."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field, Picture, Warp
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.render.job import FrameJob

FAULT = np.array([0.894, 0.349, 0.42, 1.0], np.float32)
BRASS = np.array([0.847, 0.655, 0.235], np.float32)
STRIPE = 10
"""Screen pixels from one stripe of a hatch to the next."""


def gaps_of(job: FrameJob, plate_id: str, grid: Grid) -> NDArray[np.bool_]:
    """Return where a plate covered the frame before its effects, and shows through now: (H, W)."""
    before, _ = job.plate_picture(plate_id, grid, with_effects=False)
    after, _ = job.plate_picture(plate_id, grid, with_effects=True)
    return np.asarray((before[..., 3] > 0.5) & (after[..., 3] < 0.5))


def hatched(picture: Picture, where: NDArray[np.bool_], scale: float) -> Picture:
    """Return a picture with diagonal stripes where asked."""
    rows, columns = where.shape
    stripes = (np.arange(columns)[None] + np.arange(rows)[:, None]) % STRIPE < STRIPE // 2
    out = picture.copy()
    out[where & stripes] = FAULT
    return out


def tinted(picture: Picture, values: Field) -> Picture:
    """Return a picture with a mask over it: brass where it is white, darker where it is black."""
    fraction = np.clip(channel(values, "value"), 0, 1)
    if values.shape[2] == 4:
        fraction = fraction * np.clip(values[..., 3], 0, 1)
    out = picture.copy()
    out[..., :3] *= np.float32(0.45) + np.float32(0.55) * fraction[..., None]
    out[..., :3] += (BRASS * out[..., 3:] - out[..., :3]) * (fraction[..., None] * np.float32(0.3))
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
