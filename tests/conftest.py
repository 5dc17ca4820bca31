"""What all tests share: a home of their own, an engine, and NumPy that raises on invalid numbers."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from numba.core import caching

from nimble_quake.render.job import Engine

settings.register_profile("ours", deadline=None, max_examples=40, suppress_health_check=list(HealthCheck))
settings.load_profile("ours")


def pytest_configure(config: pytest.Config) -> None:
    """Test processes that run side by side read compiled kernels but never write any.

    Two processes that compile the same kernel for different arrays at once give both results one file name; a third
    that reads it then calls the wrong one. `make setup` compiles what is usual, in one process.
    """
    if hasattr(config, "workerinput"):
        caching.Cache.save_overload = lambda self, signature, data: None  # type: ignore[method-assign]


@pytest.fixture(autouse=True)
def own_home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Preferences and autosaves of a test stay in its own folder."""
    monkeypatch.setenv("NIMBLE_QUAKE_HOME", str(tmp_path / "home"))


@pytest.fixture(autouse=True)
def strict_numpy() -> Iterator[None]:
    """Invalid numbers and overflows are errors."""
    with np.errstate(invalid="raise", over="raise", divide="raise"):
        yield


@pytest.fixture
def engine() -> Engine:
    """An engine with nothing remembered."""
    return Engine()
