"""The rim of a picture: its alpha grown, shrunk and softened, and colours put over or under it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.blur.filters import WHOLE, gaussian_inside
from nimble_quake.raster.blur.morphology import morphed
from nimble_quake.raster.geometry.grid import Grid, frame_grid
from nimble_quake.raster.geometry.part import Part
from nimble_quake.raster.threads.rows import run_rows

Coverage = NDArray[np.float32]
"""How much is covered, (H, W), 0...1."""


@kernel()
def _alpha(picture, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i] = picture[j, i, 3]


def alpha_of(picture: Picture) -> Coverage:
    """Return a picture's alpha, (H, W)."""
    out = np.empty(picture.shape[:2], np.float32)
    run_rows(_alpha, picture.shape[0], picture, out)
    return out


def grown(alpha: Coverage, radius: float, form: str = "round") -> Coverage:
    """Return an alpha grown by a disc, or shrunk where the radius is below 0; in samples. Edges stay as smooth.

    form: "round", or "square": corners stay corners.
    """
    if abs(radius) < 1e-3:
        return alpha
    way = "grow" if radius > 0 else "shrink"
    return np.asarray(morphed(np.ascontiguousarray(alpha)[..., None], way, form, abs(radius))[..., 0], np.float32)


def softened(alpha: Coverage, sigma: float) -> Coverage:
    """Return an alpha blurred by a Gaussian, in samples."""
    if sigma <= 0.05:
        return alpha
    return np.asarray(gaussian_inside(np.ascontiguousarray(alpha)[..., None], sigma, sigma)[..., 0], np.float32)


@kernel(error_model="numpy")
def _extended(picture, top, low, left, right, copies, out, first, last):
    one = np.float32(1)
    for j in range(first, last):
        if copies:
            out[j] = picture[j]
        row, inside, alpha, wide = min(max(j, top), low), top <= j <= low, out.shape[2] - 1, out.shape[1]
        ends = min(left, wide) if inside else wide  # inside the frame only what lies beside it is filled
        for i in range(ends):
            column, free = min(max(i, left), right), one - picture[j, i, alpha]
            for k in range(alpha + 1):
                out[j, i, k] += picture[row, column, k] * free
        for i in range(max(right + 1, ends), wide):
            column, free = min(max(i, left), right), one - picture[j, i, alpha]
            for k in range(alpha + 1):
                out[j, i, k] += picture[row, column, k] * free


def border_extended(picture: Picture, outer: Grid, size: tuple[float, float], *, fresh: bool = False) -> Picture:
    """Return a picture (H, W, C; its alpha last) on `outer` whose border at a frame of a size (shot pixels) goes on.

    What is there already lies over it. So a picture that fills the frame has no rim where the frame ends. fresh: it
    was made for this alone, and is written into.
    """
    frame = frame_grid(*size, outer.scale)
    rows, columns = outer.inside(frame)
    down, across = np.arange(rows.start, rows.stop), np.arange(columns.start, columns.stop)
    beyond = (down < 0) | (down >= frame.height), (across < 0) | (across >= frame.width)
    if not beyond[0].any() and not beyond[1].any():
        return picture
    low, right = frame.height - 1 - rows.start, frame.width - 1 - columns.start
    top, left = -rows.start, -columns.start
    if top >= picture.shape[0] or left >= picture.shape[1] or low < 0 or right < 0:
        return picture  # it sees nothing of the frame
    across_view, down_view = slice(max(left, 0), right + 1), slice(max(top, 0), low + 1)
    seen_rows = [row for row in (top, low) if 0 <= row < picture.shape[0]]
    seen_columns = [column for column in (left, right) if 0 <= column < picture.shape[1]]
    touches = picture[seen_rows, across_view, -1].any() or picture[down_view, seen_columns, -1].any()
    if not touches:
        return picture
    out = picture if fresh else np.empty(picture.shape, np.float32)
    run_rows(_extended, picture.shape[0], picture, top, low, left, right, not fresh, out)
    return out


