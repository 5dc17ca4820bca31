"""Transfer curves, luminance and channels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import LUMA_709, Field, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows

CHANNELS = ("value", "red", "green", "blue", "alpha", "luminance", "lightness", "hue", "saturation", "none")


def srgb_to_linear(c: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return linear light of sRGB-encoded values (IEC 61966-2-1:1999)."""
    c = np.asarray(c, np.float32)
    low = c / np.float32(12.92)
    high = np.power((np.maximum(c, 0) + np.float32(0.055)) / np.float32(1.055), np.float32(2.4))
    return np.where(c <= 0.04045, low, high).astype(np.float32)


def linear_to_srgb(c: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return sRGB-encoded values of linear light (IEC 61966-2-1:1999)."""
    c = np.asarray(c, np.float32)
    high = np.float32(1.055) * np.power(np.maximum(c, 0), np.float32(1 / 2.4)) - np.float32(0.055)
    return np.where(c <= 0.0031308, c * np.float32(12.92), high).astype(np.float32)


@kernel(error_model="numpy", fastmath={"contract"})
def _luma(rgb, red, green, blue, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i] = rgb[j, i, 0] * red + rgb[j, i, 1] * green + rgb[j, i, 2] * blue


def luminance(rgb: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return BT.709 luma (ITU-R BT.709-6) of the values as given: (H, W, >=3) -> (H, W)."""
    rgb = np.asarray(rgb, np.float32)
    out = np.empty(rgb.shape[:2], np.float32)
    run_rows(_luma, rgb.shape[0], rgb, *(np.float32(fraction) for fraction in LUMA_709), out)
    return out


def channel(field: Field, name: str, axis: int = 0) -> NDArray[np.float32]:
    """Return one channel of a map as (H, W).

    A value map answers every colour channel with its value, alpha with 1, hue and saturation with 0. A vector map
    answers red with x, green with y, and "value" with the one that belongs to `axis` (0 across, 1 down).
    """
    count = field.shape[2]
    if count == 4:
        return _of_colour(field, name)
    if name == "alpha":
        return np.ones(field.shape[:2], np.float32)
    if name in ("hue", "saturation", "none"):
        return np.zeros(field.shape[:2], np.float32)
    if count == 1:
        return field[..., 0]
    index = {"red": 0, "green": 1, "value": axis}.get(name)
    return field.mean(axis=2) if index is None else field[..., index]


def _of_colour(field: Field, name: str) -> NDArray[np.float32]:
    index = {"red": 0, "green": 1, "blue": 2, "alpha": 3}.get(name)
    if index is not None:
        return field[..., index]
    if name in ("value", "luminance"):
        return luminance(field)
    rgb = field[..., :3]
    high, low = rgb.max(axis=2), rgb.min(axis=2)
    if name == "lightness":
        return (high + low) * np.float32(0.5)
    if name == "saturation":
        return _hsl_saturation(high, low)
    if name == "hue":
        return _hue(rgb, high, low)
    return np.zeros(field.shape[:2], np.float32)


def _hsl_saturation(high: NDArray[np.float32], low: NDArray[np.float32]) -> NDArray[np.float32]:
    """Saturation of CSS Color 4's HSL."""
    span = high - low
    room = 1 - np.abs(high + low - 1)
    return np.where(room > 1e-6, span / np.maximum(room, 1e-6), 0).astype(np.float32)


def _hue(rgb: NDArray[np.float32], high: NDArray[np.float32], low: NDArray[np.float32]) -> NDArray[np.float32]:
    """Hue of CSS Color 4's HSL as a share of the full turn."""
    span = np.maximum(high - low, 1e-6)
    r, g, b = rgb[..., 0], rgb[..., 1], rgb[..., 2]
    turn = np.where(high == r, (g - b) / span % 6, np.where(high == g, (b - r) / span + 2, (r - g) / span + 4))
    return np.where(high - low > 1e-6, turn / 6, 0).astype(np.float32)


@kernel(error_model="numpy")
def _greys(grey, alpha, opacity, out, first, last):
    """Grey values as colours; the alpha is another field's, or (where that has no rows) the opacity."""
    covered = alpha.shape[0] > 0
    for j in range(first, last):
        for i in range(out.shape[1]):
            value = grey[j, i, 0]
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = value, value, value
            out[j, i, 3] = alpha[j, i, 0] * opacity if covered else opacity


def in_colour(grey: Field, alpha: Field | None = None, opacity: float = 1.0) -> Field:
    """Return a value map (H, W, 1) as colours with alpha; alpha: (H, W, 1), by the opacity; None: the opacity alone."""
    out = np.empty((*grey.shape[:2], 4), np.float32)
    none = np.empty((0, 0, 1), np.float32)
    run_rows(_greys, grey.shape[0], grey, none if alpha is None else alpha, np.float32(opacity), out)
    return out


def as_channels(field: Field, count: int) -> Field:
    """Return a map with `count` channels (1 -> 2, 1 -> 4, 2 -> 4), so that two maps can be combined."""
    have = field.shape[2]
    if have == count:
        return field
    if have == 1 and count == 2:
        return np.repeat(field, 2, axis=2)
    if have == 1:
        return in_colour(np.asarray(field, np.float32))
    out = np.ones((*field.shape[:2], 4), np.float32)
    out[..., :2] = field
    out[..., 2] = 0.5
    return out


def as_rgba(field: Field) -> Picture:
    """Return a map's values as a picture, premultiplied RGBA: grey in all three, a vector in red and green."""
    if field.shape[2] == 2:
        field = np.concatenate([field, np.zeros_like(field[..., :1])], axis=2)
    if field.shape[2] == 3:
        field = np.concatenate([field, np.ones_like(field[..., :1])], axis=2)
    out = np.array(as_channels(field, 4), np.float32)
    out[..., :3] *= out[..., 3:]
    return out
