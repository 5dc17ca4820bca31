"""Decoded YCbCr frames of 8 to 16 bits as planes: half the memory of RGBA, made a picture by rows on all cores.

Matrices are those of ITU-R BT.709-6, BT.601-7, BT.2020-2 and the older ones a stream may name; narrow range as in
BT.709-6 table 4 (black 16, white 235, chroma 128 +- 112, times 4 for 10 bits and so on).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any, TypeAlias

import cv2
import numpy as np
from av.video.frame import VideoFrame

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.kernels.pools.native import Begun
from nimble_quake.raster.threads.rows import begin_rows

SHRINKS = {"420": (1, 1), "422": (1, 0), "444": (0, 0)}
"""By how many halvings chroma is smaller, across and down."""
FORMAT = re.compile(r"yuv(j?)(420|422|444)p(?:(10|12|14|16)le)?")
"""Formats read as planes."""
WEIGHTS = {
    1: (0.2126, 0.0722),
    5: (0.299, 0.114),
    6: (0.299, 0.114),
    4: (0.30, 0.11),
    7: (0.212, 0.087),
    9: (0.2627, 0.0593),
    10: (0.2627, 0.0593),
}
"""Red's and blue's share of luma by the stream's matrix code (ITU-T H.273)."""

Codes: TypeAlias = np.ndarray
"""Codes of 8 bits (uint8) or more (uint16)."""


@dataclass(frozen=True)
class Planes:
    """Luma (H, W), chroma (h, w) twice, its halvings, and the shares of red and blue; `full`: all codes are used."""

    y: Codes
    u: Codes
    v: Codes
    halvings: tuple[int, int]
    weights: tuple[float, float]
    full: bool
    bits: int = 8

    @property
    def nbytes(self) -> int:
        """Memory held."""
        return self.y.nbytes + self.u.nbytes + self.v.nbytes


