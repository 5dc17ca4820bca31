"""Distances to the edges of figures, exact, and what a soft edge covers of a sample.

Distances are in shot pixels, negative inside. Each comes with the direction to the nearest place of the edge, since how
much of a sample lies on one side of an edge depends on how the edge runs through it.
"""

from __future__ import annotations

import math

from nimble_quake.kernels import kernel

STEPS = 40
"""Most steps to the nearest place of an ellipse; a few are the rule."""
CLOSE = 1e-6
"""A last step so small, in all that was gone, leaves an error of its square."""
FINE = 1.0 / 24
"""A sample narrower than this part of a soft edge is its value at the middle, within 0.0004."""


@kernel(inline="always")
def length(x, y):
    """The length of a way; the library's own takes care of numbers beyond any picture, and three times as long."""
    return math.sqrt(x * x + y * y)


@kernel(inline="always")
def ellipse_least_distance(u, v, per_a, per_b):
    """What an ellipse's edge is at least away from a place, negative inside. per_a, per_b: 1 / its half axes.

    Outside by the slope of its norm there, which is convex; inside by the steepest that norm is anywhere.
    """
    x, y = u * per_a, v * per_b
    norm = length(x, y)
    slope = length(x * per_a, y * per_b) if norm > 1.0 else max(per_a, per_b) * norm
    return (norm - 1.0) * norm / slope if slope > 0.0 else -1.0 / max(per_a, per_b)


TOGETHER = 64
"""So many places are measured side by side; neighbours need about as many steps."""


@kernel(error_model="numpy")
def ellipse_distances(xs, ys, a, b, work, ds, nxs, nys):
    """Distances of places (n,) to an ellipse with half axes a, b about the origin, and the directions away from it.

    The nearest place is where the normal meets: F(t) = (a x / (t + a²))² + (b y / (t + b²))² is 1 there (Eberly,
    "Distance from a Point to an Ellipse, an Ellipsoid, or a Hyperellipsoid", 2013). Newton's steps on 1 / sqrt(F), that
    is nearly straight and concave, climb to it from the left without passing it (Moré & Sorensen, "Computing a Trust
    Region Step", 1983); all places take them together. Into ds, and the directions' lengths across and down into nxs,
    nys. work: (5, TOGETHER) scratch.
    """
    flip = a < b
    p, q = (b, a) if flip else (a, b)
    more = p * p - q * q  # solved for s = t + q², which stays apart from 0
    us, vs, pus, qvs, at = work[0], work[1], work[2], work[3], work[4]
    for begin in range(0, len(xs), TOGETHER):
        count = min(TOGETHER, len(xs) - begin)
        for i in range(count):
            x, y = abs(xs[begin + i]), abs(ys[begin + i])
            us[i], vs[i] = max(y if flip else x, 1e-9 * p), max(x if flip else y, 1e-9 * q)
            pus[i], qvs[i] = p * us[i], q * vs[i]
            at[i] = max(qvs[i], math.sqrt(pus[i] * pus[i] + qvs[i] * qvs[i]) - more)
        for _ in range(STEPS):
            going = 0
            for i in range(count):
                s = at[i]
                both = 1.0 / (s * (s + more))
                near, far = (s + more) * both, s * both
                m, n = (pus[i] * far) * (pus[i] * far), (qvs[i] * near) * (qvs[i] * near)
                further = (m + n) * (math.sqrt(m + n) - 1.0) / (m * far + n * near)
                at[i] = s + further
                going += 1 if further > CLOSE * at[i] else 0
            if going == 0:
                break
        for i in range(count):
            m, n = p * p * us[i] / (at[i] + more), q * q * vs[i] / at[i]
            du, dv = us[i] - m, vs[i] - n
            d = math.sqrt(du * du + dv * dv)
            inside = (us[i] / p) * (us[i] / p) + (vs[i] / q) * (vs[i] / q) < 1.0
            edge = d < 1e-9 * p  # its own normal
            du, dv = m / (p * p) if edge else du, n / (q * q) if edge else dv
            ds[begin + i] = -d if inside else d
            nxs[begin + i], nys[begin + i] = abs(dv) if flip else abs(du), abs(du) if flip else abs(dv)


@kernel(inline="always")
def rectangle_distance(x, y, a, b):
    """Distance to a rectangle of half width a and half height b about the origin, and the direction away from it."""
    p, q = abs(x) - a, abs(y) - b
    if p > 0.0 and q > 0.0:
        return length(p, q), p, q
    if p > q:
        return p, 1.0, 0.0
    return q, 0.0, 1.0


@kernel(inline="always")
def edge_distance(x, y, ax, ay, bx, by):
    """Squared distance to the line from a to b, and the way from its nearest place to (x, y)."""
    ex, ey = bx - ax, by - ay
    wx, wy = x - ax, y - ay
    t = min(max((wx * ex + wy * ey) / max(ex * ex + ey * ey, 1e-12), 0.0), 1.0)
    dx, dy = wx - ex * t, wy - ey * t
    return dx * dx + dy * dy, dx, dy


