"""Other bases of noise than gradients, at single places and along rows.

softer   cubic B-spline over hashed lattice values: the roundest
simplex  Perlin's noise over tetrahedra, as in Gustavson, "Simplex noise demystified" (2005)
cells    Worley, "A Cellular Texture Basis Function" (SIGGRAPH 1996), one point a cell; churn turns it round its middle

`value_at` gives any base at any place: for noise that is bent or laid in rings, where rows are not straight.
"""

from __future__ import annotations

import math

import numpy as np

from nimble_quake.kernels import kernel
from nimble_quake.raster.noise.gradient_noise import _GX, _GY, _GZ, _crossing, _evenly, _fade, _shaped

SMOOTH, VALUE, BLOCKS, SOFTER, SIMPLEX, NEAREST, SECOND, EDGE, FLAT = range(9)
ORBIT = 0.35
"""How far a cell's point circles about where it would stand, in cells."""


@kernel(inline="always")
def _hashed(i, j, k, wrap, perm):
    if wrap > 0:
        i = i % wrap
    return perm[perm[perm[i & 255] + (j & 255)] + (k & 255)]


@kernel(inline="always")
def _spline(n, t):
    """Weight n of the uniform cubic B-spline, 0...3, at a share t of its cell."""
    u = 1.0 - t
    if n == 0:
        return u * u * u / 6.0
    if n == 1:
        return (3.0 * t * t * t - 6.0 * t * t + 4.0) / 6.0
    if n == 2:
        return (3.0 * u * u * u - 6.0 * u * u + 4.0) / 6.0
    return t * t * t / 6.0


@kernel()
def point_of(i, j, z, wrap, perm):
    """Where in cell (i, j) its point is, x and y of 0...1, and the cell's own chance number 0...1."""
    h = _hashed(i, j, 11, wrap, perm)
    g = _hashed(i, j, 211, wrap, perm)
    turn = 2.0 * math.pi * (z + perm[g + 59] / 256.0)
    x = 0.5 + (h / 255.0 - 0.5) * (1.0 - 2.0 * ORBIT) + ORBIT * math.cos(turn)
    y = 0.5 + (g / 255.0 - 0.5) * (1.0 - 2.0 * ORBIT) + ORBIT * math.sin(turn)
    return x, y, perm[g + 177] / 255.0


@kernel()
def cells_at(x, y, z, wrap, perm):
    """Distance to the nearest point and to the second, in cells, and the nearest one's chance number."""
    fx, fy = math.floor(x), math.floor(y)
    i, j = int(fx), int(fy)
    u, v = x - fx, y - fy
    d1, d2, own = 1e9, 1e9, 0.0
    for ring in range(1, 3):
        if ring == 2:
            clear = 1.0 + min(min(u, 1.0 - u), min(v, 1.0 - v))
            if d2 <= clear * clear:
                break
        for b in range(-ring, ring + 1):
            for a in range(-ring, ring + 1):
                if ring == 2 and abs(a) < 2 and abs(b) < 2:
                    continue
                px, py, number = point_of(i + a, j + b, z, wrap, perm)
                dx, dy = a + px - u, b + py - v
                d = dx * dx + dy * dy
                if d < d1:
                    d2, d1, own = d1, d, number
                elif d < d2:
                    d2 = d
    return math.sqrt(d1), math.sqrt(d2), own


@kernel(inline="always")
def _of_cells(base, d1, d2, own):
    """A cellular value spread about 0 as far as the others."""
    if base == NEAREST:
        return d1 * 2.0 - 0.848
    if base == SECOND:
        return d2 * 2.0 - 1.398
    if base == EDGE:
        return (d2 - d1) * 2.0 - 0.55
    return own * 2.0 - 1.0


