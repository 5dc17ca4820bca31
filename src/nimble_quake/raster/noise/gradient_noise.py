"""Gradient noise, its fractal sums, and the row kernels that make them fast.

`noise3` is the improved noise of Perlin, "Improving Noise" (SIGGRAPH 2002): fade 6t^5 - 15t^4 + 10t^3, 12 + 4
gradients, period 256. The sums are those of Musgrave (Texturing & Modeling, ch. 16): plain fBm, billowy |n|, ridged
(1 - |n|)^2; stringy is (1 - |n|)^8. Other bases than `noise3` are in `raster.noise.bases`.

A picture of noise is a slice of constant z. Along a row of samples, the eight gradients of a lattice cell are folded
over z into four corners of (value, slope x, slope y); that is done once per cell crossed, not once per pixel.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from nimble_quake.kernels import kernel

PERLIN_2002 = np.fromstring(
    """
    151 160 137 91 90 15 131 13 201 95 96 53 194 233 7 225 140 36 103 30 69 142 8 99 37 240 21 10 23 190 6 148 247
    120 234 75 0 26 197 62 94 252 219 203 117 35 11 32 57 177 33 88 237 149 56 87 174 20 125 136 171 168 68 175 74
    165 71 134 139 48 27 166 77 146 158 231 83 111 229 122 60 211 133 230 220 105 92 41 55 46 245 40 244 102 143 54
    65 25 63 161 1 216 80 73 209 76 132 187 208 89 18 169 200 196 135 130 116 188 159 86 164 100 109 198 173 186 3
    64 52 217 226 250 124 123 5 202 38 147 118 126 255 82 85 212 207 206 59 227 47 16 58 17 182 189 28 42 223 183
    170 213 119 248 152 2 44 154 163 70 221 153 101 155 167 43 172 9 129 22 39 253 19 98 108 110 79 113 224 232 178
    185 112 104 218 246 97 228 251 34 242 193 238 210 144 12 191 179 162 241 81 51 145 235 249 14 239 107 49 192 214
    31 181 199 106 157 184 84 204 176 115 121 50 45 127 4 150 254 138 236 205 93 222 114 67 29 24 72 243 141 128 195
    78 66 215 61 156 180
    """,
    np.int64,
    sep=" ",
)
"""The permutation of the 2002 reference; seed 0 uses it."""

SUMS = ("plain", "billowy", "ridged", "stringy")

_GX = np.array([1, -1, 1, -1, 1, -1, 1, -1, 0, 0, 0, 0, 1, 0, -1, 0], np.float64)
_GY = np.array([1, 1, -1, -1, 0, 0, 0, 0, 1, -1, 1, -1, 1, -1, 1, -1], np.float64)
_GZ = np.array([0, 0, 0, 0, 1, 1, -1, -1, 1, 1, -1, -1, 0, 1, 0, -1], np.float64)


@lru_cache(maxsize=64)
def lattice(seed: int) -> NDArray[np.int64]:
    """Return the doubled permutation (512) of a seed; seed 0 is the 2002 reference's."""
    table = PERLIN_2002 if seed == 0 else np.random.Generator(np.random.PCG64(seed)).permutation(256)
    doubled = np.concatenate([table, table]).astype(np.int64)
    doubled.setflags(write=False)
    return doubled


@kernel(inline="always")
def _evenly(a, b, fraction):
    """A lattice value, -1...1, on its way from one hash (0...255) to the next, spread evenly at every moment.

    The sum of two even chances crowds about its middle, so that noise made of it would weaken between two slices.
    It is put through its own distribution function, a trapezium's (the convolution of two rectangles), which spreads
    it evenly again.
    """
    most = max(fraction, 1.0 - fraction)
    least = 1.0 - most
    v = ((1.0 - fraction) * a + fraction * b) / 255.0
    if v < least:
        even = v * v / (2.0 * least * most)
    elif v > most:
        even = 1.0 - (1.0 - v) * (1.0 - v) / (2.0 * least * most)
    else:
        even = (v - least / 2.0) / most
    return 2.0 * even - 1.0


@kernel(inline="always")
def _fade(t):
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@kernel()
def _noise3(x, y, z, perm):
    fx, fy, fz = math.floor(x), math.floor(y), math.floor(z)
    u, v, w = x - fx, y - fy, z - fz
    i, j, k = int(fx) & 255, int(fy) & 255, int(fz) & 255
    total = 0.0
    for a in range(2):
        wa = _fade(u) if a else 1.0 - _fade(u)
        for b in range(2):
            wb = _fade(v) if b else 1.0 - _fade(v)
            for c in range(2):
                wc = _fade(w) if c else 1.0 - _fade(w)
                h = perm[perm[perm[(i + a) & 255] + ((j + b) & 255)] + ((k + c) & 255)] & 15
                total += wa * wb * wc * (_GX[h] * (u - a) + _GY[h] * (v - b) + _GZ[h] * (w - c))
    return total


