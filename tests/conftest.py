"""What all tests share: a home of their own, an engine, NumPy that raises on invalid numbers, and samples of long rows.

A test marked `sampled(n)` runs n of its combinations, drawn by a seed; with NIMBLE_QUAKE_TEST_ALL (`make test-all`)
all of them.
"""

from __future__ import annotations

import os
import random
from collections.abc import Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import pytest
from hypothesis import HealthCheck, settings

from nimble_quake.render.engine import Engine

ALL = bool(os.environ.get("NIMBLE_QUAKE_TEST_ALL"))
SEED = os.environ.get("NIMBLE_QUAKE_TEST_SEED", "1")
LONGEST = ("tests/farm/test_farm", "tests/session/test_warm_up", "tests/session/test_queue", "tests/desktop/test_smoke")
examples = 60 if ALL else 7
settings.register_profile("ours", deadline=None, max_examples=examples, suppress_health_check=list(HealthCheck))
settings.load_profile("ours")


def pytest_report_header() -> str:
    """Say what is drawn, so that a run can be done again."""
    return "all combinations" if ALL else f"combinations drawn by NIMBLE_QUAKE_TEST_SEED={SEED}"


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Leave out those combinations of sampled tests that were not drawn; begin with what takes longest.

    So the processes that share the tests end together.
    """
    items.sort(key=lambda item: not item.nodeid.startswith(LONGEST))
    if ALL:
        return
    rows: dict[str, list[pytest.Item]] = {}
    for item in items:
        if item.get_closest_marker("sampled") is not None:
            rows.setdefault(item.nodeid.partition("[")[0], []).append(item)
    left: set[pytest.Item] = set()
    for name, row in rows.items():
        marker = row[0].get_closest_marker("sampled")
        assert marker is not None
        drawn = random.Random(f"{SEED} {name}").sample(row, min(marker.args[0], len(row)))
        left |= set(row) - set(drawn)
    if left:
        config.hook.pytest_deselected(items=[item for item in items if item in left])
        items[:] = [item for item in items if item not in left]


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