def planes_of(frame: VideoFrame) -> Planes | None:
    """Return a frame's planes; None where its format is another one."""
    found = FORMAT.fullmatch(frame.format.name)
    if found is None:
        return None
    halvings, bits = SHRINKS[found.group(2)], int(found.group(3) or 8)
    width, height = -(-frame.width // (1 << halvings[0])), -(-frame.height // (1 << halvings[1]))
    sizes = ((frame.width, frame.height), (width, height), (width, height))
    y, u, v = (_rows(plane, wide, high, bits) for plane, (wide, high) in zip(frame.planes, sizes, strict=True))
    standard = 1 if frame.height >= 720 else 6
    weights = WEIGHTS.get(int(frame.colorspace), WEIGHTS[standard])
    full = bool(found.group(1)) or int(frame.color_range or 0) == 2
    return Planes(y, u, v, halvings, weights, full, bits)


def _rows(plane: Any, width: int, height: int, bits: int) -> Codes:
    """A view of a plane without its padding; the frame lives on as long as the view."""
    rows = np.frombuffer(plane, np.uint8).reshape(-1, plane.line_size)[:height]
    return rows[:, :width] if bits == 8 else np.ascontiguousarray(rows[:, : 2 * width]).view(np.uint16)


@kernel(error_model="numpy", fastmath={"contract"})
def _coloured(ys, us, vs, halvings, k, out, first, last):
    """What chroma adds is found once for two pixels, and for all of a row before any luma is looked at."""
    zero, one, wide = np.float32(0), np.float32(1), out.shape[1]
    black, per, by_v, by_u, by_v_too, by_u_too, middle = k[0], k[1], k[2], k[3], k[4], k[5], k[6]
    pairs = halvings[0] == 1
    reds, greens = np.empty(wide + 1, np.float32), np.empty(wide + 1, np.float32)
    blues = np.empty(wide + 1, np.float32)
    for j in range(first, last):
        row, luma, chroma = out[j], ys[j], j >> halvings[1]
        u_row, v_row = us[chroma], vs[chroma]
        if pairs:
            for i in range((wide + 1) // 2):
                u, v = np.float32(u_row[i]) - middle, np.float32(v_row[i]) - middle
                red, green, blue = by_v * v, by_u * u + by_v_too * v, by_u_too * u
                reds[2 * i], reds[2 * i + 1] = red, red
                greens[2 * i], greens[2 * i + 1] = green, green
                blues[2 * i], blues[2 * i + 1] = blue, blue
        else:
            for i in range(wide):
                u, v = np.float32(u_row[i]) - middle, np.float32(v_row[i]) - middle
                reds[i], greens[i], blues[i] = by_v * v, by_u * u + by_v_too * v, by_u_too * u
        for i in range(wide):
            y = (np.float32(luma[i]) - black) * per
            row[i, 0] = min(max(y + reds[i], zero), one)
            row[i, 1] = min(max(y - greens[i], zero), one)
            row[i, 2] = min(max(y + blues[i], zero), one)
            row[i, 3] = one


@kernel(error_model="numpy", fastmath={"contract"})
def _coloured_half(ys, us, vs, k, out, first, last):
    """Half size of planes whose chroma is at half size: the mean of four lumas, in one pass."""
    zero, one, quarter = np.float32(0), np.float32(1), np.float32(0.25)
    black, per, by_v, by_u, by_v_too, by_u_too, middle = k[0], k[1], k[2], k[3], k[4], k[5], k[6]
    for j in range(first, last):
        row, upper, lower, u_row, v_row = out[j], ys[2 * j], ys[2 * j + 1], us[j], vs[j]
        for i in range(row.shape[0]):
            first_two = np.float32(upper[2 * i]) + np.float32(upper[2 * i + 1])
            total = first_two + (np.float32(lower[2 * i]) + np.float32(lower[2 * i + 1]))  # whole numbers: exact
            y = (total * quarter - black) * per
            u, v = np.float32(u_row[i]) - middle, np.float32(v_row[i]) - middle
            row[i, 0] = min(max(y + by_v * v, zero), one)
            row[i, 1] = min(max(y - by_u * u - by_v_too * v, zero), one)
            row[i, 2] = min(max(y + by_u_too * u, zero), one)
            row[i, 3] = one


def picture_of(planes: Planes, width: int, height: int) -> Picture:
    """Return the planes as a picture of a size; a smaller one is averaged first."""
    picture, begun = begin_picture(planes, width, height)
    if begun is not None:
        begun.finish()
    return picture


def begin_picture(planes: Planes, width: int, height: int) -> tuple[Picture, Begun | None]:
    """As `picture_of`, whole once the second thing returned is finished, where there is one: others are at it."""
    ys, us, vs, halvings = planes.y, planes.u, planes.v, planes.halvings
    half = halvings == (1, 1) and (2 * width, 2 * height) == (ys.shape[1], ys.shape[0])
    if not half and (width, height) != (ys.shape[1], ys.shape[0]):
        size = (width, height)
        ys, us, vs = (
            plane
            if plane.shape == (height, width)
            else np.asarray(cv2.resize(plane, size, interpolation=_by(plane, size)), plane.dtype)
            for plane in (ys, us, vs)
        )
        halvings = (0, 0)
    red, blue = planes.weights
    green = 1 - red - blue
    more = 1 << (planes.bits - 8)
    whole = (1 << planes.bits) - 1
    luma, chroma = (whole, whole) if planes.full else (219 * more, 224 * more)
    v, u = 2 * (1 - red) / chroma, 2 * (1 - blue) / chroma
    numbers = (0 if planes.full else 16 * more, 1 / luma, v, u * blue / green, v * red / green, u, 128 * more)
    out = np.empty((height, width, 4), np.float32)
    k = np.array(numbers, np.float32)
    if half:
        return out, begin_rows(_coloured_half, height, ys, us, vs, k, out)
    return out, begin_rows(_coloured, height, ys, us, vs, halvings, k, out)


def _by(plane: Codes, size: tuple[int, int]) -> int:
    return cv2.INTER_AREA if plane.shape[1] >= size[0] and plane.shape[0] >= size[1] else cv2.INTER_LINEAR
