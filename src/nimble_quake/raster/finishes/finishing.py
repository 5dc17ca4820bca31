"""What finishes do to a picture pixel by pixel, each in one pass over its rows."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import LUMA_709, Picture
from nimble_quake.kernels import kernel
from nimble_quake.raster.blur.filters import few_rows, gaussian_inside, phases, spline_row
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.geometry.part import Part
from nimble_quake.raster.noise.hashes import mixed
from nimble_quake.raster.threads.rows import run_rows

R, G, B = (np.float32(part) for part in LUMA_709)


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _lit(own, light, power, tint, tinted, most, screened, out, first, last):
    row = np.empty((out.shape[1], 4), np.float32)
    for j in range(first, last):
        if not tinted:
            _add_light(own[j], light[j], power, most, screened, out[j])
            continue
        for i in range(len(row)):
            for k in range(4):
                row[i, k] = light[j, i, 3] * tint[k]
        _add_light(own[j], row, power, most, screened, out[j])


@kernel(inline="always")
def _add_light(own, light, power, most, screened, out):
    """Light and light: their sum where they are linear, else screen, which never passes white.

    most: of the light of each channel; screened: 1 for those that are screened, else 0.
    """
    zero, one = np.float32(0), np.float32(1)
    for i in range(len(out)):
        r, g = min(max(light[i, 0] * power, zero), most[0]), min(max(light[i, 1] * power, zero), most[1])
        b, a = min(max(light[i, 2] * power, zero), most[2]), min(max(light[i, 3] * power, zero), most[3])
        out[i, 0] = own[i, 0] + r * (one - own[i, 0] * screened[0])
        out[i, 1] = own[i, 1] + g * (one - own[i, 1] * screened[1])
        out[i, 2] = own[i, 2] + b * (one - own[i, 2] * screened[2])
        out[i, 3] = own[i, 3] + a * (one - own[i, 3] * screened[3])


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _glowed(own, small, f, phases, top, power, tint, tinted, most, screened, out, first, last):
    """As `_lit`, with light of which only one in f rows is there."""
    light = np.empty((out.shape[1], 4), np.float32)
    flat = light.reshape(-1)
    for j in range(first, last):
        spline_row(small, f, phases, j + top, flat)
        if tinted:
            for i in range(len(light)):
                alpha = light[i, 3]
                for k in range(4):
                    light[i, k] = alpha * tint[k]
        _add_light(own[j], light, power, most, screened, out[j])


def _how_added(linear: bool) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return for each channel how much light there may be, and whether it is screened."""
    most, screened = (np.inf, 0.0) if linear else (1.0, 1.0)
    return np.array((most, most, most, 1.0), np.float32), np.array((screened, screened, screened, 1.0), np.float32)


def glowed(
    own: Picture,
    source: Picture,
    part: Part,
    sigma: float,
    power: float,
    tint: tuple[float, ...] | None,
    *,
    linear: bool = False,
) -> Picture:
    """Return a picture with a blur of a larger one (of which it is `part`) added as light adds; see `lit`."""
    few = few_rows(source, sigma, part)
    if few is None:
        return lit(own, gaussian_inside(source, sigma, sigma, part), power, tint, linear=linear)
    small, f, top = few
    out = np.empty(own.shape, np.float32)
    colour = np.array((*(tint or (1.0, 1.0, 1.0))[:3], 1.0), np.float32)
    run_rows(
        _glowed,
        own.shape[0],
        own,
        small.reshape(len(small), -1),
        f,
        phases(f),
        top,
        np.float32(power),
        colour,
        tint is not None,
        *_how_added(linear),
        out,
    )
    return out


def lit(own: Picture, light: Picture, power: float, tint: tuple[float, ...] | None, *, linear: bool = False) -> Picture:
    """Return a picture with light added; tinted: its alpha in one colour.

    Linear light is summed; of encoded colours it is screen (W3C Compositing 1), which looks alike and never clips.
    """
    out = np.empty(own.shape, np.float32)
    colour = np.array((*(tint or (1.0, 1.0, 1.0))[:3], 1.0), np.float32)
    run_rows(_lit, own.shape[0], own, light, np.float32(power), colour, tint is not None, *_how_added(linear), out)
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _bright_parts(picture, above, per, gain, kept, out, first, last):
    one, zero = np.float32(1), np.float32(0)
    for j in range(first, last):
        for i in range(out.shape[1]):
            r, g, b, a = picture[j, i, 0], picture[j, i, 1], picture[j, i, 2], picture[j, i, 3]
            fraction = min(max((R * r + G * g + B * b - above) * per, zero), one)
            times = kept + gain * fraction
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = r * times, g * times, b * times
            out[j, i, 3] = a if kept > zero else a * fraction


