"""A frame with alpha made smaller: only the part of it where anything is."""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.raster.colour.convert import premultiplied
from nimble_quake.raster.geometry.part import box_of

Codes = NDArray[np.uint8] | NDArray[np.uint16]


def smaller_where_there(rgba: Codes, size: tuple[int, int]) -> Picture:
    """Return straight RGBA codes (H, W, 4) as a premultiplied picture of (width, height), averaged over areas."""
    width, height = size
    box = box_of(rgba[..., 3] > 0)
    if box is None:
        return np.zeros((height, width, 4), np.float32)
    rows, down = _whole_pixels(box[0], rgba.shape[0], height)
    columns, across = _whole_pixels(box[1], rgba.shape[1], width)
    part = premultiplied(np.ascontiguousarray(rgba[rows, columns]))
    wide, tall = across.stop - across.start, down.stop - down.start
    made = np.asarray(cv2.resize(part, (wide, tall), interpolation=cv2.INTER_AREA), np.float32)
    if (wide, tall) == size:
        return made.reshape(height, width, 4)
    out = np.zeros((height, width, 4), np.float32)
    out[down, across] = made.reshape(tall, wide, 4)
    return out


def _whole_pixels(there: slice, length: int, made: int) -> tuple[slice, slice]:
    """Return the samples round what is there that make whole pixels of the smaller picture, and which those are.

    Out of so many samples come so many pixels, and the same again from the next ones; there is no border within them.
    """
    common = math.gcd(length, made)
    samples, pixels = length // common, made // common
    first, end = there.start // samples, -(-there.stop // samples)
    return slice(first * samples, end * samples), slice(first * pixels, end * pixels)
