"""The outline of a picture: its alpha."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy")
def _with_alpha_of(soft, sharp, first, last):
    least = np.float32(1e-6)
    for j in range(first, last):
        for i in range(soft.shape[1]):
            times = sharp[j, i, 3] / max(soft[j, i, 3], least)
            for k in range(4):
                soft[j, i, k] *= times


def within_outline(soft: Picture, sharp: Picture) -> Picture:
    """Give a softened picture the outline of the sharp one, in place: its colours, that alpha. Both (H, W, 4)."""
    run_rows(_with_alpha_of, soft.shape[0], soft, sharp)
    return soft
