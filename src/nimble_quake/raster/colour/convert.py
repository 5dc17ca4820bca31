"""Between the bytes of files and screens and our float pictures."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Bytes8, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.threads.rows import run_rows


@kernel()
def _premultiply(source, most, out, first, last):
    scale = np.float32(1.0) / np.float32(most)
    for j in range(first, last):
        for i in range(source.shape[1]):
            alpha = np.float32(source[j, i, 3]) * scale
            if source[j, i, 3] == most:
                alpha = np.float32(1.0)
            for k in range(3):
                out[j, i, k] = np.float32(source[j, i, k]) * scale * alpha
            out[j, i, 3] = alpha


def premultiplied(rgba: np.ndarray) -> Picture:
    """Return straight 8- or 16-bit RGBA (H, W, 4) as a float32 premultiplied picture."""
    out = np.empty(rgba.shape, np.float32)
    most = 255 if rgba.dtype == np.uint8 else 65535
    run_rows(_premultiply, rgba.shape[0], rgba, most, out)
    return out


@kernel()
def _inked(coverage, ink, out, first, last):
    red, green, blue, alpha = ink[0], ink[1], ink[2], ink[3]
    for j in range(first, last):
        row, made = coverage[j], out[j]
        for i in range(coverage.shape[1]):
            fraction = np.float32(row[i]) / np.float32(255)
            made[i, 0], made[i, 1], made[i, 2], made[i, 3] = (
                red * fraction,
                green * fraction,
                blue * fraction,
                alpha * fraction,
            )


def inked(coverage: Bytes8, rgba: tuple[float, float, float, float]) -> Picture:
    """Return what a straight colour shows where it covers (H, W) of 255 of each pixel."""
    out = np.empty((*coverage.shape, 4), np.float32)
    r, g, b, a = rgba
    run_rows(_inked, coverage.shape[0], coverage, np.array((r * a, g * a, b * a, a), np.float32), out)
    return out


@kernel()
def _to_screen(picture, ground, out, first, last):
    top, half, zero, one = np.float32(255), np.float32(0.5), np.float32(0), np.float32(1)
    red, green, blue = ground[0], ground[1], ground[2]
    for j in range(first, last):
        row, made = picture[j], out[j]
        for i in range(picture.shape[1]):
            rest = one - row[i, 3]
            made[i, 0] = np.uint8(min(max((row[i, 2] + blue * rest) * top + half, zero), top))
            made[i, 1] = np.uint8(min(max((row[i, 1] + green * rest) * top + half, zero), top))
            made[i, 2] = np.uint8(min(max((row[i, 0] + red * rest) * top + half, zero), top))
            made[i, 3] = np.uint8(255)


def to_screen(picture: Picture, ground: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> Bytes8:
    """Return a picture laid over an opaque ground as BGRX bytes, as QImage.Format_RGB32 wants them."""
    out = np.empty(picture.shape, np.uint8)
    run_rows(_to_screen, picture.shape[0], picture, np.array(ground, np.float32), out)
    return out


@kernel()
def _straight8(picture, out, first, last):
    top, half, zero, one = np.float32(255.0), np.float32(0.5), np.float32(0.0), np.float32(1.0)
    for j in range(first, last):
        for i in range(picture.shape[1]):
            alpha = min(max(picture[j, i, 3], zero), one)
            back = one / alpha if alpha > zero else zero
            for k in range(3):
                out[j, i, k] = np.uint8(min(max(picture[j, i, k] * back, zero), one) * top + half)
            out[j, i, 3] = np.uint8(alpha * top + half)


def to_rgba8(picture: Picture) -> Bytes8:
    """Return straight 8-bit RGBA."""
    out = np.empty(picture.shape, np.uint8)
    run_rows(_straight8, picture.shape[0], picture, out)
    return out


def to_rgba16(picture: Picture) -> NDArray[np.uint16]:
    """Return straight 16-bit RGBA."""
    alpha = np.clip(picture[..., 3:], 0, 1)
    colour = np.divide(picture[..., :3], alpha, out=np.zeros_like(picture[..., :3]), where=alpha > 0)
    straight = np.concatenate([np.clip(colour, 0, 1), alpha], axis=2)
    return (straight.astype(np.float64) * 65535 + 0.5).astype(np.uint16)


def to_grey8(values: NDArray[np.float32]) -> Bytes8:
    """Return values 0...1 (H, W) as bytes."""
    return (np.clip(values, 0, 1) * np.float32(255) + np.float32(0.5)).astype(np.uint8)
