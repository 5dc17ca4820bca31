"""Stills: PNG, JPEG, WebP, TIFF and what else Pillow reads, 8 and 16 bits, turned as their EXIF says."""

from __future__ import annotations

import math
import threading
import warnings
from collections import OrderedDict
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from PIL.TiffImagePlugin import TiffImageFile

from nimble_quake.conventions import MAX_PIXELS, Picture, Seconds
from nimble_quake.errors import LimitError, MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.kernels import kernel
from nimble_quake.media.planes import Codes
from nimble_quake.raster.colour.convert import premultiplied
from nimble_quake.raster.threads.rows import run_rows

SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".bmp", ".gif", ".exr")
READABLE = ["PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF"]

MAX_SIDE = 65_535
"""The longest side of a picture file, in pixels; how many there are is limited by MAX_PIXELS."""
MOST_SHOWN = 48_000_000
"""A picture of more pixels is shown by a copy averaged down to so many: as floats it would not fit into memory."""
MOST_KEPT = 3
"""Sizes of a picture that are kept beside its file's own pixels."""
STRIP = 2_000_000
"""Pixels that are turned into floats at a time."""

TURNS = {2: (0, True), 3: (2, False), 4: (2, True), 5: (3, True), 6: (3, False), 7: (1, True), 8: (1, False)}
"""Exif 2.3 orientation: quarter turns anticlockwise, then whether it is mirrored across."""


class Still:
    """One picture. The file's own pixels are kept as they are; what is shown is made of them at the size asked for."""

    seconds = 0.0
    rate = None
    frames = 1
    in_light = False
    trouble = ""

    def __init__(self, path: Path) -> None:
        self._take(_read(path))

    @classmethod
    def of(cls, pixels: Codes) -> Still:
        """Return a still of pixels, (H, W, 4) straight RGBA codes."""
        made = cls.__new__(cls)
        made._take(pixels)
        return made

    def _take(self, pixels: Codes) -> None:
        self._pixels = pixels
        self.bits8 = self._pixels.dtype != np.uint16
        self.height, self.width = self._pixels.shape[:2]
        self._sized: OrderedDict[tuple[int, int], Picture] = OrderedDict()
        self._lock = threading.Lock()

    def picture(self, seconds: Seconds, width: int, height: int) -> Picture:
        key = min(max(width, 1), self.width), min(max(height, 1), self.height)
        if key[0] * key[1] > MOST_SHOWN:
            fraction = (MOST_SHOWN / (key[0] * key[1])) ** 0.5
            key = max(1, int(key[0] * fraction)), max(1, int(key[1] * fraction))
        with self._lock:
            if key in self._sized:
                self._sized.move_to_end(key)
                return self._sized[key]
            larger = [size for size in self._sized if size[0] >= 4 * key[0] and size[1] >= 4 * key[1]]
            if larger:  # averaging what is averaged already is as good, and much less work
                made = self.reduced(self._sized[min(larger)], key)
            else:
                made = self.sized(key)
            self._sized[key] = made
            while len(self._sized) > MOST_KEPT:
                self._sized.popitem(last=False)
            return made

    def sized(self, size: tuple[int, int]) -> Picture:
        """Return the file's own pixels as a picture of a size (width, height)."""
        return _shown(self._pixels, size)

    @staticmethod
    def reduced(picture: Picture, size: tuple[int, int]) -> Picture:
        """Return a picture averaged down to (width, height); itself where that is its size."""
        if picture.shape[1::-1] == size:
            return picture
        return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.float32)

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self._pixels.nbytes + sum(p.nbytes for p in list(self._sized.values()))


