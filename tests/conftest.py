"""What all tests share: a home of their own, an engine, and NumPy that raises on invalid numbers."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from nimble_quake.render.job import Engine

settings.register_profile("ours", deadline=None, max_examples=40, suppress_health_check=list(HealthCheck))
settings.load_profile("ours")


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
