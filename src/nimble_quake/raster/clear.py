"""Maps with clear parts, where values are mixed: what is clear must not count.

A map keeps straight values beside its alpha. Averaging them as they are would draw in the values of clear samples,
which mean nothing. So they are weighted by alpha about the rest level first (premultiplied, as W3C Filter Effects
does with pictures about 0), mixed, and divided by the mixed alpha again.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.raster.grid import Grid

LEAST = np.float32(1e-6)
"""An alpha below this leaves no value: it rests."""


def has_clear(field: Field) -> bool:
    """Return whether any sample of a map is clear, wholly or partly."""
    return field.shape[2] == 4 and bool((field[..., 3] < 1).any())


def weighted(field: Field, rest: float) -> Field:
    """Return a map (H, W, 4) with its values weighted by alpha about the rest level."""
    out = field.copy()
    out[..., :3] = np.float32(rest) + (field[..., :3] - np.float32(rest)) * field[..., 3:]
    return out


def unweighted(field: Field, rest: float) -> Field:
    """Return what `weighted` was given; what has no alpha left rests."""
    out = field.copy()
    alpha = np.maximum(field[..., 3:], LEAST)
    out[..., :3] = np.float32(rest) + (field[..., :3] - np.float32(rest)) / alpha
    out[..., :3][field[..., 3] < LEAST] = rest
    return out


def seen(below: Callable[[Grid], Field], rest: float, look: Callable[[Callable[[Grid], Field]], Field]) -> Field:
    """Return `look(below)`, where a look mixes neighbouring samples; clear ones do not count."""
    clear = False

    def weighed(grid: Grid) -> Field:
        nonlocal clear
        field = below(grid)
        clear = has_clear(field)
        return weighted(field, rest) if clear else field

    found = look(weighed)
    return unweighted(found, rest) if clear else found
