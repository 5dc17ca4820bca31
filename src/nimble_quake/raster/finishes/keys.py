"""How much of a picture is kept by its colours."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.finishes.finishing import B, G, R
from nimble_quake.raster.finishes.rims import Coverage
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy", fastmath={"contract"})
def _between(picture, low, high, per, out, first, last):
    zero, half, one, least = np.float32(0), np.float32(0.5), np.float32(1), np.float32(1e-6)
    for j in range(first, last):
        row, kept = picture[j].reshape(-1), out[j]
        for i in range(len(kept)):
            bright = R * row[4 * i] + G * row[4 * i + 1] + B * row[4 * i + 2]
            bright = bright / max(row[4 * i + 3], least)
            fraction = min((bright - low) * per + half, (high - bright) * per + half)
            kept[i] = min(max(fraction, zero), one)


def kept_between(picture: Picture, low: float, high: float, softness: float) -> Coverage:
    """Return how much of a picture (H, W, 4) is as bright (BT.709 luma of its straight colours) as two levels ask.

    softness: how wide the ramps about the levels are. Nothing is brighter than white: a `high` of 1 lets all pass.
    """
    out, most = np.empty(picture.shape[:2], np.float32), high if high < 1 else np.inf
    numbers = (np.float32(low), np.float32(most), np.float32(1 / max(softness, 1e-4)))
    run_rows(_between, len(out), np.ascontiguousarray(picture), *numbers, out)
    return out
