"""Files of numbers: ST maps and vector maps, as OpenEXR, TIFF and PNG hold them, never rounded to 8 bits.

Windows after the OpenEXR documentation, "Technical introduction": the display window is the frame, the data window is
what the file holds of it, or more than it (overscan).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from nimble_quake.conventions import MAX_PIXELS
from nimble_quake.errors import MediaError
from nimble_quake.files.plain import plain_file
from nimble_quake.media import flipbook
from nimble_quake.media.stills import LARGEST, MAX_SIDE, channels_in_order

SUFFIXES = (".exr", ".tif", ".tiff", ".png")


@dataclass(frozen=True, eq=False)
class DataFile:
    """Red and green of a file as they are, (H, W, 2) float32; codes as shares of the largest."""

    values: NDArray[np.float32]
    frame: tuple[int, int]
    """Width and height of the whole frame in pixels of the file."""
    corner: tuple[int, int] = (0, 0)
    """Where the frame's left top corner lies in `values`: above 0 where the file goes on beyond the frame."""
    notes: dict[str, str] = field(default_factory=dict)
    """What the file says of itself."""

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self.values.nbytes


def read_data(path: Path) -> DataFile:
    """Return a file's numbers. Raises MediaError."""
    if path.suffix.lower() not in SUFFIXES:
        raise MediaError("holds no map of places", where=str(path), cure=f"use one of {', '.join(SUFFIXES)}")
    try:
        plain_file(path)
        return _read_exr(path) if path.suffix.lower() == ".exr" else _read_codes(path)
    except MediaError:
        raise
    except FileNotFoundError as wrong:
        raise MediaError("the file is not there", where=str(path), cure="find it, or choose another") from wrong
    except Exception as wrong:  # both libraries raise many kinds of error on damaged files
        raise MediaError("cannot be read as a map", where=str(path), cure="save it again as OpenEXR") from wrong


def _read_exr(path: Path) -> DataFile:
    with OpenEXR.File(str(path), header_only=True) as file:
        header = dict(file.header())  # the file's own is emptied when it is closed
        low, high = header["dataWindow"]
        first, last = header["displayWindow"]
        wide, high_ = int(high[0] - low[0]) + 1, int(high[1] - low[1]) + 1
        _refuse_enormous(path, wide, high_)
    with OpenEXR.File(str(path), separate_channels=True) as file:
        channels = {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}
    found = [channels[name] for name in ("R", "G") if name in channels]
    if len(found) < 2:
        raise MediaError("has no red and green", where=str(path), cure="choose an ST map or a vector map")
    notes = {name: value for name, value in header.items() if isinstance(value, str)}
    frame = int(last[0] - first[0]) + 1, int(last[1] - first[1]) + 1
    corner = int(first[0] - low[0]), int(first[1] - low[1])
    return DataFile(_finite(np.stack(found, axis=2)), frame, corner, notes)


def _read_codes(path: Path) -> DataFile:
    flags = cv2.IMREAD_UNCHANGED | cv2.IMREAD_IGNORE_ORIENTATION
    found = channels_in_order(cv2.imdecode(np.fromfile(path, np.uint8), flags))
    if found is None or found.shape[2] < 3:
        raise MediaError("has no red and green", where=str(path), cure="choose an ST map or a vector map")
    height, width = found.shape[:2]
    _refuse_enormous(path, width, height)
    values = found[..., :2].astype(np.float32)
    if np.issubdtype(found.dtype, np.integer):
        values /= np.float32(np.iinfo(found.dtype).max)
    return DataFile(_finite(values), (width, height))


def _finite(values: NDArray[np.generic]) -> NDArray[np.float32]:
    return np.nan_to_num(np.ascontiguousarray(values, np.float32), nan=0.0, posinf=1e6, neginf=-1e6)


def _refuse_enormous(path: Path, width: int, height: int) -> None:
    if not (0 < width <= MAX_SIDE and 0 < height <= MAX_SIDE and width * height <= MAX_PIXELS):
        raise MediaError(f"the map is {width} x {height} pixels", where=str(path), cure=LARGEST)


@lru_cache(8)
def _listed(pattern: str, changed: int) -> list[tuple[int, Path]]:
    return flipbook.numbered(pattern)


def data_path(file: str, frame: float) -> Path:
    """Return the file of a frame: of numbered ones the first belongs to frame 0, the last stays. Raises MediaError."""
    if not flipbook.is_pattern(file):
        return Path(file)
    folder = Path(file).parent
    files = _listed(file, folder.stat().st_mtime_ns if folder.is_dir() else 0)
    if not files:
        raise MediaError("there are no such numbered files", where=file, cure="find them, or choose others")
    wanted = files[0][0] + math.floor(frame + 1e-6)
    return max((each for each in files if each[0] <= wanted), default=files[0])[1]
