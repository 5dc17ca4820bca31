"""How a step's values meet those before it."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.raster.colour import as_channels


def combined(below: Field, above: Field, mode: str, opacity: float) -> Field:
    """Return `above` combined with `below` at an opacity; alpha of `above` counts as opacity in every mode.

    "add" is about rest: a + b - rest. The result has as many channels as the richer of the two.
    """
    count = max(below.shape[2], above.shape[2])
    below, above = as_channels(below, count), as_channels(above, count)
    share: Field | np.float32 = np.float32(opacity)
    if count == 4:
        share = above[..., 3:] * np.float32(opacity)
    colours = slice(0, 3 if count == 4 else count)
    a, b = below[..., colours], above[..., colours]
    met = _met(a, b, mode)
    out = np.empty_like(below)
    out[..., colours] = a + (met - a) * share
    if count == 4:
        out[..., 3:] = np.maximum(below[..., 3:], share)
    return out


def _met(a: Field, b: Field, mode: str) -> Field:
    if mode == "add":
        return a + b - np.float32(REST)
    if mode == "average":
        return (a + b) * np.float32(0.5)
    if mode == "multiply":
        return a * b
    if mode == "lighten":
        return np.maximum(a, b)
    if mode == "darken":
        return np.minimum(a, b)
    if mode == "difference":
        apart: Field = np.abs(a - b)
        return apart
    return b


def mixed(before: Field, after: Field, opacity: float) -> Field:
    """Return a shaper's result at an opacity over what it was given."""
    if opacity >= 1:
        return after
    count = max(before.shape[2], after.shape[2])
    before, after = as_channels(before, count), as_channels(after, count)
    return before + (after - before) * np.float32(opacity)
