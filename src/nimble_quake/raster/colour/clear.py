"""Maps with clear parts, where values are mixed: what is clear must not count.

A map keeps straight values beside its alpha. Averaging them as they are would draw in the values of clear samples,
which mean nothing. So they are weighted by alpha about the rest level first (premultiplied, as W3C Filter Effects
does with pictures about 0), mixed, and divided by the mixed alpha again.
"""

from __future__ import annotations

from collections.abc import Callable
from weakref import ref

import numpy as np

from nimble_quake.conventions import Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.geometry.grid import Grid
from nimble_quake.raster.threads.rows import run_rows

LEAST = np.float32(1e-6)
"""An alpha below this leaves no value: it rests."""


@kernel(error_model="numpy")
def _rows_with_clear(field, found, first, last):
    for j in range(first, last):
        least = np.float32(1)
        for i in range(field.shape[1]):
            least = min(least, field[j, i, 3])
        found[j] = least < 1
        if found[j]:
            return


def has_clear(field: Field) -> bool:
    """Return whether any sample of a map is clear, wholly or partly."""
    if field.shape[2] != 4:
        return False
    found = np.zeros(len(field), np.bool_)
    run_rows(_rows_with_clear, len(field), field, found)
    return bool(found.any())


_looked_at: dict[int, tuple[ref[Field], bool]] = {}


def has_clear_for_good(field: Field) -> bool:
    """As `has_clear`, of a finished map or picture, which nobody writes to any more: it is looked at once."""
    if field.shape[2] != 4:
        return False
    number, known = id(field), _looked_at.get(id(field))
    if known is not None and known[0]() is field:
        return known[1]
    found = has_clear(field)
    _looked_at[number] = ref(field, lambda _: _looked_at.pop(number, None)), found
    return found


@kernel(error_model="numpy")
def _weighted(field, rest, out, first, last):
    for j in range(first, last):
        for i in range(field.shape[1]):
            alpha = field[j, i, 3]
            for k in range(3):
                out[j, i, k] = rest + (field[j, i, k] - rest) * alpha
            out[j, i, 3] = alpha


@kernel(error_model="numpy", slp=True)
def _unweighted(field, rest, out, first, last):
    i1, i2, i3 = np.uint64(1), np.uint64(2), np.uint64(3)
    for j in range(first, last):
        row, made = field[j].reshape(-1), out[j].reshape(-1)
        for i in range(field.shape[1]):
            n = np.uint64(4 * i)
            alpha = row[n + i3]
            per = max(alpha, LEAST)
            a, b = (row[n] - rest) / per, (row[n + i1] - rest) / per  # the four in one instruction
            c, d = (row[n + i2] - rest) / per, (alpha - rest) / per
            if alpha < LEAST:
                a, b, c, d = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            made[n], made[n + i1], made[n + i2], made[n + i3] = rest + a, rest + b, rest + c, rest + d
            made[n + i3] = alpha


def weighted(field: Field, rest: float) -> Field:
    """Return a map (H, W, 4) with its values weighted by alpha about the rest level."""
    out = np.empty(field.shape, np.float32)
    run_rows(_weighted, field.shape[0], field, np.float32(rest), out)
    return out


def unweighted(field: Field, rest: float) -> Field:
    """Return what `weighted` was given; what has no alpha left rests."""
    out = np.empty(field.shape, np.float32)
    run_rows(_unweighted, field.shape[0], np.ascontiguousarray(field), np.float32(rest), out)
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