@kernel(inline="always")
def crosses(x, y, ax, ay, bx, by):
    """Whether a level line from (x, y) to the right crosses the edge from a to b."""
    return (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax


@kernel(inline="always")
def on_crease(x, y, a, b, step):
    """Whether the nearest side of a rectangle changes within a sample, so that no one edge stands for it."""
    p, q = abs(x) - a, abs(y) - b
    return abs(p - q) < step and max(p, q) < step


@kernel(inline="always")
def nearest_edge(x, y, corners, near, found, step):
    """Distance to the nearest of some edges, the way from it, and whether a crease between two runs through here."""
    least, nx, ny, edge = 1e300, 1.0, 0.0, 0
    second, mx, my = 1e300, 1.0, 0.0
    for n in range(found):
        i = near[n]
        j = i - 1 if i > 0 else len(corners) - 1
        far, dx, dy = edge_distance(x, y, corners[i, 0], corners[i, 1], corners[j, 0], corners[j, 1])
        if far < least:
            second, mx, my = least, nx, ny
            least, nx, ny, edge = far, dx, dy, i
        elif far < second:
            second, mx, my = far, dx, dy
    d, other = math.sqrt(least), math.sqrt(second)
    crease = other - d < step and nx * mx + ny * my < 0.9 * d * other
    if least < 1e-12:  # on the edge: its own normal
        j = edge - 1 if edge > 0 else len(corners) - 1
        nx, ny = corners[j, 1] - corners[edge, 1], corners[edge, 0] - corners[j, 0]
    return d, nx, ny, crease


@kernel(inline="always")
def is_within(x, y, corners):
    """Whether a place lies in a closed outline, by the even-odd rule."""
    within = False
    j = len(corners) - 1
    for i in range(len(corners)):
        if crosses(x, y, corners[i, 0], corners[i, 1], corners[j, 0], corners[j, 1]):
            within = not within
        j = i
    return within


@kernel(inline="always")
def _twice(t):
    """The second integral of a smooth step t²(3 - 2t), held to 0 before 0 and to 1 after 1."""
    if t <= 0.0:
        return 0.0
    if t >= 1.0:
        return 0.15 + 0.5 * (t - 1.0) + 0.5 * (t - 1.0) * (t - 1.0)
    return t * t * t * t * (0.25 - 0.1 * t)


@kernel(inline="always")
def covered(d, nx, ny, wide, step):
    """How much of a sample of width `step` lies within an edge at distance d from its middle, 0...1.

    The edge fades over `wide` by a smooth step; (nx, ny): the direction across it. It is the mean over the sample of a
    straight edge, exactly: so a half-size sample is the mean of the four it stands for, whatever the width.
    """
    if wide * FINE > step:
        t = min(max(0.5 - d / wide, 0.0), 1.0)
        return t * t * (3.0 - 2.0 * t)
    size = length(nx, ny)
    if size <= 0.0:
        nx, ny, size = 1.0, 0.0, 1.0
    p, q = max(abs(nx) / size, 0.02) * step, max(abs(ny) / size, 0.02) * step
    w = max(wide, 0.02 * step)
    plus, less = 0.5 * (p + q), 0.5 * (p - q)
    if d >= 0.5 * w + plus:
        return 0.0
    if d <= -0.5 * w - plus:
        return 1.0
    t, per = 0.5 - d / w, 1.0 / w
    total = _twice(t + plus * per) - _twice(t + less * per) - _twice(t - less * per) + _twice(t - plus * per)
    return min(max(total * w * w / (p * q), 0.0), 1.0)


SCRATCH = 6
"""Rows of numbers that `ellipse_row` works in."""


@kernel(error_model="numpy")
def ellipse_row(span, where, half, turned, fade, hollow, rows, at, work):
    """What an ellipse covers of a row of samples that lies `where` = x0, step, x of the middle, y from the middle.

    span: the columns to look at, the last not counted. fade: feather, and how far the edge is moved outwards. Into the
    front of `at` go the columns near the edge, measured: their distances into rows[0], what is covered of them into
    rows[1]. Into its back go those that lie wholly within, unmeasured; where it is `hollow` these are measured too.
    Returns how many are measured, and where in `at` the others begin. rows: (SCRATCH, columns). work: see
    `ellipse_distances`.
    """
    x0, step, x, dy = where
    a, b = half
    c, s = turned
    feather, grow = fade
    reach = 0.5 * feather + step
    count, inner, ds, fractions = 0, len(at), rows[0], rows[1]
    us, vs, nus, nvs = rows[2], rows[3], rows[4], rows[5]
    for i in range(span[0], span[1]):
        dx = x0 + (i + 0.5) * step - x
        u, v = dx * c + dy * s, dy * c - dx * s
        least = ellipse_least_distance(u, v, 1.0 / a, 1.0 / b)
        if least - grow >= reach and least > 0.0:
            continue
        if not hollow and least - grow <= -reach and least < 0.0:
            inner -= 1
            at[inner] = i
            continue
        at[count], us[count], vs[count] = i, u, v
        count += 1
    ellipse_distances(us[:count], vs[:count], a, b, work, ds, nus, nvs)
    for n in range(count):
        nu, nv = math.copysign(nus[n], us[n]), math.copysign(nvs[n], vs[n])
        fractions[n] = covered(ds[n] - grow, nu * c - nv * s, nu * s + nv * c, feather, step)
    return count, inner
