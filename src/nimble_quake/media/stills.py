"""Stills: PNG, JPEG, WebP, TIFF and what else Pillow reads, 8 and 16 bits, turned as their EXIF says."""

from __future__ import annotations

import threading
import warnings
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps

from nimble_quake.conventions import Picture, Seconds
from nimble_quake.errors import LimitError, MediaError
from nimble_quake.raster.convert import premultiplied
from nimble_quake.raster.grid import refuse_enormous

SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".gif")
READABLE = ["PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF"]


class Still:
    """One picture, kept as float and in halves of its size, so that showing it small costs little."""

    seconds = 0.0

    def __init__(self, path: Path) -> None:
        rgba = _read(path)
        self.bits8 = rgba.dtype == np.uint8
        self.height, self.width = rgba.shape[:2]
        self._levels = [premultiplied(rgba)]
        self._sized: dict[tuple[int, int], Picture] = {}
        self._lock = threading.Lock()

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        width, height = min(max(width, 1), self.width), min(max(height, 1), self.height)
        if (width, height) == (self.width, self.height):
            return self._levels[0]
        with self._lock:
            key = (width, height)
            if key not in self._sized:
                if len(self._sized) > 4:
                    self._sized.pop(next(iter(self._sized)))
                self._sized[key] = _reduced(self._level_for(width, height), key)
            return self._sized[key]

    def _level_for(self, width: int, height: int) -> Picture:
        """The smallest halving that is still at least this large."""
        level = 0
        while self._level_fits(level + 1, width, height):
            level += 1
            if level == len(self._levels):
                above = self._levels[-1]
                half = (max(1, above.shape[1] // 2), max(1, above.shape[0] // 2))
                self._levels.append(_reduced(above, half))
        return self._levels[level]

    def _level_fits(self, level: int, width: int, height: int) -> bool:
        return self.width >> level >= 2 * width and self.height >> level >= 2 * height

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return sum(level.nbytes for level in self._levels) + sum(p.nbytes for p in self._sized.values())


def _reduced(picture: Picture, size: tuple[int, int]) -> Picture:
    """Return the picture averaged down to (width, height)."""
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)


def _read(path: Path) -> NDArray[np.uint8] | NDArray[np.uint16]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path, formats=READABLE) as image:
                refuse_enormous(*image.size, path.name)
                if _is_16_bit(image, path):
                    return _read_16(path)
                return np.asarray(ImageOps.exif_transpose(image).convert("RGBA"))
    except (LimitError, Image.DecompressionBombError) as wrong:
        raise MediaError("the picture is too large", where=str(path), cure="make it smaller than 16384 px") from wrong
    except MediaError:
        raise
    except FileNotFoundError as wrong:
        raise MediaError("the file is not there", where=str(path), cure="find it, or choose another") from wrong
    except Exception as wrong:  # Pillow's decoders raise many kinds of error on damaged files
        raise MediaError("cannot be read as a picture", where=str(path), cure="save it again as PNG or JPEG") from wrong


def _is_16_bit(image: Image.Image, path: Path) -> bool:
    """Whether the file holds 16 bits a channel; Pillow would cut RGB to 8."""
    if image.format == "PNG":
        with path.open("rb") as file:
            return file.read(25)[24:25] == b"\x10"
    if image.format == "TIFF":
        bits = image.tag_v2.get(258, (8,))  # type: ignore[attr-defined]
        return max(bits if isinstance(bits, tuple) else (bits,)) == 16
    return False


def _read_16(path: Path) -> NDArray[np.uint16]:
    found = cv2.imdecode(np.fromfile(path, np.uint8), cv2.IMREAD_UNCHANGED)
    if found is None or found.dtype != np.uint16:
        raise MediaError("cannot be read as a 16-bit picture", where=str(path), cure="save it again as PNG")
    if found.ndim == 2:
        found = found[..., None]
    if found.shape[2] == 2:
        found = found[..., [0, 0, 0, 1]]
    rgba = np.full((*found.shape[:2], 4), 65535, np.uint16)
    rgba[..., :3] = found[..., 2::-1] if found.shape[2] >= 3 else found
    if found.shape[2] == 4:
        rgba[..., 3] = found[..., 3]
    return rgba
