"""Blend modes of W3C Compositing and Blending Level 1, over premultiplied pictures.

co = cs as (1 - ab) + as ab B(cb, cs) + (1 - as) ab cb;  ao = as + ab (1 - as)     (co premultiplied)
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Picture
from nimble_quake.kernels import kernel
from nimble_quake.kernels.pools.native import Begun
from nimble_quake.raster.threads.rows import begin_rows, run_rows

MODES = (
    *("normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light"),
    *("soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity", "plus-lighter"),
)
"""The W3C names; plus-lighter is Porter-Duff "lighter": add, clipped at white."""


@kernel(error_model="numpy")
def _separable(mode, b, s):
    """One straight colour by one of the modes that `_simple` does not handle."""
    if mode == 3:
        return 2 * b * s if b <= 0.5 else s + (2 * b - 1) - s * (2 * b - 1)
    if mode == 6:
        if b <= 0:
            return 0.0
        return 1.0 if s >= 1 else min(1.0, b / (1 - s))
    if mode == 7:
        if b >= 1:
            return 1.0
        return 0.0 if s <= 0 else 1 - min(1.0, (1 - b) / s)
    if mode == 8:
        return 2 * b * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)
    if mode == 9:
        if s <= 0.5:
            return b - (1 - 2 * s) * b * (1 - b)
        d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
        return b + (2 * s - 1) * (d - b)
    return s


@kernel(error_model="numpy")
def _lum(r, g, b):
    return 0.3 * r + 0.59 * g + 0.11 * b


@kernel(error_model="numpy")
def _set_lum(r, g, b, to):
    d = to - _lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    middle, low, high = _lum(r, g, b), min(r, g, b), max(r, g, b)
    if low < 0:
        k = middle / (middle - low)
        r, g, b = middle + (r - middle) * k, middle + (g - middle) * k, middle + (b - middle) * k
    if high > 1:
        k = (1 - middle) / (high - middle)
        r, g, b = middle + (r - middle) * k, middle + (g - middle) * k, middle + (b - middle) * k
    return r, g, b


@kernel(error_model="numpy")
def _set_sat(r, g, b, to):
    low, high = min(r, g, b), max(r, g, b)
    if high <= low:
        return 0.0, 0.0, 0.0
    k = to / (high - low)
    return (r - low) * k, (g - low) * k, (b - low) * k


@kernel(error_model="numpy")
def _whole(mode, b, s):
    sat_b = max(b[0], b[1], b[2]) - min(b[0], b[1], b[2])
    sat_s = max(s[0], s[1], s[2]) - min(s[0], s[1], s[2])
    lum_b, lum_s = _lum(b[0], b[1], b[2]), _lum(s[0], s[1], s[2])
    if mode == 12:
        x, y, z = _set_sat(s[0], s[1], s[2], sat_b)
        return _set_lum(x, y, z, lum_b)
    if mode == 13:
        x, y, z = _set_sat(b[0], b[1], b[2], sat_s)
        return _set_lum(x, y, z, lum_b)
    if mode == 14:
        return _set_lum(s[0], s[1], s[2], lum_b)
    return _set_lum(b[0], b[1], b[2], lum_s)


SOME = 128
"""Pixels that are passed over at once where there is nothing in any of them."""


@kernel(inline="always")
def _nothing(row):
    """Whether some pixels are all clear. To the end: eight at once are faster than stopping early."""
    found = np.int32(0)
    for i in range(len(row)):
        a = row[i, 0] != 0
        found = np.int32(found + (1 if (row[i, 3] != 0) | (row[i, 2] != 0) | (row[i, 1] != 0) | a else 0))
    return found == 0


@kernel(inline="always")
def _no_alpha(row):
    """As `_nothing`, where only the alpha counts."""
    found = np.int32(0)
    for i in range(len(row)):
        found = np.int32(found + (1 if row[i, 3] > 0 else 0))
    return found == 0


@kernel(inline="always")
def _some_over(part, beneath, amount):
    """Normal mode: some pixels over others, in place."""
    one = np.float32(1)
    if part[0, 3] == 0 and part[-1, 3] == 0 and _nothing(part):
        return
    for i in range(len(part)):
        rest = one - part[i, 3] * amount
        beneath[i, 0] = part[i, 0] * amount + beneath[i, 0] * rest
        beneath[i, 1] = part[i, 1] * amount + beneath[i, 1] * rest
        beneath[i, 2] = part[i, 2] * amount + beneath[i, 2] * rest
        beneath[i, 3] = part[i, 3] * amount + beneath[i, 3] * rest


@kernel(error_model="numpy", slp=True)
def _over(below, top, left, up, opacity, first, last):
    """Normal mode, in place."""
    wide = top.shape[1]
    for j in range(first, last):
        for begin in range(0, wide, SOME):
            end = min(begin + SOME, wide)
            _some_over(top[j, begin:end], below[j + up, left + begin : left + end], np.float32(opacity))


@kernel(error_model="numpy")
def _over_flat(top, rgba, opacity, out, first, last):
    """As `_over`, where all that lies below is one colour."""
    amount, one = np.float32(opacity), np.float32(1)
    red, green, blue, alpha = rgba[0], rgba[1], rgba[2], rgba[3]
    for j in range(first, last):
        row, made = top[j], out[j]
        for i in range(len(row)):
            rest = one - row[i, 3] * amount
            made[i, 0] = row[i, 0] * amount + red * rest
            made[i, 1] = row[i, 1] * amount + green * rest
            made[i, 2] = row[i, 2] * amount + blue * rest
            made[i, 3] = row[i, 3] * amount + alpha * rest


@kernel(inline="always")
def _simple(mode, s, b, a, c):
    """One colour by one of the modes that need no division: s, b premultiplied, a and c their alphas."""
    out = s + b - s * b  # screen
    if mode == 1:
        out = s * (np.float32(1) - c) + b * (np.float32(1) - a) + s * b
    if mode == 4:
        out = min(s * c, b * a) + s * (np.float32(1) - c) + b * (np.float32(1) - a)
    if mode == 5:
        out = max(s * c, b * a) + s * (np.float32(1) - c) + b * (np.float32(1) - a)
    if mode == 10:
        out = s + b - np.float32(2) * min(s * c, b * a)
    if mode == 11:
        out = s + b - np.float32(2) * s * b
    if mode == 16:
        out = min(s + b, np.float32(1))
    return out


SIMPLE = (1, 2, 4, 5, 10, 11, 16)


@kernel(error_model="numpy")
def _blend_simply(below, top, left, up, opacity, mode, first, last):
    """As `_blend`, all pixels of a row alike."""
    amount, zero, one, wide = np.float32(opacity), np.float32(0), np.float32(1), top.shape[1]
    for j in range(first, last):
        for begin in range(0, wide, SOME):
            row = top[j, begin : min(begin + SOME, wide)]
            under = below[j + up, left + begin : left + begin + len(row)]
            if row[0, 3] <= zero and row[-1, 3] <= zero and _no_alpha(row):
                continue
            for i in range(len(row)):
                there, c = row[i, 3] > zero, under[i, 3]
                fraction = amount if there else zero
                a, r, g, b = row[i, 3] * fraction, row[i, 0] * fraction, row[i, 1] * fraction, row[i, 2] * fraction
                red, green, blue = under[i, 0], under[i, 1], under[i, 2]
                r, g, b = _simple(mode, r, red, a, c), _simple(mode, g, green, a, c), _simple(mode, b, blue, a, c)
                whole = min(a + c, one) if mode == 16 else a + c * (one - a)
                under[i, 0] = r if there else red
                under[i, 1] = g if there else green
                under[i, 2] = b if there else blue
                under[i, 3] = whole if there else c


@kernel(error_model="numpy")
def _blend(below, top, left, up, opacity, mode, first, last):
    cb = np.zeros(3)
    cs = np.zeros(3)
    for j in range(first, last):
        for i in range(top.shape[1]):
            if top[j, i, 3] <= 0.0:
                continue
            y, x = j + up, i + left
            sa = top[j, i, 3] * opacity
            ba = below[y, x, 3]
            for k in range(3):
                cs[k] = top[j, i, k] / top[j, i, 3]
                cb[k] = below[y, x, k] / ba if ba > 0 else 0.0
            if mode >= 12:
                r, g, b = _whole(mode, cb, cs)
            else:
                r = _separable(mode, cb[0], cs[0])
                g = _separable(mode, cb[1], cs[1])
                b = _separable(mode, cb[2], cs[2])
            both = sa * ba
            below[y, x, 0] = cs[0] * sa * (1 - ba) + both * r + (1 - sa) * below[y, x, 0]
            below[y, x, 1] = cs[1] * sa * (1 - ba) + both * g + (1 - sa) * below[y, x, 1]
            below[y, x, 2] = cs[2] * sa * (1 - ba) + both * b + (1 - sa) * below[y, x, 2]
            below[y, x, 3] = sa + ba * (1 - sa)


@kernel(slp=True, loops=False)
def _flat(out, rgba, first, last):
    red, green, blue, alpha = rgba[0], rgba[1], rgba[2], rgba[3]
    for j in range(first, last):
        for i in range(out.shape[1]):
            out[j, i, 0], out[j, i, 1], out[j, i, 2], out[j, i, 3] = red, green, blue, alpha


def flat(shape: tuple[int, int], rgba: Sequence[float] | NDArray[np.float32]) -> Picture:
    """Return a picture of one premultiplied colour, (H, W, 4)."""
    out = np.empty((*shape, 4), np.float32)
    run_rows(_flat, shape[0], out, np.asarray(rgba, np.float32))
    return out


def over_flat(top: Picture, rgba: tuple[float, float, float, float], opacity: float) -> tuple[Picture, Begun | None]:
    """Return a picture over one premultiplied colour: the same bits as blended onto `flat`, in one pass.

    It is whole once the second thing returned is finished, where there is one.
    """
    out = np.empty(top.shape, np.float32)
    return out, begin_rows(_over_flat, top.shape[0], top, np.array(rgba, np.float32), float(opacity), out)


def blend_onto(
    below: Picture, top: Picture, *, mode: str = "normal", opacity: float = 1.0, left: int = 0, up: int = 0
) -> None:
    """Blend `top` onto `below` in place, its first sample at column `left`, row `up`; what lies outside is left out."""
    (rows, columns), (high, wide) = below.shape[:2], top.shape[:2]
    first, last = max(0, -up), min(high, rows - up)
    begin, end = max(0, -left), min(wide, columns - left)
    if opacity <= 0 or last <= first or end <= begin:
        return
    if (last - first, end - begin) != (high, wide):
        top, left, up = top[first:last, begin:end], left + begin, up + first
    if mode == "normal":
        run_rows(_over, top.shape[0], below, top, left, up, opacity)
    else:
        number = MODES.index(mode)
        blend = _blend_simply if number in SIMPLE else _blend
        run_rows(blend, top.shape[0], below, top, left, up, float(opacity), number)
