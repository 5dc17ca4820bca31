"""Blocks in depth, seen by a camera, drawn in grey: far ones first, so that nearer ones hide them.

Space: x right, y down (shot pixels about the camera's middle), z towards the eye. The eye stands `depth` in front of
the plane z = 0, which is seen at its own size: a point is seen at depth / (depth - z) of its distance from the middle.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

Points = NDArray[np.float64]

NEAREST = 0.97
"""Blocks that come nearer to the eye than this share of the depth are not drawn."""
FACES = np.array([(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)])
"""Corner numbers of each face, going round; corner n lies at (-/+x, -/+y, -/+z) by its bits 0, 1 and 2."""
NORMALS = np.array([(0, 0, -1), (0, 0, 1), (0, -1, 0), (0, 1, 0), (-1, 0, 0), (1, 0, 0)], np.float64)
SIGNS = np.array([[(n >> k & 1) * 2 - 1 for k in range(3)] for n in range(8)], np.float64)


def camera(tilt: float, swing: float, roll: float) -> NDArray[np.float64]:
    """Return the matrix that turns the scene, degrees: the top away, the right side away, in its own plane."""
    a, b, c = (math.radians(v) for v in (tilt, swing, roll))
    about_x = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    about_y = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    about_z = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
    return np.asarray(about_y @ about_x @ about_z)


def projected(points: Points, depth: float) -> Points:
    """Return where points (..., 3) are seen, (..., 2), shot pixels about the camera's middle."""
    scale = depth / np.maximum(depth - points[..., 2], depth * (1 - NEAREST))
    return np.asarray(points[..., :2] * scale[..., None])


def faces_of(
    middles: Points,
    halves: Points,
    turns: Points,
    greys: NDArray[np.float64],
    view: NDArray[np.float64],
    depth: float,
    light: float,
) -> tuple[Points, NDArray[np.float64]]:
    """Return the faces that are seen, far blocks first: corners (n, 4, 2) and greys (n,).

    middles, halves: (blocks, 3) px; turns: (blocks, 2), degrees about y and about x; greys: (blocks,).
    light: how much darker sides are that look away from a light above the eye.
    """
    a, b = np.radians(turns[:, 0]), np.radians(turns[:, 1])
    zero, one = np.zeros_like(a), np.ones_like(a)
    about_y = np.array([[np.cos(a), zero, np.sin(a)], [zero, one, zero], [-np.sin(a), zero, np.cos(a)]])
    about_x = np.array([[one, zero, zero], [zero, np.cos(b), -np.sin(b)], [zero, np.sin(b), np.cos(b)]])
    own = np.einsum("ijn,jkn->nik", about_y, about_x)
    turned = np.einsum("ij,njk->nik", view, own)
    seen_middles = middles @ view.T
    corners = np.einsum("nik,nck->nci", turned, SIGNS[None] * halves[:, None]) + seen_middles[:, None]
    near = corners[..., 2].max(axis=1) < depth * NEAREST
    order = np.argsort(((seen_middles - (0, 0, depth)) ** 2).sum(axis=1))[::-1]
    order = order[near[order]]
    normals = np.einsum("nik,fk->nfi", turned[order], NORMALS)
    face_middles = corners[order][:, FACES].mean(axis=2)
    shown = (normals * (np.array((0, 0, depth)) - face_middles)).sum(axis=2) > 0
    lamp = np.array((-0.35, -0.6, 0.72)) / np.linalg.norm((-0.35, -0.6, 0.72))
    lit = 1 - light + light * np.clip(normals @ lamp, 0, 1)
    shades = greys[order][:, None] * lit
    return projected(corners[order][:, FACES], depth)[shown], shades[shown]


@kernel(error_model="numpy")
def _filled(quads, greys, out, first, last):
    """Paint convex quads over each other, in order; a border pixel by how far inside its middle lies."""
    width = out.shape[1]
    a, b, c = np.empty(4), np.empty(4), np.empty(4)
    for n in range(quads.shape[0]):
        top, low = quads[n, 0, 1], quads[n, 0, 1]
        area = 0.0
        for k in range(4):
            x0, y0 = quads[n, k, 0], quads[n, k, 1]
            x1, y1 = quads[n, (k + 1) % 4, 0], quads[n, (k + 1) % 4, 1]
            area += x0 * y1 - x1 * y0
            top, low = min(top, y0), max(low, y0)
        begin, end = max(first, int(math.floor(top - 0.5))), min(last, int(math.ceil(low + 0.5)) + 1)
        if begin >= end or abs(area) < 1e-9 or not abs(area) < 1e12:
            continue
        side = 1.0 if area > 0 else -1.0
        for k in range(4):
            x0, y0 = quads[n, k, 0], quads[n, k, 1]
            dx, dy = quads[n, (k + 1) % 4, 0] - x0, quads[n, (k + 1) % 4, 1] - y0
            length = math.sqrt(dx * dx + dy * dy)
            if length < 1e-9:
                a[k], b[k], c[k] = 0.0, 0.0, 1e9
            else:
                a[k], b[k] = -side * dy / length, side * dx / length
                c[k] = -(a[k] * x0 + b[k] * y0)
        grey = np.float32(greys[n])
        for j in range(begin, end):
            y, row = j + 0.5, out[j]
            left, right = 0.0, float(width)
            inner, outer = -1e9, 1e9
            for k in range(4):
                rest = b[k] * y + c[k]
                if a[k] > 1e-9:
                    left = max(left, (-0.5 - rest) / a[k])
                    inner = max(inner, (0.5 - rest) / a[k])
                elif a[k] < -1e-9:
                    right = min(right, (-0.5 - rest) / a[k])
                    outer = min(outer, (0.5 - rest) / a[k])
                elif rest < -0.5:
                    right = -1.0
                elif rest < 0.5:
                    outer = -1e9
            i0, i1 = max(0, int(math.floor(left - 0.5))), min(width, int(math.ceil(right + 0.5)))
            if i0 >= i1:
                continue
            m0 = max(i0, int(math.ceil(inner - 0.5))) if inner < i1 else i1
            m1 = max(i0, min(i1, int(math.floor(outer - 0.5)) + 1)) if outer > i0 else i0
            if m0 < m1:
                for i in range(m0, m1):
                    row[i] = grey
            else:
                m0 = m1 = i0
            for n_border in range((m0 - i0) + (i1 - m1)):
                i = i0 + n_border if n_border < m0 - i0 else m1 + n_border - (m0 - i0)
                x = i + 0.5
                cover = 1.0
                for k in range(4):
                    d = a[k] * x + b[k] * y + c[k] + 0.5
                    if d < 1.0:
                        cover *= d if d > 0.0 else 0.0
                if cover > 0.0:
                    row[i] += (grey - row[i]) * np.float32(cover)


def painted(quads: Points, greys: NDArray[np.float64], grid: Grid, middle: tuple[float, float], ground: float) -> Field:
    """Return faces painted over a ground, (H, W, 1). quads: (n, 4, 2), shot pixels about `middle`."""
    out = np.full(grid.shape, ground, np.float32)
    if len(quads):
        at = (quads + np.array(middle) - (grid.x0, grid.y0)) * grid.scale
        run_rows(_filled, grid.shape[0], np.ascontiguousarray(at), greys, out)
    return out[..., None]
