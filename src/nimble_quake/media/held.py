"""Arrays as open files: pictures that a script holds, under names of their own."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from fractions import Fraction

import cv2
import numpy as np

from nimble_quake.conventions import MAX_PIXELS, Picture, Seconds
from nimble_quake.errors import BadInput
from nimble_quake.media.pool import MediaPool
from nimble_quake.media.source import MediaSource
from nimble_quake.media.stills import MAX_SIDE, Still

ROUNDED = 1e-6
"""Of a frame: a time so near before one is it."""


class Held:
    """A picture of floats, (H, W, 4) premultiplied."""

    seconds = 0.0
    rate = None
    frames = 1
    bits8 = False
    in_light = False
    trouble = ""

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


def held(array: np.ndarray, name: str) -> MediaSource:
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


class HeldClip:
    """Pictures of one size, one after the other, so many a second."""

    trouble = ""

    def __init__(self, pictures: Sequence[MediaSource], rate: Fraction) -> None:
        self._pictures, self.rate = pictures, rate
        self.width, self.height = pictures[0].width, pictures[0].height
        self.bits8, self.in_light = all(picture.bits8 for picture in pictures), False
        self.frames, self.seconds = len(pictures), float(len(pictures) / rate)

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return sum(picture.nbytes for picture in self._pictures)

    def frame_at(self, seconds: Seconds) -> int:
        """Return the number of the picture shown at a time."""
        return min(max(math.floor(seconds * float(self.rate) + ROUNDED), 0), self.frames - 1)

    def seconds_of(self, frame: int) -> Seconds:
        """Return when a picture begins."""
        return float(min(max(frame, 0), self.frames) / self.rate)

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        """Return the picture shown at a time, reduced to about this size (never enlarged)."""
        return self._pictures[self.frame_at(seconds)].picture(0.0, width, height)


def clip_of(arrays: Sequence[np.ndarray], rate: Fraction, name: str) -> MediaSource:
    """Return arrays as an open clip; see `held`. Raises BadInput."""
    if not arrays:
        raise BadInput(f"the {name} has no pictures", cure="give one or more")
    pictures = [held(array, f"{name}, picture {number}") for number, array in enumerate(arrays)]
    sizes = {(picture.width, picture.height) for picture in pictures}
    if len(sizes) > 1:
        said = " and ".join(f"{wide} x {high}" for wide, high in sorted(sizes)[:2])
        raise BadInput(f"the {name} has pictures of {said}", cure="give all the same size")
    return HeldClip(pictures, rate)


class ArrayPool(MediaPool):
    """Open files, and what is held under names that no file has."""

    def __init__(self, arrays: Mapping[str, MediaSource]) -> None:
        super().__init__()
        self._arrays = arrays

    def stamp(self, path: str) -> tuple[str, int, int]:
        return (path, 0, 0) if path in self._arrays else super().stamp(path)

    def open(self, path: str, sort: str = "", fields: str = "tagged", layer: str = "") -> MediaSource:
        return self._arrays[path] if path in self._arrays else super().open(path, sort, fields, layer)

    def moves(self, path: str) -> bool:
        return self._arrays[path].frames > 1 if path in self._arrays else super().moves(path)

    def there(self, path: str) -> bool:
        return path in self._arrays or super().there(path)
