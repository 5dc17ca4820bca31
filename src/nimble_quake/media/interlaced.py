"""Interlaced footage: two moments in one frame, line by line. One of them is kept, its missing lines drawn between."""

from __future__ import annotations

import numpy as np


def one_field(lines: np.ndarray, *, lower: bool = False) -> np.ndarray:
    """Return a frame (H, W, C), uint8 or uint16, of one field alone: the upper one's lines 0, 2, 4 ..., or the lower
    one's 1, 3, 5 ..., are as they were.

    The others are drawn between by the cubic through the four next lines of the field (-1, 9, 9, -1) / 16: Keys, 1981,
    with a = -1/2, halfway.
    """
    if lower and len(lines) < 2:
        return lines.copy()
    kept = int(lower)
    field = lines[kept::2].astype(np.float32)
    count = len(field)
    first = -1 if lower else 0  # which line of the field lies before the first one that is drawn
    missing = np.arange(len(lines[1 - kept :: 2])) + first
    near = [field[np.clip(missing + k, 0, count - 1)] for k in (-1, 0, 1, 2)]
    between = (9 * (near[1] + near[2]) - near[0] - near[3]) / 16
    out = lines.copy()
    out[1 - kept :: 2] = np.clip(np.rint(between), 0, np.iinfo(lines.dtype).max).astype(lines.dtype)
    return out
