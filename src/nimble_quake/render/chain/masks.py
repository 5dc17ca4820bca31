"""Maps as masks."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.operators.base import AS_DRAWN, MapReader
from nimble_quake.raster.colour.channels import channel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.places import Places
from nimble_quake.render.job import FrameJob


def mask_values(job: FrameJob, id: str, grid: Grid, path: str, travels: MapReader | None = None) -> Field | None:
    """Return a map as a mask: (H, W, 1) within 0...1; None, and a word about it, where there is no such map.

    travels: it goes with the plate for which this reads.
    """
    missing = job.shot.map(id) is None
    values = job.map_values(id, grid) if missing or travels is None else travels.at(id, Places(grid), "plate", AS_DRAWN)
    if values is None:
        job.path = path
        job.report_problem("its mask is not there", "choose another map")
        return None
    fractions = channel(values, "value")
    if values.shape[2] == 4:
        fractions = fractions * np.clip(values[..., 3], 0, 1)
    return np.clip(fractions, 0, 1)[..., None]
