"""Fetch a picture with its colours parted: several places a pixel, each giving its share of red, green and blue."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Picture, Pixels, Warp
from nimble_quake.kernels import kernel
from nimble_quake.raster.grid import Grid
from nimble_quake.raster.rows import run_rows
from nimble_quake.raster.sample import NO_WARP
from nimble_quake.raster.sample_edges import EDGES, index_of


class Split(NamedTuple):
    """Sample k looks `factors[k]` x `moved` (2, H, W) farther, and gives `weights[k]` (r, g, b) of what it finds."""

    moved: Warp
    factors: NDArray[np.float32]
    weights: NDArray[np.float32]

    @property
    def farthest(self) -> Pixels:
        """The largest factor."""
        return float(np.abs(self.factors).max())


@kernel(inline="always")
def _four(x, y, width, height, edge):  # type: ignore[no-untyped-def]
    """The four samples round a place and how far on it lies between them; -1: nothing there."""
    left, top = math.floor(x), math.floor(y)
    col, row = int(left), int(top)
    return (
        index_of(col, width, edge), index_of(col + 1, width, edge), index_of(row, height, edge),
        index_of(row + 1, height, edge), np.float32(x - left), np.float32(y - top),
    )  # fmt: skip


@kernel(error_model="numpy", fastmath={"contract"})
def _parted(  # type: ignore[no-untyped-def]
    source, warp, warped, moved, factors, weights, x0, y0, step, m, edge, out, first, last, left_at=0, right_at=-1
):
    height, width = source.shape[:2]
    a, b, c, d, e, f = m
    far, zero, one = 1e6, np.float32(0), np.float32(1)
    for j in range(first, last):
        for i in range(left_at, out.shape[1] if right_at < 0 else right_at):
            px, py = x0 + (i + 0.5) * step, y0 + (j + 0.5) * step
            if warped:
                px += warp[0, j, i]
                py += warp[1, j, i]
            red, green, blue, alpha = zero, zero, zero, zero
            for k in range(len(factors)):
                qx, qy = px + factors[k] * moved[0, j, i], py + factors[k] * moved[1, j, i]
                u, v = a * qx + b * qy + c - 0.5, d * qx + e * qy + f - 0.5
                if not (-far < u < far and -far < v < far):
                    continue
                left, right, top, low, fx, fy = _four(u, v, width, height, edge)
                for n in range(4):
                    col, row = (left if n & 1 == 0 else right), (top if n < 2 else low)
                    if col < 0 or row < 0:
                        continue
                    share = (one - fx if n & 1 == 0 else fx) * (one - fy if n < 2 else fy)
                    if weights[k, 0] > 0:
                        red += source[row, col, 0] * share * weights[k, 0]
                    if weights[k, 1] > 0:
                        green += source[row, col, 1] * share * weights[k, 1]
                    if weights[k, 2] > 0:
                        blue += source[row, col, 2] * share * weights[k, 2]
                    alpha += source[row, col, 3] * share * (weights[k, 0] + weights[k, 1] + weights[k, 2])
            out[j, i, 0], out[j, i, 1], out[j, i, 2] = red, green, blue
            out[j, i, 3] = max(min(alpha / np.float32(3), one), max(red, max(green, blue)))


@kernel(forceinline=True, error_model="numpy", fastmath={"contract"})
def _one_colour(flat, width, height, k, x, y):  # type: ignore[no-untyped-def]
    """One channel and the alpha at a place well inside, linear between pixels."""
    left, top = int(x), int(y)
    one = np.float32(1)
    fx, fy = x - np.float32(left), y - np.float32(top)
    p = np.uint32((top * width + left) * 4)
    m = p + np.uint32(width * 4)
    c4, c3 = np.uint32(4), np.uint32(3)
    k00, k10 = (one - fx) * (one - fy), fx * (one - fy)
    k01, k11 = (one - fx) * fy, fx * fy
    value = flat[p + k] * k00 + flat[p + c4 + k] * k10 + flat[m + k] * k01 + flat[m + c4 + k] * k11
    alpha = flat[p + c3] * k00 + flat[p + c4 + c3] * k10 + flat[m + c3] * k01 + flat[m + c4 + c3] * k11
    return value, alpha


@kernel(error_model="numpy", fastmath={"contract"})
def _three(source, warp, warped, moved, factors, weights, x0, y0, step, m, edge, out, first, last):  # type: ignore[no-untyped-def]
    """As `_parted`, where each colour has one place of its own; near a border that does it."""
    height, width = source.shape[:2]
    flat = source.reshape(-1)
    a, b, c, d, e, f = (np.float32(m[0]), np.float32(m[1]), np.float32(m[2]), np.float32(m[3]), np.float32(m[4]),
                        np.float32(m[5]))  # fmt: skip
    fr, fg, fb = factors[0], factors[1], factors[2]
    half, zero, one, third = np.float32(0.5), np.float32(0), np.float32(1), np.float32(1 / 3)
    most_x, most_y = np.float32(width - 1.001), np.float32(height - 1.001)
    x032, y032, step32 = np.float32(x0), np.float32(y0), np.float32(step)
    for j in range(first, last):
        py0 = y032 + (np.float32(j) + half) * step32
        for i in range(out.shape[1]):
            px, py = x032 + (np.float32(i) + half) * step32, py0
            if warped:
                px += warp[0, j, i]
                py += warp[1, j, i]
            mx, my = moved[0, j, i], moved[1, j, i]
            u, v = a * px + b * py + c - half, d * px + e * py + f - half
            du, dv = a * mx + b * my, d * mx + e * my
            ur, vr, ug, vg, ub, vb = u + du * fr, v + dv * fr, u + du * fg, v + dv * fg, u + du * fb, v + dv * fb
            low_u, high_u = min(ur, min(ug, ub)), max(ur, max(ug, ub))
            low_v, high_v = min(vr, min(vg, vb)), max(vr, max(vg, vb))
            if low_u >= zero and low_v >= zero and high_u < most_x and high_v < most_y:
                red, ar = _one_colour(flat, width, height, np.uint32(0), ur, vr)
                green, ag = _one_colour(flat, width, height, np.uint32(1), ug, vg)
                blue, ab = _one_colour(flat, width, height, np.uint32(2), ub, vb)
                out[j, i, 0], out[j, i, 1], out[j, i, 2] = red, green, blue
                out[j, i, 3] = max(min((ar + ag + ab) * third, one), max(red, max(green, blue)))
            else:
                _parted(source, warp, warped, moved, factors, weights, x0, y0, step, m, edge, out, j, j + 1, i, i + 1)


def fetch_split(
    source: Picture, grid: Grid, to_source: Affine, warp: Warp | None, split: Split, *, edge: str = "empty"
) -> Picture:
    """Return `source` seen through a warp, its colours parted; linear between pixels.

    As `sample.fetch`. The alpha is the mean of what the colours find, and never less than any of them: premultiplied.
    """
    out = np.empty((grid.height, grid.width, 4), np.float32)
    m = tuple(float(v) for v in to_source)
    moves = NO_WARP if warp is None else warp
    one_each = split.weights.shape == (3, 3) and bool((split.weights == np.eye(3)).all())
    source = np.ascontiguousarray(source)
    run_rows(
        _three if one_each else _parted, grid.height, source, moves, warp is not None, split.moved, split.factors,
        split.weights, float(grid.x0), float(grid.y0), float(grid.step), m, EDGES.index(edge), out,
    )  # fmt: skip
    return out
