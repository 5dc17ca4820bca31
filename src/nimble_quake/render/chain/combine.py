"""How a step's values meet those before it."""

from __future__ import annotations

import numpy as np

from nimble_quake.conventions import REST, Field
from nimble_quake.kernels import kernel
from nimble_quake.raster.colour.channels import as_channels
from nimble_quake.raster.threads.rows import in_bands, run_rows

MODES = ("over", "add", "average", "multiply", "lighten", "darken", "difference", "screen", "replace")
FULL = np.ones((1, 1, 1), np.float32)


@kernel(error_model="numpy")
def _combine(below, above, cover, covered, opacity, mode, out, first, last):
    channels = below.shape[2]
    colours = 3 if channels == 4 else channels
    rest, half = np.float32(REST), np.float32(0.5)
    whole = np.float32(opacity)
    for j in range(first, last):
        for i in range(below.shape[1]):
            fraction = whole
            if covered:
                fraction *= cover[j, i, 0]
            if channels == 4:
                if mode == 8:
                    out[j, i, 3] = below[j, i, 3] + (above[j, i, 3] - below[j, i, 3]) * fraction
                else:
                    fraction *= above[j, i, 3]
                    out[j, i, 3] = max(below[j, i, 3], fraction)
            for k in range(colours):
                a, b = below[j, i, k], above[j, i, k]
                met = b
                if mode == 1:
                    met = a + b - rest
                elif mode == 2:
                    met = (a + b) * half
                elif mode == 3:
                    met = a * b
                elif mode == 4:
                    met = max(a, b)
                elif mode == 5:
                    met = min(a, b)
                elif mode == 6:
                    met = abs(a - b)
                elif mode == 7:
                    met = a + b - a * b
                out[j, i, k] = a + (met - a) * fraction


def combined(below: Field, above: Field, mode: str, opacity: float, cover: Field | None = None) -> Field:
    """Return `above` combined with `below` at an opacity; alpha and cover of `above` count as opacity in every mode.

    "add" is about rest: a + b - rest. The result has as many channels as the richer of the two.
    """
    count = max(below.shape[2], above.shape[2])
    below, above = (np.ascontiguousarray(as_channels(field, count)) for field in (below, above))
    out = np.empty_like(below)
    coverage = FULL if cover is None else cover
    run_rows(_combine, out.shape[0], below, above, coverage, cover is not None, float(opacity), MODES.index(mode), out)
    return out


def mixed(before: Field, after: Field, opacity: float, mask: Field | None = None) -> Field:
    """Return a shaper's result at an opacity, and where a mask (H, W, 1) lets it, over what it was given."""
    if opacity >= 1 and mask is None:
        return after
    count = max(before.shape[2], after.shape[2])
    before, after = as_channels(before, count), as_channels(after, count)
    if mask is None:
        return in_bands(lambda own, made: own + (made - own) * np.float32(opacity), before, after)
    return in_bands(lambda own, made, at: own + (made - own) * (at * np.float32(opacity)), before, after, mask)