@kernel()
def _simplex(x, y, z, wrap, perm):
    s = (x + y + z) / 3.0
    i, j, k = math.floor(x + s), math.floor(y + s), math.floor(z + s)
    t = (i + j + k) / 6.0
    x0, y0, z0 = x - i + t, y - j + t, z - k + t
    if x0 >= y0:
        if y0 >= z0:
            a, b, c, d, e, f = 1, 0, 0, 1, 1, 0
        elif x0 >= z0:
            a, b, c, d, e, f = 1, 0, 0, 1, 0, 1
        else:
            a, b, c, d, e, f = 0, 0, 1, 1, 0, 1
    elif y0 < z0:
        a, b, c, d, e, f = 0, 0, 1, 0, 1, 1
    elif x0 < z0:
        a, b, c, d, e, f = 0, 1, 0, 0, 1, 1
    else:
        a, b, c, d, e, f = 0, 1, 0, 1, 1, 0
    total = 0.0
    for n in range(4):
        if n == 0:
            oi, oj, ok = 0, 0, 0
        elif n == 1:
            oi, oj, ok = a, b, c
        elif n == 2:
            oi, oj, ok = d, e, f
        else:
            oi, oj, ok = 1, 1, 1
        px, py, pz = x0 - oi + n / 6.0, y0 - oj + n / 6.0, z0 - ok + n / 6.0
        w = 0.5 - px * px - py * py - pz * pz
        if w > 0.0:
            h = _hashed(int(i) + oi, int(j) + oj, int(k) + ok, wrap, perm) & 15
            w *= w
            total += w * w * (_GX[h] * px + _GY[h] * py + _GZ[h] * pz)
    return 76.0 * total


@kernel()
def value_at(base, x, y, z, z_period, wrap, perm):
    """One base at one place of its lattice, about -1...1. wrap: after how many cells x repeats (0: 256)."""
    if base == SIMPLEX:
        return _simplex(x, y, z, wrap, perm)
    if base >= NEAREST:
        d1, d2, own = cells_at(x, y, z, wrap, perm)
        return _of_cells(base, d1, d2, own)
    fx, fy, fz = math.floor(x), math.floor(y), math.floor(z)
    i, j = int(fx), int(fy)
    k0 = int(fz) % z_period
    k1 = (k0 + 1) % z_period
    u, v, w = x - fx, y - fy, z - fz
    z1 = _fade(w)
    z0 = 1.0 - z1
    if base == BLOCKS:
        return _evenly(_hashed(i, j, k0, wrap, perm), _hashed(i, j, k1, wrap, perm), z1)
    total = 0.0
    if base == SOFTER:
        for b in range(4):
            wb = _spline(b, v)
            for a in range(4):
                wa = _spline(a, u)
                h0 = _hashed(i + a - 1, j + b - 1, k0, wrap, perm)
                h1 = _hashed(i + a - 1, j + b - 1, k1, wrap, perm)
                total += wa * wb * _evenly(h0, h1, z1)
        return total * 1.1
    for a in range(2):
        wa = _fade(u) if a else 1.0 - _fade(u)
        for b in range(2):
            wb = _fade(v) if b else 1.0 - _fade(v)
            h0, h1 = _hashed(i + a, j + b, k0, wrap, perm), _hashed(i + a, j + b, k1, wrap, perm)
            if base == VALUE:
                total += wa * wb * _evenly(h0, h1, z1)
            else:
                h0, h1 = h0 & 15, h1 & 15
                near = _GX[h0] * (u - a) + _GY[h0] * (v - b) + _GZ[h0] * w
                far = _GX[h1] * (u - a) + _GY[h1] * (v - b) + _GZ[h1] * (w - 1.0)
                total += wa * wb * (z0 * near + z1 * far)
    return total


@kernel(error_model="numpy")
def add_anywhere(out, us, vs, freq, ou, ov, z, z_period, wrap, gain, kind, perm, base, first, last):
    """Add one octave at places us, vs (H, W) of the first octave's lattice, `freq` times as fine, from an origin."""
    amount = np.float32(gain)
    for j in range(first, last):
        for i in range(out.shape[1]):
            n = value_at(base, us[j, i] * freq + ou, vs[j, i] * freq + ov, z, z_period, wrap, perm)
            out[j, i] += amount * _shaped(np.float32(n), kind)


