"""The smallest enlargement of a plate that hides every gap its effects would pull into view."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from nimble_quake.conventions import Frames
from nimble_quake.raster.geometry import affine
from nimble_quake.raster.geometry.grid import frame_grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.render.engine import Engine
from nimble_quake.render.job import FrameJob
from nimble_quake.render.plan.groups import plate_operator
from nimble_quake.render.plates.grounds import placement_of
from nimble_quake.render.plates.warps import warp_of
from nimble_quake.render.services import frame_job
from nimble_quake.shot.model import Plate, Shot
from nimble_quake.shot.paths import find

FINE = 0.5
"""At which scale places are looked at: gaps narrower than two pixels are covered by the border's own width."""


def cover_at(job: FrameJob, plate_path: str) -> float | None:
    """Return by how much a plate must be enlarged about its anchor to fill the frame at this moment; 1: not at all.

    Exact for what the samples of the frame look at: 1 + 2 d / size for a push of d px everywhere. None where there is
    nothing to enlarge, or where no enlargement would do.
    """
    plate = find(job.shot, plate_path)
    operator = plate_operator(job, plate) if isinstance(plate, Plate) else None
    if not isinstance(plate, Plate) or operator is None or operator.endless or operator.beneath:
        return None
    placement = placement_of(job, plate, operator)
    back = affine.inverse(placement.place)
    if back is None or min(placement.box) <= 0:
        return None
    grid = frame_grid(job.shot.width, job.shot.height, min(1.0, FINE))
    path = f"{plate_path}/effects/{plate.effects[-1].id}" if plate.effects else ""
    warp = warp_of(job, path, grid, whole=True) if path else None
    looked = Places(grid, warp).absolute().astype(np.float64)
    half = grid.step / 2  # samples lie at centres; the frame reaches half a sample farther
    a, b, c, d, e, f = back
    needed = 1.0
    for own, size, anchor in (
        (a * looked[0] + b * looked[1] + c, placement.box[0], operator.anchor[0] * placement.box[0]),
        (d * looked[0] + e * looked[1] + f, placement.box[1], operator.anchor[1] * placement.box[1]),
    ):
        before, after = anchor, size - anchor
        low, high = float(own.min()) - half * abs(a), float(own.max()) + half * abs(e)
        if (before <= 0 and low < anchor) or (after <= 0 and high > anchor):
            return None
        needed = max(
            needed, (anchor - low) / before if before > 0 else 1.0, (high - anchor) / after if after > 0 else 1.0
        )
    return needed


def cover_over(engine: Engine, shot: Shot, plate_path: str, frames: Iterable[Frames]) -> dict[Frames, float]:
    """Return `cover_at` of many frames; those that have none are left out."""
    found = {}
    for frame in frames:
        needed = cover_at(frame_job(engine, shot, frame), plate_path)
        if needed is not None:
            found[frame] = needed
    return found
