"""Look a picture up between its pixels, in one pass over the result.

A row's places are found first, all of them at once; while one pixel is made, what a later one looks at is already on
its way from memory, since no processor guesses where a warp looks next. The bits are those of OpenCV's remap.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Picture, Warp
from nimble_quake.kernels import kernel, prefetch
from nimble_quake.raster.sampling.edges import index_of
from nimble_quake.raster.threads.rows import run_rows

FAR = 1e6
"""Pixels; places farther off than this are taken to be this far."""
AHEAD = 48
"""How many pixels later what is asked for early is read."""


@kernel(error_model="numpy", fastmath={"contract"})
def places_of_row(warp, warped, x0, y0, step, m, j, us, vs):
    """Where every sample of row j looks, in source index coordinates (centres at whole numbers); never NaN."""
    a, b, c, d, e, f = m
    far, line = FAR, y0 + (j + 0.5) * step
    if warped:
        across, down = warp[0, j], warp[1, j]
        for i in range(len(us)):
            px = x0 + (np.int32(i) + 0.5) * step + across[i]
            py = line + down[i]
            u = a * px + b * py + c - 0.5
            v = d * px + e * py + f - 0.5
            us[i] = u if -far < u < far else -far
            vs[i] = v if -far < v < far else -far
    else:
        for i in range(len(us)):
            px = x0 + (np.int32(i) + 0.5) * step
            u = a * px + b * line + c - 0.5
            v = d * px + e * line + f - 0.5
            us[i] = u if -far < u < far else -far
            vs[i] = v if -far < v < far else -far


@kernel(error_model="numpy", fastmath={"contract"})
def pixels_of_row(us, vs, width, height, channels, at, shares_x, shares_y):
    """Find the pixel left above each place, and how far on the place lies.

    Returns the samples, from the first to behind the last, among which some are not well inside; those have a share
    of -1, and look at the first pixel meanwhile.
    """
    zero, most_x, most_y = np.float32(0), np.float32(width - 1), np.float32(height - 1)
    stride, size, out = np.int32(width * channels), np.int32(channels), np.int32(0)
    for i in range(len(us)):
        u, v = us[i], vs[i]
        good = (u >= zero) & (v >= zero) & (u < most_x) & (v < most_y)
        u, v = u if good else zero, v if good else zero
        left, top = np.int32(u), np.int32(v)
        shares_x[i], shares_y[i] = u - np.float32(left) if good else np.float32(-1), v - np.float32(top)
        at[i] = np.int32(np.int32(top * stride) + np.int32(left * size))
        out = np.int32(out + (0 if good else 1))
    first, last = 0, len(us) if out > 0 else 0
    while first < last and shares_x[first] >= zero:
        first += 1
    while first < last and shares_x[last - 1] >= zero:
        last -= 1
    return first, last


@kernel(error_model="numpy", fastmath={"contract"})
def pixel_at_border(source, u, v, edge, made):
    """A place that reaches over the border, by the edge rule."""
    height, width, zero = source.shape[0], source.shape[1], np.float32(0)
    x, y = np.floor(u), np.floor(v)
    fx, fy = u - x, v - y
    left, right = index_of(int(x), width, edge), index_of(int(x) + 1, width, edge)
    top, low = index_of(int(y), height, edge), index_of(int(y) + 1, height, edge)
    for k in range(source.shape[2]):
        p = source[top, left, k] if top >= 0 and left >= 0 else zero
        q = source[top, right, k] if top >= 0 and right >= 0 else zero
        r = source[low, left, k] if low >= 0 and left >= 0 else zero
        s = source[low, right, k] if low >= 0 and right >= 0 else zero
        upper, lower = p + (q - p) * fx, r + (s - r) * fx
        made[k] = upper + (lower - upper) * fy


@kernel(error_model="numpy", fastmath={"contract"}, forceinline=True)
def pixel_between(flat, p, below, fx, fy, out, o):
    """Mix four pixels well inside, from `p` in `flat` on, into `out` from `o` on: all channels in one instruction."""
    i1, i2, i3, i4 = np.uint64(1), np.uint64(2), np.uint64(3), np.uint64(4)
    q, r, s = p + i4, p + below, p + below + i4
    a0, a1, a2, a3 = flat[p], flat[p + i1], flat[p + i2], flat[p + i3]
    b0, b1, b2, b3 = flat[q], flat[q + i1], flat[q + i2], flat[q + i3]
    c0, c1, c2, c3 = flat[r], flat[r + i1], flat[r + i2], flat[r + i3]
    d0, d1, d2, d3 = flat[s], flat[s + i1], flat[s + i2], flat[s + i3]
    a0, a1, a2, a3 = a0 + (b0 - a0) * fx, a1 + (b1 - a1) * fx, a2 + (b2 - a2) * fx, a3 + (b3 - a3) * fx
    c0, c1, c2, c3 = c0 + (d0 - c0) * fx, c1 + (d1 - c1) * fx, c2 + (d2 - c2) * fx, c3 + (d3 - c3) * fx
    out[o], out[o + i1] = a0 + (c0 - a0) * fy, a1 + (c1 - a1) * fy
    out[o + i2], out[o + i3] = a2 + (c2 - a2) * fy, a3 + (c3 - a3) * fy


WHOLE = np.float32(0.998)
"""Places are as exact as that: what is covered by more is covered."""


@kernel(inline="always")
def covered(u, v, width, height, across, down):
    """How much of a result pixel an enlarged picture covers: it fades out over one of these, not of its own."""
    half, zero, one = np.float32(0.5), np.float32(0), np.float32(1)
    u, v = u + half, v + half
    x = min(max(min(u, np.float32(width) - u) * across + half, zero), one)
    y = min(max(min(v, np.float32(height) - v) * down + half, zero), one)
    return x * y if x * y < WHOLE else one


@kernel(error_model="numpy", fastmath={"contract"}, slp=True)
def _looked_up(source, warp, warped, x0, y0, step, m, edge, crisp, us, vs, out, first, last):
    height, width, wide = source.shape[0], source.shape[1], out.shape[1]
    flat, below, zero, fades = source.reshape(-1), np.uint64(4 * width), np.float32(0), crisp[0] > 0
    at, kept = np.zeros(wide + AHEAD, np.int32), len(us) > 0
    shares_x, shares_y = np.empty(wide, np.float32), np.empty(wide, np.float32)
    own_u, own_v = np.empty(wide, np.float32), np.empty(wide, np.float32)
    for j in range(first, last):
        row_u, row_v = (us[j], vs[j]) if kept else (own_u, own_v)
        made = out[j].reshape(-1)
        places_of_row(warp, warped, x0, y0, step, m, j, row_u, row_v)
        begin, end = pixels_of_row(row_u, row_v, width, height, 4, at[:wide], shares_x, shares_y)
        for i in range(wide):
            if i & 1 == 0:
                soon = np.int64(at[i + AHEAD])
                prefetch(flat, soon)
                prefetch(flat, soon + 4 * width)
            pixel_between(flat, np.uint64(at[i]), below, shares_x[i], shares_y[i], made, np.uint64(4 * i))
        for i in range(begin, end):
            if shares_x[i] < zero:
                u, v, n = row_u[i], row_v[i], 4 * i
                fraction = covered(u, v, width, height, crisp[0], crisp[1]) if fades else np.float32(1)
                if fraction <= zero or (edge == 0 and (u <= -1 or v <= -1 or u >= width or v >= height)):
                    made[n], made[n + 1], made[n + 2], made[n + 3] = zero, zero, zero, zero
                    continue
                pixel_at_border(source, u, v, edge, made[n : n + 4])
                for k in range(4):
                    made[n + k] *= fraction


@kernel(error_model="numpy", fastmath={"contract"})
def _looked_up_in_a_map(source, warp, warped, x0, y0, step, m, edge, crisp, us, vs, out, first, last):
    """As `_looked_up`, for one channel."""
    height, width, wide = source.shape[0], source.shape[1], out.shape[1]
    flat, zero, one, below = source.reshape(-1), np.float32(0), np.uint64(1), np.uint64(width)
    at, shares_x, shares_y = np.empty(wide, np.int32), np.empty(wide, np.float32), np.empty(wide, np.float32)
    own_u, own_v, kept = np.empty(wide, np.float32), np.empty(wide, np.float32), len(us) > 0
    for j in range(first, last):
        row_u, row_v = (us[j], vs[j]) if kept else (own_u, own_v)
        made = out[j].reshape(-1)
        places_of_row(warp, warped, x0, y0, step, m, j, row_u, row_v)
        begin, end = pixels_of_row(row_u, row_v, width, height, 1, at, shares_x, shares_y)
        for i in range(wide):
            p, fx = np.uint64(at[i]), shares_x[i]
            q = p + below
            a, b, c, d = flat[p], flat[p + one], flat[q], flat[q + one]
            upper, lower = a + (b - a) * fx, c + (d - c) * fx
            made[i] = upper + (lower - upper) * shares_y[i]
        for i in range(begin, end):
            if shares_x[i] < zero:
                pixel_at_border(source, row_u[i], row_v[i], edge, made[i : i + 1])
                if crisp[0] > 0:
                    made[i] *= covered(row_u[i], row_v[i], width, height, crisp[0], crisp[1])


def can_look_up(source: Picture, out: Picture) -> bool:
    """Whether `look_up` can handle a picture: one channel or four, no gaps, two pixels each way, places fit 32 bits."""
    height, width, channels = source.shape
    whole = source.flags.c_contiguous and out.flags.c_contiguous
    return channels in (1, 4) and whole and min(height, width) >= 2 and source.size < 2**31


def look_up(
    source: Picture,
    warp: Warp,
    warped: bool,
    corner: tuple[float, float, float],
    to_source: Affine,
    edge: int,
    crisp: tuple[float, float],
    places: tuple[NDArray[np.float32], NDArray[np.float32]],
    out: Picture,
) -> None:
    """Put what a picture or a map shows at a warp's places into `out`, (H, W, C), linear between pixels.

    corner: x, y and step of the grid, in shot pixels. edge: as in `sample_edges.EDGES`. crisp: how many times enlarged
    the picture is, across and down, where its border fades out over one result pixel; else 0. places: two arrays
    (H, W) that are filled with where each pixel looks, or empty ones where nobody asks for that.
    """
    looked_up = _looked_up if source.shape[2] == 4 else _looked_up_in_a_map
    times = (np.float32(crisp[0]), np.float32(crisp[1]))
    run_rows(looked_up, out.shape[0], source, warp, warped, *corner, to_source, edge, times, *places, out)