@kernel()
def fold(base, z, z_period, perm, out):
    """What each of the 256 hashes of a lattice column gives at a z: value, slope x, slope y (512, 3)."""
    wz = z - math.floor(z)
    k0 = int(math.floor(z)) % z_period
    k1 = (k0 + 1) % z_period
    z1 = _fade(wz)
    z0 = 1.0 - z1
    for h in range(256):
        a, b = perm[h + k0], perm[h + k1]
        if base == SMOOTH:
            a, b = a & 15, b & 15
            out[h, 0] = z0 * _GZ[a] * wz + z1 * _GZ[b] * (wz - 1.0)
            out[h, 1] = z0 * _GX[a] + z1 * _GX[b]
            out[h, 2] = z0 * _GY[a] + z1 * _GY[b]
        else:
            out[h, 0] = _evenly(a, b, z1)


@kernel(error_model="numpy", fastmath={"contract"})
def add_folded(out, us, vs, freq, ou, ov, t0, t1, t2, wrap, gain, kind, perm, base, first, last):
    """`add_anywhere` for lattice bases whose z is folded already (see `folded`)."""
    amount, f32 = np.float32(gain), np.float32(freq)
    six, ten, fifteen, one = np.float32(6), np.float32(10), np.float32(15), np.float32(1)
    ou32, ov32 = np.float32(ou), np.float32(ov)
    for j in range(first, last):
        for i in range(out.shape[1]):
            x, y = us[j, i] * f32 + ou32, vs[j, i] * f32 + ov32
            iu, iv = int(x), int(y)  # towards 0; one less where that went up
            iu -= x < np.float32(iu)
            iv -= y < np.float32(iv)
            u, v = x - np.float32(iu), y - np.float32(iv)
            left, right = iu, iu + 1
            if wrap > 0:
                left, right = left % wrap, right % wrap
            p, q = perm[left & 255], perm[right & 255]
            low, high = iv & 255, (iv + 1) & 255
            a = perm[p + low]
            if base == BLOCKS:
                n = t0[a]
            else:
                b, c, d = perm[q + low], perm[p + high], perm[q + high]
                tx = u * u * u * (u * (u * six - fifteen) + ten)
                ty = v * v * v * (v * (v * six - fifteen) + ten)
                m = t0[a] + t1[a] * u + t2[a] * v
                m += tx * (t0[b] + t1[b] * (u - one) + t2[b] * v - m)
                n = t0[c] + t1[c] * u + t2[c] * (v - one)
                n += tx * (t0[d] + t1[d] * (u - one) + t2[d] * (v - one) - n)
                n = m + ty * (n - m)
            out[j, i] += amount * _shaped(n, kind)


@kernel(error_model="numpy")
def add_straight(out, m, x0, y0, step, z, z_period, gain, kind, perm, base, first, last):
    """Add one octave of any base at the places an affine map gives."""
    a, b, c, d, e, f = m
    amount = np.float32(gain)
    for j in range(first, last):
        py = y0 + (j + 0.5) * step
        for i in range(out.shape[1]):
            px = x0 + (i + 0.5) * step
            n = value_at(base, a * px + b * py + c, d * px + e * py + f, z, z_period, 0, perm)
            out[j, i] += amount * _shaped(np.float32(n), kind)


@kernel(error_model="numpy")
def add_spline(out, m, x0, y0, step, z, z_period, gain, kind, perm, first, last):
    """Add one octave of the softer base along straight lattice rows: a cubic for every cell a row crosses."""
    a, _, c, _, e, f = m
    wz = z - math.floor(z)
    k0 = int(math.floor(z)) % z_period
    k1 = (k0 + 1) % z_period
    z1 = _fade(wz)
    amount = np.float32(gain)
    du = a * step
    width = out.shape[1]
    weights, column = np.zeros(4), np.zeros(4)
    for j in range(first, last):
        v = e * (y0 + (j + 0.5) * step) + f
        iv = math.floor(v)
        for r in range(4):
            weights[r] = _spline(r, v - iv)
        u0 = a * (x0 + 0.5 * step) + c
        row = out[j]
        i = 0
        while i < width:
            u = u0 + i * du
            iu = math.floor(u)
            x = u - iu
            run = (1.0 - x) / du if du > 0.0 else x / -du
            end = min(width, i + max(1, int(math.ceil(run))))
            for n in range(4):
                column[n] = 0.0
                for r in range(4):
                    h = perm[perm[(int(iu) + n - 1) & 255] + ((int(iv) + r - 1) & 255)]
                    column[n] += weights[r] * _evenly(perm[h + k0], perm[h + k1], z1)
            p, q, r1, s = column[0], column[1], column[2], column[3]
            third = np.float32(1.1 * (s - p + 3.0 * (q - r1)) / 6.0)
            second = np.float32(1.1 * (p - 2.0 * q + r1) / 2.0)
            slope = np.float32(1.1 * (r1 - p) / 2.0)
            start = np.float32(1.1 * (p + 4.0 * q + r1) / 6.0)
            part, x32, du32 = row[i:end], np.float32(x), np.float32(du)
            for n in range(len(part)):
                t = x32 + np.float32(n) * du32
                part[n] += amount * _shaped(start + t * (slope + t * (second + t * third)), kind)
            i = end


