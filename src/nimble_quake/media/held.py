"""Arrays as open files: pictures that a script holds, under names of their own."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import MAX_PIXELS, Picture, Seconds
from nimble_quake.errors import BadInput
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.source import MediaSource
from nimble_quake.media.stills import MAX_SIDE, Still


class Held:
    """A picture of floats, (H, W, 4) premultiplied."""

    seconds = 0.0
    rate = None
    frames = 1
    bits8 = False

    def __init__(self, picture: Picture) -> None:
        self._picture = picture
        self.height, self.width = picture.shape[:2]

    nbytes = 0
    """It is the script's own memory."""

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        """Return it, reduced to about this size (never enlarged)."""
        size = min(max(width, 1), self.width), min(max(height, 1), self.height)
        if size == (self.width, self.height):
            return self._picture
        return np.asarray(cv2.resize(self._picture, size, interpolation=cv2.INTER_AREA), np.float32)


def held(array: NDArray[Any], name: str) -> MediaSource:
    """Return an array as an open picture.

    array: (H, W), (H, W, 3) or (H, W, 4), straight colours; uint8 and uint16 as codes, floats as they are. Raises
    BadInput.
    """
    values = np.asarray(array)
    if values.ndim == 2:
        values = values[..., None]
    if values.ndim != 3 or values.shape[2] not in (1, 3, 4) or not values.size:
        raise BadInput(f"the {name} has the shape {np.shape(array)}", cure="use (H, W), (H, W, 3) or (H, W, 4)")
    height, width = values.shape[:2]
    if max(height, width) > MAX_SIDE or height * width > MAX_PIXELS:
        raise BadInput(f"the {name} is {width} x {height} pixels", cure=f"use at most {MAX_SIDE} px a side")
    if values.dtype in (np.uint8, np.uint16):
        return Still.of(np.ascontiguousarray(values))
    if not np.issubdtype(values.dtype, np.floating) and values.dtype != bool:
        raise BadInput(f"the {name} is of {values.dtype}", cure="use uint8, uint16 or floats")
    out = np.ones((height, width, 4), np.float32)
    out[..., : max(3, values.shape[2])] = values
    if not np.isfinite(out).all():
        raise BadInput(f"the {name} holds numbers that are not finite", cure="use numpy.nan_to_num on it")
    out[..., :3] *= out[..., 3:]
    return Held(out)


class ArrayPool(MediaPool):
    """Open files, and arrays under names that no file has."""

    def __init__(self, arrays: dict[str, NDArray[Any]]) -> None:
        super().__init__()
        self._arrays = {name: held(array, name.strip("<>")) for name, array in arrays.items()}

    def stamp(self, path: str) -> tuple[str, int, int]:
        return (path, 0, 0) if path in self._arrays else super().stamp(path)

    def open(self, path: str, sort: str = "", fields: str = "tagged") -> MediaSource:
        return self._arrays[path] if path in self._arrays else super().open(path, sort)

    def moves(self, path: str) -> bool:
        return path not in self._arrays and super().moves(path)
