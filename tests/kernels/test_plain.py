"""The way round machine code: where it cannot be called our way, numba's own functions and plain threads take over."""

from __future__ import annotations

import logging
import os
import subprocess
import sys

import numpy as np
import pytest

from conftest import ALL, SEED
from nimble_quake.kernels import fitting, kernel, loader
from nimble_quake.raster.threads.rows import begin_rows, run_rows

CODE = """
import logging, random, sys
logging.basicConfig()
from nimble_quake.kernels import fitting
from nimble_quake.session.warm_up import works

assert fitting.plain()
walks = works()
for walk in random.Random(sys.argv[2]).sample(walks, round(float(sys.argv[1]) * len(walks))):
    walk()
"""


@kernel()
def _doubled(values, out, first, last):
    for row in range(first, last):
        for column in range(values.shape[1]):
            out[row, column] = values[row, column] * 2


@pytest.fixture
def plain(monkeypatch):
    """Kernels as numba has them, in this process."""
    monkeypatch.setenv(fitting.ASKED, "1")
    fitting.plain.cache_clear()
    yield
    monkeypatch.undo()
    fitting.plain.cache_clear()


def results() -> list[np.ndarray]:
    """What a kernel makes of a small and a large array, called, run over rows, and begun."""
    found = []
    for height in (3, 700):
        values = np.arange(height * 640, dtype=np.float32).reshape(height, 640)
        for run in (_call, run_rows, begin_rows):
            out = np.zeros_like(values)
            begun = run(_doubled, height, values, out)
            if begun is not None:
                begun.finish()
            found.append(out)
    return found


def _call(of, height, values, out):
    of(values, out, 0, height)


def test_both_ways_make_the_same(plain, monkeypatch, caplog):
    with caplog.at_level(logging.WARNING):
        by_numba = results()
    assert [record.message for record in caplog.records] == [
        "kernels are compiled and run by numba itself: NIMBLE_QUAKE_PLAIN_KERNELS asks for it"
    ]
    monkeypatch.delenv(fitting.ASKED)
    fitting.plain.cache_clear()
    for one, other in zip(by_numba, results(), strict=True):
        assert np.array_equal(one, other)


def test_what_cannot_be_loaded_is_compiled_by_numba(monkeypatch, caplog):
    def refused(symbol: str) -> int:
        raise RuntimeError("no such target")

    monkeypatch.setattr(loader, "address_of", refused)
    fitting.plain.cache_clear()
    try:
        with caplog.at_level(logging.WARNING):
            assert fitting.plain()
        assert "LLVM cannot load machine code (RuntimeError: no such target)" in caplog.text
    finally:
        fitting.plain.cache_clear()


@pytest.mark.skipif(not ALL, reason="numba compiles every kernel anew, minutes of it: `make test-all`")
def test_operators_and_samples_run_without_machine_code_of_ours(tmp_path):
    """All of them, each in its settings."""
    words = ["1", SEED]
    environment = {**os.environ, fitting.ASKED: "1", "XDG_CACHE_HOME": str(tmp_path)}
    line = [sys.executable, "-c", CODE, *words]
    done = subprocess.run(line, env=environment, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "kernels are compiled and run by numba itself" in done.stderr