def noise3(x: float, y: float, z: float, seed: int = 0) -> float:
    """Return the improved noise at one place of the lattice (about -1...1, 0 at lattice points)."""
    return float(_noise3(float(x), float(y), float(z), lattice(seed)))


@kernel(error_model="numpy", fastmath={"contract"}, inline="always")
def _shaped(value, kind):
    if kind == 1:
        return abs(value)
    if kind >= 2:
        value = np.float32(1) - abs(value)
        value *= value
        if kind == 3:
            value *= value
            value *= value
    return value


@kernel(error_model="numpy", fastmath={"contract"})
def _slanted(part, x, y, dx, dy, k, amount, kind):
    """One cell of a row across the lattice: four corners, already folded over z."""
    six, ten, fifteen = np.float32(6), np.float32(10), np.float32(15)
    c00, p00, q00, c10, p10, q10 = k[0], k[1], k[2], k[3], k[4], k[5]
    c01, p01, q01, c11, p11, q11 = k[6], k[7], k[8], k[9], k[10], k[11]
    for n in range(len(part)):
        tx = x + np.float32(n) * dx
        ty = y + np.float32(n) * dy
        fx = tx * tx * tx * (tx * (tx * six - fifteen) + ten)
        fy = ty * ty * ty * (ty * (ty * six - fifteen) + ten)
        p = c00 + p00 * tx + q00 * ty
        p += fx * (c10 + p10 * tx + q10 * ty - p)
        q = c01 + p01 * tx + q01 * ty
        q += fx * (c11 + p11 * tx + q11 * ty - q)
        part[n] += amount * _shaped(p + fy * (q - p), kind)


@kernel(inline="always")
def _crossing(x, y, du, dv, most):
    """How many steps (du, dv) a row stays in its cell from a place (x, y) of it, at least one."""
    run = most
    if du > 0.0:
        run = min(run, (1.0 - x) / du)
    elif du < 0.0:
        run = min(run, x / -du)
    if dv > 0.0:
        run = min(run, (1.0 - y) / dv)
    elif dv < 0.0:
        run = min(run, y / -dv)
    return max(1, int(math.ceil(run)))


@kernel(inline="always")
def _corners(k, iu, iv, wz, k0, k1, perm, base):
    """Fill k (12,) with a cell's four corners, folded over z: value at the corner, slope in x, slope in y of each."""
    z1 = _fade(wz)
    z0 = 1.0 - z1
    for corner in range(4):
        ax, ay = corner & 1, corner >> 1
        if base:
            if base == 2:
                ax, ay = 0, 0
            h = perm[perm[(int(iu) + ax) & 255] + ((int(iv) + ay) & 255)]
            k[corner * 3] = _evenly(perm[h + k0], perm[h + k1], z1)
            k[corner * 3 + 1] = k[corner * 3 + 2] = 0.0
            continue
        h = perm[perm[(int(iu) + ax) & 255] + ((int(iv) + ay) & 255)]
        g0, g1 = perm[h + k0] & 15, perm[h + k1] & 15
        sx = z0 * _GX[g0] + z1 * _GX[g1]
        sy = z0 * _GY[g0] + z1 * _GY[g1]
        k[corner * 3] = z0 * _GZ[g0] * wz + z1 * _GZ[g1] * (wz - 1.0) - sx * ax - sy * ay
        k[corner * 3 + 1] = sx
        k[corner * 3 + 2] = sy


@kernel(error_model="numpy", fastmath={"contract"})
def _fold_along(terms, u0, du, row, slice, perm, base):
    """Fill terms (4, W) for all rows of pixels that cross one row of cells, which must lie along the lattice.

    With y the place in the cell and s its fade, n = terms[0] + terms[1] y + s (terms[2] + terms[3] y).
    """
    wz, k0, k1 = slice
    six, ten, fifteen = np.float32(6), np.float32(10), np.float32(15)
    width = terms.shape[1]
    du32 = np.float32(du)
    k = np.zeros(12, np.float32)
    i = 0
    while i < width:
        u = u0 + i * du
        iu = math.floor(u)
        end = min(width, i + _crossing(u - iu, 0.0, du, 0.0, float(width - i)))
        _corners(k, iu, row, wz, k0, k1, perm, base)
        x = np.float32(u - iu)
        for n in range(end - i):
            t = x + np.float32(n) * du32
            fade = t * t * t * (t * (t * six - fifteen) + ten)
            value, below = k[0] + k[1] * t, k[6] + k[7] * t
            value += fade * (k[3] + k[4] * t - value)
            below += fade * (k[9] + k[10] * t - below)
            slope, slope_below = k[2] + fade * (k[5] - k[2]), k[8] + fade * (k[11] - k[8])
            terms[0, i + n], terms[1, i + n] = value, slope
            terms[2, i + n], terms[3, i + n] = below - value, slope_below - slope
        i = end


