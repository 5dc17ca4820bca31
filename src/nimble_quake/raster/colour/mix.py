"""A weighted sum of two pictures, as of a dissolve, in one pass."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import Field, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.blend import flat
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
def _mixed(one, two, weights, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            w = weights[j, i, 0]
            v = np.float32(1) - w
            out[j, i, 0] = one[j, i, 0] * v + two[j, i, 0] * w
            out[j, i, 1] = one[j, i, 1] * v + two[j, i, 1] * w
            out[j, i, 2] = one[j, i, 2] * v + two[j, i, 2] * w
            out[j, i, 3] = one[j, i, 3] * v + two[j, i, 3] * w


@kernel(error_model="numpy", slp=True)
def _towards(one, added, fraction, out, first, last):
    """A picture made fainter, and one pixel added everywhere."""
    v = np.float32(fraction)
    r, g, b, a = added[0], added[1], added[2], added[3]
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i, 0] = one[j, i, 0] * v + r
            out[j, i, 1] = one[j, i, 1] * v + g
            out[j, i, 2] = one[j, i, 2] * v + b
            out[j, i, 3] = one[j, i, 3] * v + a


def mixed(one: Picture, two: Picture, weights: Field, shape: tuple[int, int]) -> Picture:
    """Return one x (1 - weights) + two x weights, (rows, columns, 4), premultiplied (W3C plus-lighter of both).

    Each of the three is as large as that, or one pixel, (1, 1, 4) or (1, 1, 1), that holds everywhere.
    """
    one, two, weights = (np.ascontiguousarray(each, np.float32) for each in (one, two, weights))
    if weights.shape[:2] != shape:
        return _evenly(one, two, weights[0, 0, 0], shape)
    out = np.empty((*shape, 4), np.float32)
    run_rows(_mixed, shape[0], _whole(one, shape), _whole(two, shape), weights, out)
    return out


def _whole(picture: Picture, shape: tuple[int, int]) -> Picture:
    """A picture as large as that, made of one pixel if need be."""
    return picture if picture.shape[:2] == shape else flat(shape, picture[0, 0])


def _evenly(one: Picture, two: Picture, w: np.float32, shape: tuple[int, int]) -> Picture:
    """All pixels alike."""
    v = np.float32(1) - w
    if one.shape[:2] != shape and two.shape[:2] != shape:
        return flat(shape, one[0, 0] * v + two[0, 0] * w)
    out = np.empty((*shape, 4), np.float32)
    if one.shape[:2] != shape:
        run_rows(_towards, shape[0], two, one[0, 0] * v, float(w), out)
    elif two.shape[:2] != shape:
        run_rows(_towards, shape[0], one, two[0, 0] * w, float(v), out)
    else:
        rows = shape[0], shape[1] * 4
        run_rows(_mixed_evenly, shape[0], one.reshape(rows), two.reshape(rows), float(w), out.reshape(rows))
    return out


@kernel(error_model="numpy", slp=True)
def _mixed_by_map(one, two, values, colours, mix, soft, light_first, out, first, last):
    nothing, whole = np.float32(0), np.float32(1)
    done, part = mix * (1 + soft), 1 / soft  # in double, so that all of it is exactly 1
    third = whole / np.float32(3)
    for j in range(first, last):
        for i in range(out.shape[1]):
            m = values[j, i, 0]
            if colours:
                m = (m + values[j, i, 1] + values[j, i, 2]) * third
            m = whole - m if light_first else m
            m = min(max(m, nothing), whole)
            w = np.float32(min(max((done - m) * part, 0.0), 1.0))
            v = whole - w
            out[j, i, 0] = one[j, i, 0] * v + two[j, i, 0] * w
            out[j, i, 1] = one[j, i, 1] * v + two[j, i, 1] * w
            out[j, i, 2] = one[j, i, 2] * v + two[j, i, 2] * w
            out[j, i, 3] = one[j, i, 3] * v + two[j, i, 3] * w


def mixed_by_map(
    one: Picture, two: Picture, values: Field, mix: float, soft: float, *, light_first: bool = False
) -> Picture:
    """Return one x (1 - w) + two x w with w = clamp((mix (1 + soft) - m) / soft), in one pass, as large as the map.

    m: the map's value, of colours their mean, (H, W, 1 or more). Dark parts come first, or light ones. Each picture is
    as large as that, or one pixel that holds everywhere.
    """
    shape = values.shape[0], values.shape[1]
    one, two = (_whole(np.ascontiguousarray(each, np.float32), shape) for each in (one, two))
    out = np.empty((*shape, 4), np.float32)
    by = (values.shape[2] >= 3, float(mix), float(soft), bool(light_first))
    run_rows(_mixed_by_map, len(out), one, two, values, *by, out)
    return out