def bright_parts(picture: Picture, above: float) -> Picture:
    """Return what of a picture is brighter than a level, fading in up to white."""
    out, per = np.empty(picture.shape, np.float32), 1 / max(1e-3, 1 - above)
    run_rows(
        _bright_parts, picture.shape[0], picture, np.float32(above), np.float32(per), np.float32(1), np.float32(0), out
    )
    return out


def with_lamps(picture: Picture, above: float, gain: float) -> Picture:
    """Return a picture whose parts brighter than a level are up to `1 + gain` times as bright: brighter than white."""
    out, per = np.empty(picture.shape, np.float32), 1 / max(1e-3, 1 - above)
    run_rows(
        _bright_parts,
        picture.shape[0],
        picture,
        np.float32(above),
        np.float32(per),
        np.float32(gain),
        np.float32(1),
        out,
    )
    return out


@kernel(error_model="numpy")
def _clipped(picture, first, last):
    one, zero = np.float32(1), np.float32(0)
    for j in range(first, last):
        for i in range(picture.shape[1]):
            alpha = min(max(picture[j, i, 3], zero), one)
            picture[j, i, 3] = alpha
            for k in range(3):
                picture[j, i, k] = min(max(picture[j, i, k], zero), alpha)


def clipped(picture: Picture) -> Picture:
    """Hold a picture to what premultiplied colours may be, in place."""
    run_rows(_clipped, picture.shape[0], picture)
    return picture


@kernel(error_model="numpy", fastmath={"contract"})
def _grained(picture, columns, y0, step, size, tick, seed, channels, amount, tones, out, first, last):
    """One value a cell: found once for a row of cells, laid over the samples of a row, then mixed."""
    zero, one, half, four = np.float32(0), np.float32(1), np.float32(0.5), np.float32(4)
    begin, count, wide = columns[0], int(columns[-1] - columns[0]) + 1, out.shape[1]
    cells, noise = np.zeros(count, np.float32), np.zeros(3 * wide, np.float32)
    second, third = (wide, 2 * wide) if channels == 3 else (0, 0)
    before = -(2**62)
    for j in range(first, last):
        row = int(math.floor((y0 + (j + 0.5) * step) / size + 1e-6))
        if row != before:
            before = row
            for k in range(channels):
                for n in range(count):
                    cells[n] = (np.float32(mixed(begin + n, row * 4 + k, tick, seed)) - half) * amount
                for i in range(wide):
                    noise[k * wide + i] = cells[columns[i] - begin]
        source, made = picture[j], out[j]
        for i in range(wide):
            r, g, b, a = source[i, 0], source[i, 1], source[i, 2], source[i, 3]
            bright = min(max(R * r + G * g + B * b, zero), one)
            times = a * (one - tones * (one - four * bright * (one - bright)))
            made[i, 0] = min(max(r + noise[i] * times, zero), a)
            made[i, 1] = min(max(g + noise[i + second] * times, zero), a)
            made[i, 2] = min(max(b + noise[i + third] * times, zero), a)
            made[i, 3] = a


