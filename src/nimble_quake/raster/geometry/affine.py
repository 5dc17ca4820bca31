"""Affine maps as six numbers: u = a x + b y + c, v = d x + e y + f."""

from __future__ import annotations

import math
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nimble_quake.conventions import Affine, Degrees

Number = TypeVar("Number", float, NDArray[np.float64])
IDENTITY: Affine = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0)


def compose(first: Affine, second: Affine) -> Affine:
    """Return the map that applies `first`, then `second`."""
    a, b, c, d, e, f = first
    p, q, r, s, t, u = second
    return (p * a + q * d, p * b + q * e, p * c + q * f + r, s * a + t * d, s * b + t * e, s * c + t * f + u)


def shift(x: float, y: float) -> Affine:
    """Return a move by (x, y)."""
    return (1.0, 0.0, x, 0.0, 1.0, y)


def stretch(x: float, y: float) -> Affine:
    """Return a scale about the origin."""
    return (x, 0.0, 0.0, 0.0, y, 0.0)


def turn(degrees: Degrees) -> Affine:
    """Return a turn about the origin, clockwise on screen."""
    quarter = round(degrees / 90)
    if abs(degrees - 90 * quarter) < 1e-12:
        cos, sin = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[quarter % 4]
    else:
        cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return (cos, -sin, 0.0, sin, cos, 0.0)


def inverse(m: Affine) -> Affine | None:
    """Return the map back, or None where everything is squeezed to nothing."""
    a, b, c, d, e, f = m
    det = a * e - b * d
    if abs(det) < 1e-12:
        return None
    p, q, s, t = e / det, -b / det, -d / det, a / det
    return (p, q, -(p * c + q * f), s, t, -(s * c + t * f))


def apply(m: Affine, x: Number, y: Number) -> tuple[Number, Number]:
    """Return where (x, y) goes."""
    a, b, c, d, e, f = m
    return a * x + b * y + c, d * x + e * y + f


def bounds(m: Affine, left: float, top: float, right: float, bottom: float) -> tuple[float, float, float, float]:
    """Return the upright box round a mapped rectangle."""
    corners = [apply(m, x, y) for x in (left, right) for y in (top, bottom)]
    xs, ys = [x for x, _ in corners], [y for _, y in corners]
    return min(xs), min(ys), max(xs), max(ys)


def scales(m: Affine) -> tuple[float, float]:
    """Return how much lengths along x and along y grow."""
    return math.hypot(m[0], m[3]), math.hypot(m[1], m[4])