@kernel(error_model="numpy", fastmath={"contract"})
def _add_row(out, terms, y, fade, amount, kind):
    """Add one row of pixels of an octave that lies along the lattice."""
    at, by_y, by_fade, by_both = terms[0], terms[1], terms[2], terms[3]
    for i in range(len(out)):
        value = at[i] + by_y[i] * y + fade * (by_fade[i] + by_both[i] * y)
        out[i] += amount * _shaped(value, kind)


@kernel(error_model="numpy", fastmath={"contract"})
def _add_slanted(row, m, px, py, step, slice, amount, kind, perm, base, k):
    """Add one row of pixels of an octave that lies across the lattice, cell by cell; k (12,): room for corners."""
    a, b, c, d, e, f = m
    wz, k0, k1 = slice
    u0, v0 = a * px + b * py + c, d * px + e * py + f
    du, dv = a * step, d * step
    du32, dv32 = np.float32(du), np.float32(dv)
    width = len(row)
    i = 0
    while i < width:
        u, v = u0 + i * du, v0 + i * dv
        iu, iv = math.floor(u), math.floor(v)
        x, y = u - iu, v - iv
        end = min(width, i + _crossing(x, y, du, dv, float(width - i)))
        _corners(k, iu, iv, wz, k0, k1, perm, base)
        _slanted(row[i:end], np.float32(x), np.float32(y), du32, dv32, k, amount, kind)
        i = end


@kernel(error_model="numpy")
def settled(out, settling, first, last):
    """Bring a sum in the plane out (H, W) to its spread: (sum - settling[0]) x settling[1] x settling[2] + [3]."""
    mean, times, spread, middle = settling[0], settling[1], settling[2], settling[3]
    for j in range(first, last):
        row = out[j]
        for i in range(len(row)):
            row[i] = (row[i] - mean) * times * spread + middle


TOGETHER = 4
"""So many rows stay in fast memory through all octaves."""


@kernel(error_model="numpy", fastmath={"contract"})
def sum_octaves(out, octaves, x0, y0, step, z_period, kind, perm, base, settling, first, last):
    """Set the plane out (H, W) to the settled sum of octaves (N, 8: the place's six numbers, z, gain) x g(n).

    kind: g, by its place in SUMS. base: 0 gradients at the corners, 1 values at the corners, 2 one value for a whole
    cell. A row is walked cell by cell; inside a cell n is a plain polynomial, which the compiler turns into vector
    code. Rows that lie along the lattice share what they have in common: all that depends on x.
    """
    count, width = len(octaves), out.shape[1]
    terms, of_rows, k = np.empty((count, 4, width), np.float32), np.full(count, math.nan), np.zeros(12, np.float32)
    px = x0 + 0.5 * step
    for top in range(first, last, TOGETHER):
        low = min(top + TOGETHER, last)
        out[top:low] = np.float32(0)
        for n in range(count):
            o = octaves[n]
            a, b, c, d, e, f, z, gain = o[0], o[1], o[2], o[3], o[4], o[5], o[6], o[7]
            k0 = int(math.floor(z)) % z_period
            slice = z - math.floor(z), k0, (k0 + 1) % z_period
            amount = np.float32(gain)
            for j in range(top, low):
                py = y0 + (j + 0.5) * step
                if b != 0.0 or d != 0.0:
                    _add_slanted(out[j], (a, b, c, d, e, f), px, py, step, slice, amount, kind, perm, base, k)
                    continue
                v = e * py + f
                if of_rows[n] != math.floor(v):
                    of_rows[n] = math.floor(v)
                    _fold_along(terms[n], a * px + c, a * step, of_rows[n], slice, perm, base)
                y = v - of_rows[n]
                _add_row(out[j], terms[n], np.float32(y), np.float32(_fade(y)), amount, kind)
        settled(out, settling, top, low)
