"""Transfer curves, luminance and channels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import LUMA_709, Field

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


def luminance(rgb: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return BT.709 luma (ITU-R BT.709-6) of the values as given: (H, W, >=3) -> (H, W)."""
    return (rgb[..., :3] @ np.array(LUMA_709, np.float32)).astype(np.float32)


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


def as_channels(field: Field, count: int) -> Field:
    """Return a map with `count` channels (1 -> 2, 1 -> 4, 2 -> 4), so that two maps can be combined."""
    have = field.shape[2]
    if have == count:
        return field
    if have == 1 and count == 2:
        return np.repeat(field, 2, axis=2)
    out = np.ones((*field.shape[:2], 4), np.float32)
    if have == 1:
        out[..., :3] = field
    else:
        out[..., :2] = field
        out[..., 2] = 0.5
    return out