@kernel(error_model="numpy", slp=True, loops=False)
def _refilled(own, colours, alpha, out, first, last):
    """The four channels in one instruction; the alpha is put in its place after."""
    zero, one, whole, least = np.float32(0), np.float32(1), np.float32(0.999), np.float32(1e-6)
    i1, i2, i3 = np.uint64(1), np.uint64(2), np.uint64(3)
    for j in range(first, last):
        row, soft, made = own[j], colours[j].reshape(-1), out[j].reshape(-1)
        for i in range(out.shape[1]):
            n, a = np.uint64(4 * i), alpha[j, i]
            if row[i, 3] > whole:
                r, g, b, o = row[i, 0], row[i, 1], row[i, 2], row[i, 3]
            else:
                under = max(soft[n + i3], least)
                r, g, b, o = soft[n] / under, soft[n + i1] / under, soft[n + i2] / under, soft[n + i3] / under
            r, g, b, o = max(r, zero), max(g, zero), max(b, zero), max(o, zero)
            r, g, b, o = min(r, one) * a, min(g, one) * a, min(b, one) * a, min(o, one) * a
            made[n], made[n + i1], made[n + i2], made[n + i3] = r, g, b, o
        for i in range(out.shape[1]):
            made[np.uint64(4 * i) + i3] = alpha[j, i]


def refilled(own: Picture, colours: Picture, alpha: Coverage) -> Picture:
    """Return a picture with another alpha: where it was not solid before, its colours are those of a soft copy."""
    out = np.empty(own.shape, np.float32)
    run_rows(_refilled, own.shape[0], own, np.ascontiguousarray(colours), alpha, out)
    return out


@kernel(error_model="numpy")
def _under(picture, fraction, colour, out, first, last):
    one = np.float32(1)
    for j in range(first, last):
        for i in range(out.shape[1]):
            left = (one - picture[j, i, 3]) * fraction[j, i]
            for k in range(4):
                out[j, i, k] = picture[j, i, k] + colour[k] * left


@kernel(error_model="numpy")
def _over(picture, fraction, colour, out, first, last):
    one = np.float32(1)
    for j in range(first, last):
        for i in range(out.shape[1]):
            left = one - colour[3] * fraction[j, i]
            for k in range(4):
                out[j, i, k] = colour[k] * fraction[j, i] + picture[j, i, k] * left


@kernel(error_model="numpy")
def _add_light(flat, fractions, power, colour, within, keeps):
    """Add light of a colour to a row. keeps: of each channel, 1 where it is screened, 0 where it is summed."""
    one, i1, i2, i3 = np.float32(1), np.uint64(1), np.uint64(2), np.uint64(3)
    red, green, blue, whole = colour[0], colour[1], colour[2], colour[3]
    k0, k1, k2, k3 = keeps[0], keeps[1], keeps[2], keeps[3]
    for i in range(len(fractions)):
        n, f = np.uint64(4 * i), fractions[i] * power
        r, g, b, a = flat[n], flat[n + i1], flat[n + i2], flat[n + i3]
        most = a if within else one
        m0, m1, m2, m3 = min(red * f, one), min(green * f, one), min(blue * f, one), min(whole * f, one)
        m0, m1, m2, m3 = m0 * (most - r * k0), m1 * (most - g * k1), m2 * (most - b * k2), m3 * (most - a * k3)
        flat[n], flat[n + i1], flat[n + i2], flat[n + i3] = r + m0, g + m1, b + m2, a + m3


@kernel(error_model="numpy", slp=True)
def _lit(picture, fractions, powers, colour, within, keeps, out, first, last):
    """One light after the other, while a row is at hand."""
    for j in range(first, last):
        row = out[j]
        for i in range(len(row)):
            row[i, 0], row[i, 1], row[i, 2], row[i, 3] = (
                picture[j, i, 0],
                picture[j, i, 1],
                picture[j, i, 2],
                picture[j, i, 3],
            )
        flat = row.reshape(-1)
        for n in range(len(fractions)):
            _add_light(flat, fractions[n][j], powers[n], colour, within, keeps)


