"""Brightness, saturation, tint and grain, each as strong as a field says."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import LUMA_709, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

NO_GRAIN = np.zeros((1, 1), np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _graded(picture, amounts, numbers, tint, luma, grain, grained, premultiplied, out, first, last):
    one, zero = np.float32(1), np.float32(0)
    brighten, saturate, fraction = numbers[0], numbers[1], numbers[2]
    for j in range(first, last):
        for i in range(picture.shape[1]):
            amount, alpha = amounts[j, i], picture[j, i, 3]
            whole = alpha if premultiplied else one
            grey = picture[j, i, 0] * luma[0] + picture[j, i, 1] * luma[1] + picture[j, i, 2] * luma[2]
            more = (brighten + (grain[j, i] if grained else zero)) * amount * whole
            strong, mix = one + saturate * amount, min(max(fraction * amount, zero), one)
            strong = strong if strong > zero else zero
            for k in range(3):
                v = grey + (picture[j, i, k] - grey) * strong + more
                v += (tint[k] * whole - v) * mix
                out[j, i, k] = min(max(v, zero), whole) if premultiplied else v
            out[j, i, 3] = alpha


def graded(
    picture: Picture,
    amounts: NDArray[np.float32],
    numbers: tuple[float, float, float],
    tint: tuple[float, ...],
    grain: NDArray[np.float32] | None,
    *,
    premultiplied: bool,
) -> Picture:
    """Return a picture (H, W, 4) graded by `amounts` (H, W).

    numbers: light added, saturation added (-1: grey), share of the tint. grain: (H, W), added.
    """
    out = np.empty_like(picture)
    run_rows(
        _graded,
        picture.shape[0],
        picture,
        np.ascontiguousarray(amounts),
        np.array(numbers, np.float32),
        np.array(tint, np.float32),
        np.array(LUMA_709, np.float32),
        NO_GRAIN if grain is None else grain,
        grain is not None,
        premultiplied,
        out,
    )
    return out