def _shown(pixels: Codes, size: tuple[int, int]) -> Picture:
    """Return a file's pixels as a picture of a size, a strip at a time, so that only the result is held as floats."""
    height, width = pixels.shape[:2]
    wide, high = size
    if (wide, high) == (width, height):
        return premultiplied(_rgba(pixels))
    out = np.zeros((high, wide, 4), np.float32)
    rows = max(1, STRIP // width)
    for top in range(0, height, rows):
        strip = premultiplied(_rgba(pixels[top : top + rows]))
        if wide != width:
            narrower = cv2.resize(strip, (wide, strip.shape[0]), interpolation=cv2.INTER_AREA)
            strip = np.asarray(narrower, np.float32).reshape(-1, wide, 4)
        run_rows(_add_rows, high, np.ascontiguousarray(strip), top, height / high, out)
    return out


@kernel(error_model="numpy")
def _add_rows(strip, top, per_row, out, first, last):
    """Add a strip's share to the mean of what each result row covers; `per_row`: how many rows that is."""
    for j in range(first, last):
        low, high = j * per_row, (j + 1) * per_row
        for r in range(max(int(low) - top, 0), min(int(math.ceil(high)) - top, strip.shape[0])):
            fraction = np.float32((min(high, top + r + 1.0) - max(low, top + r * 1.0)) / per_row)
            if fraction <= 0:
                continue
            for i in range(out.shape[1]):
                for k in range(4):
                    out[j, i, k] += fraction * strip[r, i, k]


def _rgba(pixels: Codes) -> Codes:
    """Return pixels of one to four channels as straight RGBA."""
    channels = pixels.shape[2]
    if channels == 4:
        return np.ascontiguousarray(pixels)
    way = cv2.COLOR_RGB2RGBA if channels == 3 else cv2.COLOR_GRAY2RGBA
    out = np.asarray(cv2.cvtColor(np.ascontiguousarray(pixels[..., : 3 if channels == 3 else 1]), way))
    if channels == 2:
        out[..., 3] = pixels[..., 1]
    return out


def _read(path: Path) -> Codes:
    """Return a file's own pixels, (H, W, 1...4), turned as they are meant."""
    try:
        plain_file(path)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path, formats=READABLE) as image:
                _refuse_enormous(*image.size)
                if _is_16_bit(image, path):
                    return _turned(_read_16(path), _orientation(image))
                return _turned(_as_codes(image), _orientation(image))
    except (LimitError, Image.DecompressionBombError) as wrong:
        raise MediaError("the picture is too large", where=str(path), cure=LARGEST) from wrong
    except MediaError:
        raise
    except FileNotFoundError as wrong:
        raise MediaError("the file is not there", where=str(path), cure="find it, or choose another") from wrong
    except Exception as wrong:  # Pillow's decoders raise many kinds of error on damaged files
        found = _by_opencv(path) if "MAX_TEXT" in str(wrong) else None  # long notes beside a good picture
        if found is not None:
            return found
        raise MediaError("cannot be read as a picture", where=str(path), cure="save it again as PNG or JPEG") from wrong


LARGEST = f"make it smaller than {MAX_SIDE} px a side and {MAX_PIXELS // 1_000_000} million pixels"


def _refuse_enormous(width: int, height: int) -> None:
    if width > MAX_SIDE or height > MAX_SIDE or width * height > MAX_PIXELS:
        raise LimitError(f"the picture is {width} x {height} pixels", cure=LARGEST)


def _as_codes(image: Image.Image) -> Codes:
    """A picture's pixels with no more channels than it has."""
    clear = image.mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info
    if image.mode in ("1", "L", "I", "F") and not clear:
        mode = "L"
    else:
        mode = "RGBA" if clear else "RGB"
    array = np.asarray(image.convert(mode))
    return array[..., None] if array.ndim == 2 else array


def _orientation(image: Image.Image) -> int:
    try:
        return int(image.getexif().get(274, 1))
    except Exception:  # a damaged note beside a good picture
        return 1


def _turned(pixels: Codes, orientation: int) -> Codes:
    quarters, mirrored = TURNS.get(orientation, (0, False))
    out = np.rot90(pixels, quarters) if quarters else pixels
    return np.ascontiguousarray(out[:, ::-1] if mirrored else out)


def _by_opencv(path: Path) -> Codes | None:
    """Read a PNG whose texts Pillow will not hold; its size is in its first bytes (ISO 15948, 11.2.2)."""
    head = path.open("rb").read(33)
    if head[:8] != b"\x89PNG\r\n\x1a\n":
        return None
    _refuse_enormous(int.from_bytes(head[16:20], "big"), int.from_bytes(head[20:24], "big"))
    return channels_in_order(cv2.imdecode(np.fromfile(path, np.uint8), cv2.IMREAD_UNCHANGED))


def channels_in_order(found: Codes | None) -> Codes | None:
    """OpenCV's pixels (blue first) as ours."""
    if found is None:
        return None
    if found.ndim == 2:
        return found[..., None]
    return np.ascontiguousarray(found[..., [2, 1, 0, 3][: found.shape[2]]]) if found.shape[2] >= 3 else found


def _is_16_bit(image: Image.Image, path: Path) -> bool:
    """Whether the file holds 16 bits a channel; Pillow would cut RGB to 8."""
    if image.format == "PNG":
        with path.open("rb") as file:
            return file.read(25)[24:25] == b"\x10"
    if isinstance(image, TiffImageFile):
        bits = image.tag_v2.get(258, (8,))
        return max(bits if isinstance(bits, tuple) else (bits,)) == 16
    return False


def _read_16(path: Path) -> Codes:
    flags = cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION
    found = channels_in_order(cv2.imdecode(np.fromfile(path, np.uint8), flags))
    if found is None or found.dtype != np.uint16:
        raise MediaError("cannot be read as a 16-bit picture", where=str(path), cure="save it again as PNG")
    return np.asarray(found, np.uint16)
