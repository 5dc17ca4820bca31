"""Growing and shrinking: grey dilation and erosion by a disc, a square or a line."""

from __future__ import annotations

import math

import cv2
import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.raster.rows import run_rows

WIDEST = 12
"""A disc wider than this, in samples, is made of several smaller ones, one after another."""


def morphed(field: Field, way: str, form: str, radius: float) -> Field:
    """Return the field grown, shrunk, opened or closed; radius in samples, the border held."""
    steps = {"grow": (True,), "shrink": (False,), "open": (False, True), "close": (True, False)}[way]
    out = field
    for grows in steps:
        low = math.floor(radius)
        share = radius - low
        near = _by(out, form, low, grows)
        out = near if share < 1e-3 else near + (_by(out, form, low + 1, grows) - near) * np.float32(share)
    return out if out is not field else field.copy()


def _by(field: Field, form: str, radius: int, grows: bool) -> Field:
    if radius <= 0:
        return field
    if form == "round":
        parts = -(-radius // WIDEST)
        sizes = [radius // parts + (n < radius % parts) for n in range(parts)]
        kernels = [cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * n + 1, 2 * n + 1)) for n in sizes]
    else:
        kernels = []
        if form != "down":
            kernels.append(np.ones((1, 2 * radius + 1), np.uint8))
        if form != "across":
            kernels.append(np.ones((2 * radius + 1, 1), np.uint8))
    for kernel in kernels:
        field = _once(field, kernel, grows)
    return field


def _once(field: Field, kernel: np.ndarray, grows: bool) -> Field:
    run = cv2.dilate if grows else cv2.erode
    reach = kernel.shape[0] // 2
    out = np.empty_like(field)

    def band(first: int, last: int) -> None:
        low, high = max(0, first - reach), min(field.shape[0], last + reach)
        got = run(np.ascontiguousarray(field[low:high]), kernel, borderType=cv2.BORDER_REPLICATE)
        out[first:last] = got.reshape(high - low, *field.shape[1:])[first - low : last - low]

    run_rows(band, field.shape[0])
    return out