@kernel(error_model="numpy")
def _shaded(picture, more, out, first, last):
    """`more` may be less than nothing; no colour leaves what its alpha allows."""
    zero = np.float32(0)
    for j in range(first, last):
        for i in range(out.shape[1]):
            alpha = picture[j, i, 3]
            for k in range(3):
                out[j, i, k] = min(max(picture[j, i, k] + more[j, i] * alpha, zero), alpha)
            out[j, i, 3] = alpha


def shaded(picture: Picture, more: Coverage) -> Picture:
    """Return a picture with so much light more, or less where that is negative; both (H, W)."""
    out = np.empty(picture.shape, np.float32)
    run_rows(_shaded, picture.shape[0], picture, np.ascontiguousarray(more), out)
    return out


@kernel(error_model="numpy", slp=True)
def _thinned(picture, top, left, fraction, out, first, last):
    i1, i2, i3 = np.uint64(1), np.uint64(2), np.uint64(3)
    for j in range(first, last):
        row, made = picture[top + j].reshape(-1)[4 * left :], out[j].reshape(-1)
        for i in range(out.shape[1]):
            n, f = np.uint64(4 * i), fraction[j, i]
            made[n], made[n + i1], made[n + i2], made[n + i3] = (
                row[n] * f,
                row[n + i1] * f,
                row[n + i2] * f,
                row[n + i3] * f,
            )


def thinned(picture: Picture, fraction: Coverage, part: Part = WHOLE) -> Picture:
    """Return so much of a picture (H, W, 4), or of a part of it, as a fraction (h, w) says."""
    out = np.empty((*fraction.shape, 4), np.float32)
    top, left = (span.indices(size)[0] for span, size in zip(part, picture.shape[:2], strict=True))
    picture, fraction = np.ascontiguousarray(picture), np.ascontiguousarray(fraction, np.float32)
    run_rows(_thinned, len(out), picture, top, left, fraction, out)
    return out


def _premultiplied(colour: tuple[float, ...]) -> NDArray[np.float32]:
    r, g, b, a = colour
    return np.array((r * a, g * a, b * a, a), np.float32)


def laid_under(picture: Picture, fraction: Coverage, colour: tuple[float, ...]) -> Picture:
    """Return a picture with a colour (straight RGBA) under it where `fraction` says."""
    out = np.empty_like(picture)
    run_rows(_under, picture.shape[0], picture, np.ascontiguousarray(fraction), _premultiplied(colour), out)
    return out


def laid_over(picture: Picture, fraction: Coverage, colour: tuple[float, ...]) -> Picture:
    """Return a picture with a colour (straight RGBA) over it where `fraction` says."""
    out = np.empty_like(picture)
    run_rows(_over, picture.shape[0], picture, np.ascontiguousarray(fraction), _premultiplied(colour), out)
    return out


def lit_by(
    picture: Picture, fraction: Coverage, colour: tuple[float, ...], *, within: bool = False, linear: bool = False
) -> Picture:
    """Return a picture with light of a colour added. within: only where the picture is. linear: as a plain sum."""
    return lit_by_all(picture, ((fraction, 1.0),), colour, within=within, linear=linear)


def lit_by_all(
    picture: Picture,
    lights: tuple[tuple[Coverage, float], ...],
    colour: tuple[float, ...],
    *,
    within: bool = False,
    linear: bool = False,
) -> Picture:
    """Return a picture with lights of a colour added, one over the other: each a fraction, and its power.

    within, linear: as in `lit_by`. Light that is not linear is screen (W3C Compositing 1), which never clips.
    """
    fractions = tuple(np.ascontiguousarray(fraction, np.float32) for fraction, _ in lights)
    powers = np.array([power for _, power in lights], np.float32)
    keeps = np.array((0, 0, 0, 1) if linear else (1, 1, 1, 1), np.float32)
    out = np.empty(picture.shape, np.float32)
    run_rows(_lit, picture.shape[0], picture, fractions, powers, _premultiplied(colour), within, keeps, out)
    return out
