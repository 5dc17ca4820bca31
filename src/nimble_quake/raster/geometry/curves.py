"""Curves through points."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def monotone(points: Sequence[tuple[float, float]], xs: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return a smooth curve without overshoot through points at places xs, held beyond its ends.

    The monotone cubic of Fritsch and Carlson (1980), as SciPy's PCHIP has it.
    """
    places: dict[float, float] = {}
    for x, y in sorted(points):
        places[x if not places or x > max(places) + 1e-6 else max(places) + 1e-6] = y
    if len(places) < 2:
        return np.full(len(xs), next(iter(places.values()), 0.0))
    from scipy.interpolate import PchipInterpolator  # slow to load: only when a curve is there

    curve = PchipInterpolator(list(places), list(places.values()))
    return np.asarray(curve(np.clip(xs, min(places), max(places))), np.float64)
