"""Decoded 8-bit YCbCr frames as planes: half the memory of RGBA, and turned into a picture by rows on all cores.

Matrices are those of ITU-R BT.709-6, BT.601-7 and the older ones a stream may name; narrow range as in BT.709-6
table 4 (black 16, white 235, chroma 128 +- 112).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from av.video.frame import VideoFrame
from numba import njit

from nimble_quake.conventions import Bytes8, Picture
from nimble_quake.raster.rows import run_rows

SHRINKS = {"yuv420p": (1, 1), "yuvj420p": (1, 1), "yuv422p": (1, 0), "yuvj422p": (1, 0), "yuv444p": (0, 0)}
"""Formats read as planes, and by how many halvings their chroma is smaller, across and down."""
WEIGHTS = {1: (0.2126, 0.0722), 5: (0.299, 0.114), 6: (0.299, 0.114), 4: (0.30, 0.11), 7: (0.212, 0.087)}
"""Red's and blue's share of luma by the stream's matrix code (ITU-T H.273)."""


@dataclass(frozen=True)
class Planes:
    """Luma (H, W), chroma (h, w) twice, its halvings, and the shares of red and blue; `full`: 0...255 is used."""

    y: Bytes8
    u: Bytes8
    v: Bytes8
    halvings: tuple[int, int]
    weights: tuple[float, float]
    full: bool

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self.y.nbytes + self.u.nbytes + self.v.nbytes


def planes_of(frame: VideoFrame) -> Planes | None:
    """Return a frame's planes; None where its format is another one."""
    halvings = SHRINKS.get(frame.format.name)
    if halvings is None:
        return None
    width, height = -(-frame.width // (1 << halvings[0])), -(-frame.height // (1 << halvings[1]))
    sizes = ((frame.width, frame.height), (width, height), (width, height))
    y, u, v = (_rows(plane, wide, high) for plane, (wide, high) in zip(frame.planes, sizes, strict=True))
    standard = 1 if frame.height >= 720 else 6
    weights = WEIGHTS.get(int(frame.colorspace), WEIGHTS[standard])
    full = frame.format.name.startswith("yuvj") or int(frame.color_range or 0) == 2
    return Planes(y, u, v, halvings, weights, full)


def _rows(plane: Any, width: int, height: int) -> Bytes8:
    """A view of a plane without its padding; the frame lives on as long as the view."""
    return np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[:height, :width]


@njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract"})
def _coloured(ys, us, vs, halvings, k, out, first, last):  # type: ignore[no-untyped-def]
    zero, one = np.float32(0), np.float32(1)
    for j in range(first, last):
        row, chroma = out[j], j >> halvings[1]
        for i in range(row.shape[0]):
            y = (np.float32(ys[j, i]) - k[0]) * k[1]
            u = np.float32(us[chroma, i >> halvings[0]]) - np.float32(128)
            v = np.float32(vs[chroma, i >> halvings[0]]) - np.float32(128)
            row[i, 0] = min(max(y + k[2] * v, zero), one)
            row[i, 1] = min(max(y - k[3] * u - k[4] * v, zero), one)
            row[i, 2] = min(max(y + k[5] * u, zero), one)
            row[i, 3] = one


def picture_of(planes: Planes, width: int, height: int) -> Picture:
    """Return the planes as a picture of a size; a smaller one is averaged first."""
    ys, us, vs, halvings = planes.y, planes.u, planes.v, planes.halvings
    if (width, height) != (ys.shape[1], ys.shape[0]):
        size = (width, height)
        ys, us, vs = (
            plane
            if plane.shape == (height, width)
            else np.asarray(cv2.resize(plane, size, interpolation=_by(plane, size)), np.uint8)
            for plane in (ys, us, vs)
        )
        halvings = (0, 0)
    red, blue = planes.weights
    green = 1 - red - blue
    luma, chroma = (255, 255) if planes.full else (219, 224)
    v, u = 2 * (1 - red) / chroma, 2 * (1 - blue) / chroma
    numbers = (0 if planes.full else 16, 1 / luma, v, u * blue / green, v * red / green, u)
    out = np.empty((height, width, 4), np.float32)
    run_rows(_coloured, height, ys, us, vs, halvings, np.array(numbers, np.float32), out)
    return out


def _by(plane: Bytes8, size: tuple[int, int]) -> int:
    return cv2.INTER_AREA if plane.shape[1] >= size[0] and plane.shape[0] >= size[1] else cv2.INTER_LINEAR