def grained(
    picture: Picture, grid: Grid, size: float, tick: int, seed: int, amount: float, tones: float, *, colour: bool
) -> Picture:
    """Return a picture with grain: every cell of `size` shot pixels brighter or darker by chance, up to half `amount`.

    tones: how much black and white are spared. Where a sample holds several cells their mean is taken: the amount is
    made smaller by the root of their number, as the spread of a mean is.
    """
    cells = max(1.0, grid.step / size)
    cell, strength = (size, amount) if cells <= 1 else (grid.step, amount / cells)
    columns = np.floor(grid.xs().astype(np.float64) / cell + 1e-6).astype(np.int64)
    out = np.empty(picture.shape, np.float32)
    run_rows(
        _grained,
        picture.shape[0],
        picture,
        columns,
        float(grid.y0),
        float(grid.step),
        float(cell),
        int(tick),
        int(seed),
        3 if colour else 1,
        np.float32(strength),
        np.float32(tones),
        out,
    )
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _lined(soft, own, top, left, width, threshold, per, power, ink, shows, paper, out, first, last):
    """Sobel's slopes of the brightness and of the alpha, the steeper of the two; sums of rows run along memory."""
    zero, one, two, three, eighth = np.float32(0), np.float32(1), np.float32(2), np.float32(3), np.float32(0.125)
    rows, columns, wide = soft.shape[0] - 1, soft.shape[1], out.shape[1]
    total, differs = np.empty(2 * columns + 4, np.float32), np.empty(2 * columns + 4, np.float32)
    steep, lines = np.empty(2 * columns, np.float32), np.empty(wide, np.float32)
    flat = soft.reshape(soft.shape[0], 2 * columns)  # brightness and alpha by turns
    here_on, red, green, blue, whole = steep[2 * left :], ink[0], ink[1], ink[2], ink[3]
    for j in range(first, last):
        y = j + top
        above, here, below = flat[max(y - 1, 0)], flat[y], flat[min(y + 1, rows)]
        for n in range(2 * columns):
            total[n + 2] = above[n] + two * here[n] + below[n]
            differs[n + 2] = below[n] - above[n]
        for n in range(2):  # the border goes on
            total[n], differs[n] = total[n + 2], differs[n + 2]
            total[2 * columns + 2 + n], differs[2 * columns + 2 + n] = total[2 * columns + n], differs[2 * columns + n]
        for n in range(2 * columns):
            across = (total[n + 4] - total[n]) * eighth
            along = (differs[n] + two * differs[n + 2] + differs[n + 4]) * eighth
            steep[n] = across * across + along * along
        for i in range(wide):
            most = max(here_on[2 * i], here_on[2 * i + 1])
            t = min(max((np.sqrt(most) * width - threshold) * per, zero), one)
            lines[i] = min(t * t * (three - two * t) * power, one)
        source, made = own[j], out[j]
        for i in range(wide):
            line, white = lines[i], source[i, 3] * paper
            left_over, not_white = one - whole * line, (one - white) * shows
            made[i, 0] = red * line + (white + source[i, 0] * not_white) * left_over
            made[i, 1] = green * line + (white + source[i, 1] * not_white) * left_over
            made[i, 2] = blue * line + (white + source[i, 2] * not_white) * left_over
            made[i, 3] = whole * line + (white + source[i, 3] * not_white) * left_over


def lined(
    soft: NDArray[np.float32],
    own: Picture,
    corner: tuple[int, int],
    width: float,
    threshold: float,
    smooth: float,
    power: float,
    ink: tuple[float, ...],
    shows: float,
    paper: float,
) -> Picture:
    """Return a picture drawn in lines. soft: its softened brightness and alpha, (H, W, 2), which begins `corner`
    (rows, columns) before the picture; width: samples; ink: straight RGBA; shows: share of the picture that stays."""
    out = np.empty(own.shape, np.float32)
    r, g, b, a = ink
    colour = np.array((r * a, g * a, b * a, a), np.float32)
    numbers = (np.float32(v) for v in (width, threshold, 1 / max(smooth, 1e-6), power))
    run_rows(_lined, own.shape[0], soft, own, *corner, *numbers, colour, np.float32(shows), np.float32(paper), out)
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _tones(picture, out, first, last):
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i, 0] = R * picture[j, i, 0] + G * picture[j, i, 1] + B * picture[j, i, 2]
            out[j, i, 1] = picture[j, i, 3]


def brightness_and_alpha(picture: Picture) -> NDArray[np.float32]:
    """Return a picture's BT.709 brightness and its alpha, (H, W, 2)."""
    out = np.empty((*picture.shape[:2], 2), np.float32)
    run_rows(_tones, picture.shape[0], picture, out)
    return out


@kernel(error_model="numpy", fastmath={"contract"})
def _worn(picture, keep, shade, scratch, scratch_by, specks, out, first, last):
    zero, one, dark = np.float32(0), np.float32(1), np.float32(0.9)
    for j in range(first, last):
        for i in range(out.shape[1]):
            r, g, b, a = picture[j, i, 0], picture[j, i, 1], picture[j, i, 2], picture[j, i, 3]
            grey = R * r + G * g + B * b
            light, left = scratch[j, i] * scratch_by * a, one - dark * specks[j, i]
            for k in range(3):
                v = r if k == 0 else g if k == 1 else b
                v = (grey + (v - grey) * keep) * shade[k]
                v = (v + light * (a - v)) * left
                out[j, i, k] = min(max(v, zero), a)
            out[j, i, 3] = a


def worn(
    picture: Picture,
    fade: float,
    shade: NDArray[np.float32],
    scratch: NDArray[np.float32],
    scratch_by: float,
    specks: NDArray[np.float32],
) -> Picture:
    """Return a picture as an old print. fade: colour lost; shade: (3,) what red, green and blue are multiplied by;
    scratch and specks: (H, W) where it is scratched and dusty."""
    out = np.empty(picture.shape, np.float32)
    run_rows(
        _worn, picture.shape[0], picture, np.float32(1 - fade), shade, scratch, np.float32(scratch_by), specks, out
    )
    return out
