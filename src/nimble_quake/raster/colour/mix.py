"""A weighted sum of two pictures, as of a dissolve, in one pass."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel(error_model="numpy")
def _mixed_evenly(one, two, weight, out, first, last):
    """All pixels alike; rows of numbers, (H, 4 W)."""
    w = np.float32(weight)
    v = np.float32(1) - w
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i] = one[j, i] * v + two[j, i] * w


@kernel(error_model="numpy", slp=True)
def _mixed(one, two, weights, steps, out, first, last):
    """steps: 1 for a picture as large as the result, 0 for one pixel that holds everywhere."""
    a, b = steps[0], steps[1]
    for j in range(first, last):
        for i in range(out.shape[1]):
            w = weights[j, i, 0]
            v = np.float32(1) - w
            out[j, i, 0] = one[j * a, i * a, 0] * v + two[j * b, i * b, 0] * w
            out[j, i, 1] = one[j * a, i * a, 1] * v + two[j * b, i * b, 1] * w
            out[j, i, 2] = one[j * a, i * a, 2] * v + two[j * b, i * b, 2] * w
            out[j, i, 3] = one[j * a, i * a, 3] * v + two[j * b, i * b, 3] * w


def mixed(one: Picture, two: Picture, weights: Field, shape: tuple[int, int]) -> Picture:
    """Return one x (1 - weights) + two x weights, (rows, columns, 4), premultiplied (W3C plus-lighter of both).

    Each of the three is as large as that, or one pixel, (1, 1, 4) or (1, 1, 1), that holds everywhere.
    """
    one, two, weights = (np.ascontiguousarray(each, np.float32) for each in (one, two, weights))
    whole = [each.shape[:2] == shape for each in (one, two, weights)]
    out = np.empty((*shape, 4), np.float32)
    if whole[:2] == [True, True] and not whole[2]:
        rows = shape[0], shape[1] * 4
        run_rows(
            _mixed_evenly, shape[0], one.reshape(rows), two.reshape(rows), float(weights[0, 0, 0]), out.reshape(rows)
        )
        return out
    if not whole[2]:
        weights = np.full((*shape, 1), weights[0, 0, 0], np.float32)
    run_rows(_mixed, shape[0], one, two, weights, np.array(whole[:2], np.int64), out)
    return out


@kernel(error_model="numpy")
def _wiped(values, colours, mix, soft, light_first, out, first, last):
    zero, one = np.float32(0), np.float32(1)
    done, part = mix * (1 + soft), 1 / soft  # in double, so that all of it is exactly 1
    third = one / np.float32(3)
    for j in range(first, last):
        for i in range(out.shape[1]):
            v = values[j, i, 0]
            if colours:
                v = (v + values[j, i, 1] + values[j, i, 2]) * third
            v = one - v if light_first else v
            v = min(max(v, zero), one)
            out[j, i, 0] = np.float32(min(max((done - v) * part, 0.0), 1.0))


def wiped(values: Field, mix: float, soft: float, *, light_first: bool = False) -> Field:
    """Return how far each pixel is in a wipe by a map, (H, W, 1): w = clamp((mix (1 + soft) - v) / soft).

    v: the map's value, of colours their mean, (H, W, 1 or more). Dark parts come first, or light ones.
    """
    out = np.empty((*values.shape[:2], 1), np.float32)
    run_rows(_wiped, len(out), values, values.shape[2] >= 3, float(mix), float(soft), bool(light_first), out)
    return out