@kernel(error_model="numpy", fastmath={"contract"})
def _nearest(near, after, x, y, dx, dy, px, py):
    """Squared distances of one point to the samples of a part of a row."""
    for n in range(len(near)):
        a, b = px - x - np.float32(n) * dx, py - y - np.float32(n) * dy
        d = a * a + b * b
        after[n] = min(after[n], max(near[n], d))
        near[n] = min(near[n], d)


@kernel(error_model="numpy")
def _owner(near, owners, x, y, dx, dy, px, py, own):
    for n in range(len(near)):
        a, b = px - x - np.float32(n) * dx, py - y - np.float32(n) * dy
        d = a * a + b * b
        if d < near[n]:
            near[n] = d
            owners[n] = own


@kernel(error_model="numpy")
def add_cells(out, m, x0, y0, step, z, gain, kind, perm, base, first, last):
    """Add one octave of a cellular base: the points round a cell are found once for each row that crosses it."""
    a, b, c, d, e, f = m
    amount = np.float32(gain)
    du, dv = a * step, d * step
    du32, dv32 = np.float32(du), np.float32(dv)
    width = out.shape[1]
    near, after, owners = np.zeros(width, np.float32), np.zeros(width, np.float32), np.zeros(width, np.float32)
    far = np.float32(1e9)
    for j in range(first, last):
        py = y0 + (j + 0.5) * step
        u0 = a * (x0 + 0.5 * step) + b * py + c
        v0 = d * (x0 + 0.5 * step) + e * py + f
        row = out[j]
        i = 0
        while i < width:
            u, v = u0 + i * du, v0 + i * dv
            iu, iv = math.floor(u), math.floor(v)
            x, y = u - iu, v - iv
            end = min(width, i + _crossing(x, y, du, dv, float(width - i)))
            count = end - i
            d1, d2, who = near[:count], after[:count], owners[:count]
            d1[:] = far
            d2[:] = far
            x32, y32 = np.float32(x), np.float32(y)
            for n in range(25):
                p, q = n % 5 - 2, n // 5 - 2
                if abs(p) < 2 and abs(q) < 2:
                    fx, fy, own = point_of(int(iu) + p, int(iv) + q, z, 0, perm)
                    px, py32 = np.float32(p + fx), np.float32(q + fy)
                    if base == FLAT:
                        _owner(d1, who, x32, y32, du32, dv32, px, py32, np.float32(own))
                    else:
                        _nearest(d1, d2, x32, y32, du32, dv32, px, py32)
            most = np.float32(0)
            for n in range(count):
                most = max(most, d1[n] if base in (FLAT, NEAREST) else d2[n])
            if most > 1.0:
                for n in range(25):
                    p, q = n % 5 - 2, n // 5 - 2
                    if abs(p) == 2 or abs(q) == 2:
                        fx, fy, own = point_of(int(iu) + p, int(iv) + q, z, 0, perm)
                        px, py32 = np.float32(p + fx), np.float32(q + fy)
                        if base == FLAT:
                            _owner(d1, who, x32, y32, du32, dv32, px, py32, np.float32(own))
                        else:
                            _nearest(d1, d2, x32, y32, du32, dv32, px, py32)
            for n in range(count):
                value = _of_cells(base, np.sqrt(d1[n]), np.sqrt(d2[n]), who[n])
                row[i + n] += amount * _shaped(np.float32(value), kind)
            i = end
