"""Sparing numba what it does not need here."""

from __future__ import annotations

import sys
from importlib import import_module

BLAS = "scipy.linalg"


def spare_linear_algebra() -> None:
    """Let numba do without SciPy's linear algebra: an eighth of a second to load, and no kernel of ours uses it.

    It looks for it when the first kernel is compiled; where it finds none, it goes on without.
    """
    if BLAS in sys.modules or "numba.np.arraymath" in sys.modules:
        return
    sys.modules[BLAS] = None  # type: ignore[assignment]  # None: it is not there (importlib)
    try:
        import_module("numba.np.arraymath")
    finally:
        del sys.modules[BLAS]
