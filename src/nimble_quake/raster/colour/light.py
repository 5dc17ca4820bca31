"""Pictures between sRGB-encoded values and linear light (IEC 61966-2-1:1999), premultiplied."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.channels import linear_to_srgb, srgb_to_linear
from nimble_quake.raster.threads.rows import run_rows

ENTRIES = 4096
"""Of the tables between 0 and 1; linear between them, so the error stays under a millionth."""
KNEE = np.float32(0.0031308)
"""Below this linear value the encoding is a straight line."""
DECODED: NDArray[np.float32] = srgb_to_linear(np.linspace(0, 1, ENTRIES + 2, dtype=np.float32) * (1 + 1 / ENTRIES))
ENCODED: NDArray[np.float32] = linear_to_srgb(
    (np.linspace(0, 1, ENTRIES + 2) * (1 + 1 / ENTRIES)).astype(np.float32) ** 2
)
"""By the root of the linear value, where the curve is nearly straight."""


@kernel(error_model="numpy")
def _changed(picture, table, decodes, out, first, last):
    zero, one, top = np.float32(0), np.float32(1), np.float32(ENTRIES)
    for j in range(first, last):
        for i in range(out.shape[1]):
            alpha = picture[j, i, 3]
            out[j, i, 3] = alpha
            if not alpha > zero:
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = zero, zero, zero
                continue
            per = one / alpha
            for k in range(3):
                v = max(picture[j, i, k] * per, zero)
                if decodes:
                    if v <= one:
                        place = v * top
                        n = int(place)
                        v = table[n] + (table[n + 1] - table[n]) * (place - np.float32(n))
                    else:
                        v = ((v + np.float32(0.055)) / np.float32(1.055)) ** np.float32(2.4)
                elif v <= KNEE:
                    v = v * np.float32(12.92)
                elif v <= one:
                    place = np.sqrt(v) * top
                    n = int(place)
                    v = table[n] + (table[n + 1] - table[n]) * (place - np.float32(n))
                else:
                    v = np.float32(1.055) * v ** np.float32(1 / 2.4) - np.float32(0.055)
                out[j, i, k] = v * alpha


@lru_cache(maxsize=16)
def _exposures(gains: tuple[float, ...]) -> NDArray[np.float32]:
    """A table for each colour, (3, ENTRIES + 2): what becomes of encoded values 0...1 whose light is so much more."""
    light = np.clip(DECODED * np.array(gains, np.float32)[:, None], 0, 1)
    return np.asarray(linear_to_srgb(light), np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _looked_up(picture, tables, out, first, last):
    zero, one, top, size = np.float32(0), np.float32(1), np.float32(ENTRIES), np.uint64(tables.shape[1])
    flat, next_one = tables.reshape(-1), np.uint64(1)
    for j in range(first, last):
        for i in range(out.shape[1]):
            for k in range(3):
                place = min(max(picture[j, i, k], zero), one) * top
                n = np.int32(place)
                at = size * np.uint64(k) + np.uint64(n)  # unsigned: no number is looked at for its sign
                low = flat[at]
                out[j, i, k] = low + (flat[at + next_one] - low) * (place - np.float32(n))
            out[j, i, 3] = picture[j, i, 3]


def exposed(picture: Picture, gains: NDArray[np.float32]) -> Picture:
    """Return straight encoded colours (H, W, 4), clamped to 0...1, whose light is `gains` (red, green, blue) as much.

    By tables, linear between entries: within a fifteenth of a level of 8 bits where it clips, far nearer elsewhere.
    """
    out = np.empty(picture.shape, np.float32)
    run_rows(_looked_up, picture.shape[0], picture, _exposures(tuple(gains.tolist())), out)
    return out


def to_linear(picture: Picture) -> Picture:
    """Return an encoded picture (H, W, 4) as linear light."""
    out = np.empty(picture.shape, np.float32)
    run_rows(_changed, picture.shape[0], picture, DECODED, True, out)
    return out


def to_encoded(picture: Picture) -> Picture:
    """Return a picture (H, W, 4) of linear light as encoded values."""
    out = np.empty(picture.shape, np.float32)
    run_rows(_changed, picture.shape[0], picture, ENCODED, False, out)
    return out


def linear_colour(colour: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """Return a straight encoded RGBA as linear light; its alpha stays."""
    r, g, b = (float(v) for v in srgb_to_linear(np.array(colour[:3], np.float32)))
    return r, g, b, colour[3]
